import { memo, useId, useMemo, type ReactNode } from "react";
import type { Calls } from "../../../api/client";
import { Player, usePlayer } from "../stage/player";
import { nearest } from "./span";
import { cssColor } from "../../../ui/color";
import { written, fixed } from "../../../ui/written";

export type Curve = Calls["curves_answer"]["curves"][number];
export type Lane = { curve: Curve; name: string; unit: string; band?: { lo?: number; hi?: number } };

export const left = 78;
export const laneHeight = 50;
export const rows = { ruler: 14, flags: 30, phase: 70, leftFoot: 98, rightFoot: 122, curves: 148 };
export const none = -1e8;

/** scaleOf is the range of a curve that is drawn, with room. */
export function scaleOf(c: Curve): [number, number] {
  let lo = Infinity;
  let hi = -Infinity;
  for (const v of c.x) {
    if (v < none) continue;
    if (v < lo) lo = v;
    if (v > hi) hi = v;
  }
  if (lo > hi) return [0, 1];
  const room = Math.max(0.08 * (hi - lo), 1e-3 * Math.abs(hi) + 1e-6);
  return [lo - room, hi + room];
}

export const tenth = (v: number) => Math.round(v * 10) / 10;

/** CurveLane: one number over time, its 95 % ribbon, its band, and the single
 * points where they are shown. Only what is in sight is drawn, never more than one
 * place a pixel. */
export const CurveLane = memo(function CurveLane({
  lane,
  y,
  times,
  t0,
  t1,
  width,
}: {
  lane: Lane;
  y: number;
  times: number[];
  t0: number;
  t1: number;
  width: number;
}) {
  const { curve, name, unit, band } = lane;
  const h = laneHeight - 8;
  const [lo, hi] = useMemo(() => scaleOf(curve), [curve]);
  const X = (t: number) => left + ((t - t0) / (t1 - t0)) * width;
  const Y = (v: number) => y + h - ((Math.min(hi, Math.max(lo, v)) - lo) / (hi - lo)) * h;
  let line = "";
  const up: string[] = [];
  const low: string[] = [];
  const raw: ReactNode[] = [];
  let pen = false;
  const first = Math.max(0, nearest(times, t0) - 1);
  const last = Math.min(times.length - 1, nearest(times, t1) + 1);
  const every = Math.max(1, Math.ceil((last - first) / width));
  let ribbon = "";
  const close = () => {
    if (up.length > 1) ribbon += "M" + up.join("L") + "L" + low.reverse().join("L") + "Z";
    up.length = 0;
    low.length = 0;
  };
  for (let f = first; f <= last; f += every) {
    const v = curve.x[f];
    if (v === undefined || v < none) {
      pen = false;
      close();
      continue;
    }
    const at = tenth(X(times[f]));
    line += (pen ? "L" : "M") + at + " " + tenth(Y(v));
    pen = true;
    up.push(at + " " + tenth(Y(v + curve.half95[f])));
    low.push(at + " " + tenth(Y(v - curve.half95[f])));
    const r = curve.raw?.[f];
    if (r !== undefined && r > none && every === 1)
      raw.push(<circle key={f} cx={at} cy={Y(r)} r={1.5} fill={cssColor("amber")} />);
  }
  close();
  const digits = hi - lo < 5 ? 1 : 0;
  return (
    <g data-lane={curve.id}>
      <path d={`M${left} ${y + h}H${left + width}`} stroke={cssColor("seam")} strokeWidth={0.8} />
      {band && (band.lo !== undefined || band.hi !== undefined) && (
        <rect
          x={left}
          width={width}
          y={Y(band.hi ?? hi)}
          height={Math.max(1, Y(band.lo ?? lo) - Y(band.hi ?? hi))}
          fill={cssColor("moss-faint")}
          opacity={0.7}
        />
      )}
      <path d={ribbon} fill={cssColor("chalk")} fillOpacity={0.13} shapeRendering="optimizeSpeed" />
      <path d={line} fill="none" stroke={cssColor("chalk")} strokeWidth={1.5} strokeLinejoin="round" />
      {raw}
      <text x={4} y={y + h / 2} style={{ fontSize: 11 }} fill={cssColor("quiet")}>
        {name.length > 12 ? name.slice(0, 11) + "…" : name}
      </text>
      <text x={4} y={y + h / 2 + 12} style={{ fontSize: 10 }} fill={cssColor("quiet")}>
        {unit}
      </text>
      <text x={left - 5} y={y + 9} style={{ fontSize: 9.5 }} fill={cssColor("quiet")} textAnchor="end">
        {written(hi.toFixed(digits))}
      </text>
      <text x={left - 5} y={y + h} style={{ fontSize: 9.5 }} fill={cssColor("quiet")} textAnchor="end">
        {written(lo.toFixed(digits))}
      </text>
      {curve.reason && (
        <text x={left + 8} y={y + h / 2 + 4} style={{ fontSize: 11 }} fill={cssColor("quiet")}>
          {curve.reason}
        </text>
      )}
    </g>
  );
});

