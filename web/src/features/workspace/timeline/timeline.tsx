import { Box } from "@chakra-ui/react";
import {
  memo,
  useEffect,
  useImperativeHandle,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type PointerEvent,
  type ReactNode,
  type Ref,
} from "react";
import type { Model, Report } from "../../../api/client";
import { Player, usePlayer } from "../stage/player";
import { following, moved, nearest, ticks, zoomed, type Span } from "./span";
import { Bar, Cursor, CurveLane, laneHeight, left, rows, tenth, type Lane } from "./lanes";
import { cssColor } from "../../../ui/color";
import { t } from "../../../texts/texts";
import { written } from "../../../ui/written";

/** Handle is what keys and buttons outside may do with the timeline. */
export type Handle = { zoom(by: number): void; whole(): void; svg(): SVGSVGElement | null };

type Props = {
  ref?: Ref<Handle>;
  model: Model;
  positions: Report["positions"];
  phases?: Report["phases"];
  contacts?: Report["contacts"];
  glimpses?: Report["glimpses"];
  flags: Record<string, number>; // the coach's own
  curves: Lane[];
  doubtful: number[]; // frames with points to look at
  player: Player;
  known: boolean; // true time is known
  chosen: string | null;
  onChoose(position: string): void;
  onFlag(position: string, frame: number, final: boolean): void;
};

/** Timeline: ruler, flags, phases, a bar for each foot while it is down, and curves
 * with their doubt. The cursor runs over all of them; a flag can be dragged; the
 * wheel zooms at the pointer. */