/** Cursor moves by itself, so that playing does not draw the score anew; it says
 * what each curve is here. */
export function Cursor({
  player,
  x,
  h,
  w,
  curves,
}: {
  player: Player;
  x(frame: number): number;
  h: number;
  w: number;
  curves: Lane[];
}) {
  const frame = usePlayer(player, (s) => s.frame);
  const at = x(frame);
  if (at < left - 1 || at > w) return null;
  const flip = at > w - 110;
  return (
    <svg width="100%" height={h + 8} style={{ position: "absolute", inset: 0, pointerEvents: "none" }}>
      <path d={`M${at} 18V${h + 4}`} stroke={cssColor("clay")} strokeWidth={1.8} />
      <path d={`M${at - 5} 17h10l-5 7z`} fill={cssColor("clay")} />
      {curves.map((s, i) => {
        const v = s.curve.x[frame];
        if (v === undefined || v < none) return null;
        const digits = s.curve.half95[frame] < 1 ? 1 : 0;
        return (
          <text
            key={s.curve.id}
            x={at + (flip ? -7 : 7)}
            y={rows.curves + i * laneHeight + 12}
            textAnchor={flip ? "end" : "start"}
            style={{ fontSize: 11.5, fontWeight: 650, paintOrder: "stroke" }}
            stroke={cssColor("panel")}
            strokeWidth={3}
            fill={cssColor("chalk")}
          >
            {written(v.toFixed(digits))} {s.unit} ±{fixed(s.curve.half95[frame], digits)}
          </text>
        );
      })}
    </svg>
  );
}

export function Bar({
  x0,
  x1,
  y,
  fill,
  text,
  short = "",
  ink,
  whisker = 0,
  small,
  round,
  open,
}: {
  x0: number;
  x1: number;
  y: number;
  fill: string;
  text: string;
  short?: string;
  ink: string;
  whisker?: number;
  small?: boolean;
  round?: boolean;
  /** the end of which nobody knows when it was: it fades out */
  open?: "from" | "to" | "both";
}) {
  const w = Math.max(2, x1 - x0);
  const shade = useId();
  const fades = open && { from: [0.1, 1, 1], to: [1, 1, 0.1], both: [0.1, 0.75, 0.1] }[open];
  const fits = text.length * (small ? 5.4 : 6.2) + 8 < w ? text : short.length * 6.4 + 4 < w ? short : "";
  return (
    <g>
      {fades && (
        <linearGradient id={shade}>
          {fades.map((opacity, i) => (
            <stop key={i} offset={i / (fades.length - 1)} stopColor={fill} stopOpacity={opacity} />
          ))}
        </linearGradient>
      )}
      <rect x={x0} y={y} width={w} height={17} rx={round ? 7 : 2} fill={fades ? `url(#${shade})` : fill} />
      {fits && (
        <text
          x={x0 + w / 2}
          y={y + 12.5}
          style={{ fontSize: small ? 10 : 11, fontWeight: small ? 400 : 600 }}
          fill={ink}
          textAnchor="middle"
        >
          {fits}
        </text>
      )}
      {whisker > 0.5 && (
        <path
          d={`M${x0 - whisker} ${y - 2}h${2 * whisker}M${x1 - whisker} ${y - 2}h${2 * whisker}`}
          stroke={cssColor("chalk")}
          strokeWidth={1.4}
        />
      )}
    </g>
  );
}