export const Timeline = memo(function Timeline({
  ref,
  model,
  positions,
  phases,
  contacts,
  glimpses,
  flags,
  curves,
  doubtful,
  player,
  known,
  chosen,
  onChoose,
  onFlag,
}: Props) {
  const box = useRef<HTMLDivElement>(null);
  const sheet = useRef<SVGSVGElement>(null);
  const [w, setW] = useState(836);
  const [span, setSpan] = useState<Span | null>(null); // seconds, null is all
  const [drag, setDrag] = useState<{ flag: string; frame: number; from: number } | null>(null);
  const pressed = useRef<false | "cursor" | "shift">(false);
  const shiftFrom = useRef<{ x: number; span: [number, number] } | null>(null);
  const [range, setRange] = useState<[number, number] | null>(null);
  const loop = usePlayer(player, (s) => s.loop);
  useLayoutEffect(() => {
    const see = new ResizeObserver(() => setW(box.current!.clientWidth));
    see.observe(box.current!);
    return () => see.disconnect();
  }, []);

  const times = player.times;
  const end = times.at(-1) || 1;
  const [t0, t1] = span ?? [0, end];
  const width = w - left - 14;
  const bottom = rows.curves + curves.length * laneHeight;
  const xt = (t: number) => left + ((t - t0) / (t1 - t0)) * width;
  const x = (frame: number) => xt(times[Math.max(0, Math.min(times.length - 1, frame))] ?? 0);
  const frameAt = (px: number) => nearest(times, t0 + ((px - left) / width) * (t1 - t0));
  const px = (e: { clientX: number }) => e.clientX - box.current!.getBoundingClientRect().left;

  const zoomAt = (by: number, t: number) => setSpan((s) => zoomed(s, end, times.length, by, t));
  useImperativeHandle(ref, () => ({
    zoom: (by) => zoomAt(by, times[player.get().frame] ?? 0),
    whole: () => setSpan(null),
    svg: () => sheet.current,
  }));
  useEffect(() => {
    const el = box.current!;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      if (e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY)) {
        const d = (e.deltaX || e.deltaY) / width;
        setSpan((s) => s && moved(s, d * (s[1] - s[0]), end));
      } else zoomAt(Math.exp(-e.deltaY / 320), t0 + ((px(e) - left) / width) * (t1 - t0));
    };
    el.addEventListener("wheel", wheel, { passive: false });
    return () => el.removeEventListener("wheel", wheel);
  });
  // Stepping out of sight brings the timeline along.
  useEffect(
    () =>
      player.subscribe(() => {
        const t = times[player.get().frame];
        setSpan((s) => following(s, t, end));
      }),
    [player, times, end],
  );

  const zeroFlag = flags.move ?? flags.set ?? positions.find((p) => p.id === "move")?.frame ?? 0;
  const zero = times[zeroFlag] ?? 0;
  const ruler = ticks([t0, t1], zero, width);
  const lines: ReactNode[] = ruler.at.map((tick) => (
    <g key={tick.toFixed(4)}>
      <path
        d={`M${xt(tick + zero)} ${rows.ruler + 4}V${bottom}`}
        stroke={cssColor("seam")}
        strokeWidth={tick === 0 ? 1.4 : 0.6}
        shapeRendering="crispEdges"
      />
      <text x={xt(tick + zero)} y={rows.ruler} style={{ fontSize: 10.5 }} fill={cssColor("quiet")} textAnchor="middle">
        {tick === 0 ? t("0 s") : written((tick > 0 ? "+" : "") + tick.toFixed(ruler.digits))}
      </text>
    </g>
  ));

  // Flags of the coach, and those that the tool found: hollow until taken over.
  const places = useMemo(() => {
    const by = new Map(positions.map((p) => [p.id, p]));
    return model.positions
      .flatMap((p) => {
        const own = drag?.flag === p.id ? drag.frame : flags[p.id];
        const found = by.get(p.id);
        const frame = own !== undefined ? own : found && found.source !== "coach" ? found.frame : undefined;
        return frame === undefined || frame < 0
          ? []
          : [{ p, frame, own: own !== undefined, sure: own !== undefined ? 1 : (found?.confidence ?? 0) }];
      })
      .sort((a, b) => a.frame - b.frame);
  }, [model, positions, flags, drag]);
  // One mark a pixel is enough, as one path.
  let doubtMarks = "";
  let before = -1;
  for (const f of doubtful) {
    const at = Math.round(x(f));
    if (at < left || at > w || at === before) continue;
    doubtMarks += `M${at} ${rows.ruler + 4}v6`;
    before = at;
  }
  const lastEnd = [-1e9, -1e9];
  const named = places
    .map((q) => ({ ...q, at: x(q.frame) }))
    .filter((q) => q.at > left - 2 && q.at < w)
    .map((q) => {
      const row = lastEnd[0] < q.at - 2 ? 0 : lastEnd[1] < q.at - 2 ? 1 : -1;
      if (row >= 0) lastEnd[row] = q.at + q.p.short.length * 5.8 + 12;
      return { ...q, row };
    });

  const down = (e: PointerEvent<HTMLDivElement>) => {
    if (e.button > 1) return;
    const at = px(e);
    const y = e.clientY - box.current!.getBoundingClientRect().top;
    box.current!.setPointerCapture(e.pointerId);
    if (e.button === 1) {
      pressed.current = "shift";
      shiftFrom.current = { x: at, span: [t0, t1] };
      return;
    }
    pressed.current = "cursor";
    const wide = e.pointerType === "touch" ? 8 : 0; // a finger is wider than a pointer
    if (y > rows.flags - 12 - wide && y < rows.phase - 6 + wide) {
      const near = named
        .map((n) => ({ n, d: at - n.at }))
        .filter(({ d }) => (e.pointerType === "touch" ? d > -20 && d < 34 : d > -6 && d < 14))
        .sort((a, b) => Math.abs(a.d) - Math.abs(b.d))[0];
      if (near) {
        onChoose(near.n.p.id);
        player.pause();
        player.jump(near.n.frame);
        setDrag({ flag: near.n.p.id, frame: near.n.frame, from: near.n.frame });
        return;
      }
    }
    player.pause();
    if (y < rows.ruler + 6) {
      const f = frameAt(at);
      setRange([f, f]);
    } else player.jump(frameAt(at));
  };
  const drawn = (e: PointerEvent<HTMLDivElement>) => {
    if (!pressed.current) return;
    if (pressed.current === "shift" && shiftFrom.current) {
      const { x: from, span: s } = shiftFrom.current;
      if (span) setSpan(moved(s, (-(px(e) - from) / width) * (s[1] - s[0]), end));
      return;
    }
    const f = frameAt(px(e));
    if (drag) {
      if (f === drag.frame) return;
      setDrag({ ...drag, frame: f });
      player.jump(f);
      onFlag(drag.flag, f, false);
    } else if (range) setRange([range[0], f]);
    else player.jump(f);
  };
  const up = () => {
    pressed.current = false;
    if (drag && drag.frame !== drag.from) onFlag(drag.flag, drag.frame, true);
    if (range) player.setLoop(range[0] === range[1] ? null : [Math.min(...range), Math.max(...range)]);
    setDrag(null);
    setRange(null);
  };

  const shade = range && range[0] !== range[1] ? ([Math.min(...range), Math.max(...range)] as const) : loop;
  const clip = (v: number) => Math.max(left - 4, Math.min(w, v));
  const footBar = (b: { foot: string; from: number; to: number }) => {
    const right = b.foot === "right";
    const y = right ? rows.rightFoot : rows.leftFoot;
    return {
      x0: clip(x(b.from)),
      x1: clip(x(b.to)),
      y,
      fill: cssColor(right ? "sky" : "clay"),
      ink: cssColor("on-clay"),
      round: !right,
    };
  };
  return (
    <Box
      ref={box}
      position="relative"
      h={`${bottom + 8}px`}
      userSelect="none"
      touchAction="none"
      cursor="ew-resize"
      onPointerDown={down}
      onPointerMove={drawn}
      onPointerUp={up}
      role="group"
      aria-label={t("Score: {flags}", {
        flags:
          named.map((n) => t("{position} at frame {frame}", { position: n.p.name, frame: n.frame })).join(", ") ||
          t("no flag yet"),
      })}
      data-testid="score"
      data-span={`${t0.toFixed(4)} ${t1.toFixed(4)}`}
    >
      <svg
        ref={sheet}
        width={w}
        height={bottom + 8}
        viewBox={`0 0 ${w} ${bottom + 8}`}
        style={{ display: "block", contain: "strict", willChange: "transform" }}
      >
        {shade && (
          <rect
            x={clip(x(shade[0]))}
            y={2}
            width={Math.max(0, clip(x(shade[1])) - clip(x(shade[0])))}
            height={bottom - 2}
            fill={cssColor("amber")}
            opacity={0.14}
          />
        )}
        {lines}
        {[
          [t("flags"), rows.flags + 12],
          [t("phase"), rows.phase + 12],
          [t("left foot"), rows.leftFoot + 12],
          [t("right foot"), rows.rightFoot + 12],
        ].map(([foot, y]) => (
          <text key={foot} x={4} y={y} style={{ fontSize: 11.5 }} fill={cssColor("quiet")}>
            {foot}
          </text>
        ))}
        {!known && (
          <text x={left} y={bottom + 5} style={{ fontSize: 10.5 }} fill={cssColor("amber")}>
            {t("file time: the capture rate is not known yet")}
          </text>
        )}
        <path d={doubtMarks} stroke={cssColor("amber")} strokeWidth={1.4} />
        <path
          d={named.map((n) => `M${tenth(n.at)} ${rows.flags}V${bottom}`).join("")}
          stroke={cssColor("chalk")}
          strokeOpacity={0.16}
        />
        {phases?.map((s, i) => {
          const [a, b] = [clip(x(s.from)), clip(x(s.to))];
          return (
            b - a > 1 && (
              <Bar
                key={s.id}
                x0={a}
                x1={b}
                y={rows.phase}
                fill={cssColor(i % 2 ? "raised" : "seam")}
                text={s.name}
                ink={cssColor("chalk")}
                small
              />
            )
          );
        })}
        {contacts?.map((b) => {
          const at = footBar(b);
          if (at.x1 - at.x0 < 1) return null;
          const ms = b.seconds ? `${Math.round(b.seconds.value * 1000)}` : "";
          return (
            <Bar
              key={b.foot + b.from}
              {...at}
              text={ms ? `${b.name} · ${ms}${b.since > b.from ? t(" ms push") : t(" ms")}` : b.name}
              short={ms}
              whisker={b.seconds ? ((b.seconds.half95 / (t1 - t0)) * width) / 2 : 0}
            />
          );
        })}
        {glimpses?.map((b) => {
          const at = footBar(b);
          return at.x1 - at.x0 >= 1 && <Bar key={b.foot + b.from} {...at} text="" open={b.open} />;
        })}
        {curves.map((s, i) => (
          <CurveLane
            key={s.curve.id}
            lane={s}
            y={rows.curves + i * laneHeight}
            times={times}
            t0={t0}
            t1={t1}
            width={width}
          />
        ))}
        {named.map((n) => {
          const on = chosen === n.p.id;
          const y = rows.flags + (n.row > 0 ? 18 : 0);
          const tone = on ? cssColor("clay") : cssColor("amber");
          return (
            <g
              key={n.p.id}
              data-flag={n.p.id}
              data-frame={n.frame}
              data-by={n.own ? "coach" : "tool"}
              style={{ cursor: "grab" }}
              opacity={n.own ? 1 : 0.45 + 0.5 * n.sure}
            >
              <path
                d={`M${n.at} ${y}v16`}
                stroke={tone}
                strokeWidth={1.6}
                strokeDasharray={n.own ? undefined : "2 2"}
              />
              <path
                d={`M${n.at} ${y}l9 4.5l-9 4.5z`}
                fill={n.own ? tone : cssColor("panel")}
                stroke={tone}
                strokeWidth={1.3}
              />
              {n.row >= 0 && (
                <text
                  x={n.at + 11}
                  y={y + 8.5}
                  style={{ fontSize: 10 }}
                  fill={on ? cssColor("chalk") : cssColor("quiet")}
                >
                  {n.p.short}
                </text>
              )}
            </g>
          );
        })}
      </svg>
      <Cursor player={player} x={x} h={bottom} w={w} curves={curves} />
    </Box>
  );
});
