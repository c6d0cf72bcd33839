import { Box, Text } from "@chakra-ui/react";
import { useMemo, useRef, type ReactNode } from "react";
import { usePlayer } from "../../stage/player";
import { CircleLegend } from "./legend";
import { SaveDrawing } from "./savedrawing";
import { cm, known, to, type Above, type Parts, type Turn } from "./parts";
import { cssColor } from "../../../../ui/color";
import { t } from "../../../../texts/texts";
import { written, fixed } from "../../../../ui/written";

/** Circle: everything in its place, at the frame under the cursor. */
export function Circle({ above, turns, say, player, height, name }: Parts & { height: number; name: string }) {
  const frame = usePlayer(player, (s) => s.frame);
  const drawing = useRef<SVGSVGElement>(null);
  const r = above.circle * cm;
  const w = Math.max(252, r + 128);
  const i = Math.max(0, Math.min(above.to - 1, frame) - above.from);
  const at = (p: { x: number[]; z: number[] }, k: number) =>
    known(p.x[k]) ? ([p.z[k] * cm, -p.x[k] * cm] as const) : null;
  const line = (p: { x: number[]; z: number[] }, from: number, end: number) => {
    let d = "";
    for (let k = Math.max(0, from); k < Math.min(end, p.x.length); k++) {
      const q = at(p, k);
      if (q) d += `${d ? "L" : "M"}${q[0].toFixed(1)} ${q[1].toFixed(1)}`;
    }
    return d;
  };
  const prints = useMemo(() => footPrints(above, turns), [above, turns]);
  const neck = at(above.chest, i);
  const pelvis = at(above.hips, i);
  const ball = at(above.ball, i);
  const [ta, ty] = [Math.sin((above.sector * Math.PI) / 180), Math.cos((above.sector * Math.PI) / 180)];
  const arrow = (from: readonly [number, number], az: number, long: number) => {
    const d = to(az, above.left);
    return `M${from[0]} ${from[1]}l${(d[0] * long).toFixed(1)} ${(d[1] * long).toFixed(1)}`;
  };
  const wedge = (from: readonly [number, number], az: number, sd: number, long: number) => {
    const a = to(az - 1.96 * sd, above.left);
    const b = to(az + 1.96 * sd, above.left);
    return `M${from[0]} ${from[1]}l${a[0] * long} ${a[1] * long}L${from[0] + b[0] * long} ${from[1] + b[1] * long}Z`;
  };
  return (
    <>
      <Box position="relative" mb="6px">
        <svg
          ref={drawing}
          viewBox={`${-w} ${-w} ${2 * w} ${2 * w}`}
          style={{ display: "block", width: "100%", height }}
          data-testid="circle"
          data-frame={frame}
        >
          {[-1, 1].map((s) => (
            <path
              key={s}
              d={`M${s * ta * r} ${-ty * r}L${s * ta * (w + 40)} ${-ty * (w + 40)}`}
              stroke={cssColor("quiet")}
              strokeWidth={1.5}
              strokeDasharray="7 6"
            />
          ))}
          <circle r={r} fill={cssColor("raised")} stroke={cssColor("chalk")} strokeWidth={3} />
          {[-1, 1].map((s) => (
            <path key={s} d={`M${s * (r + 4)} 0h${s * 75}`} stroke={cssColor("chalk")} strokeWidth={3} />
          ))}
          {[0, 90, 180, 270].map((az) => {
            const [x, y] = to(az, above.left);
            const far = r + (az % 180 ? 96 : 22);
            return (
              <text
                key={az}
                x={x * far}
                y={y * far + 5}
                textAnchor={az % 180 ? (x > 0 ? "start" : "end") : "middle"}
                fill={cssColor("quiet")}
                fontSize={14}
              >
                {az % 180 ? "" : az ? t("throw ") : t("back ")}
                {say(az)}
              </text>
            );
          })}
          {prints.map((p, k) => (
            <Foot key={k} x={p.x} y={p.y} az={p.az} left={above.left} right={p.right} faint />
          ))}
          <path
            d={line(above.hips, 0, above.to - above.from)}
            fill="none"
            stroke={cssColor("amber")}
            strokeWidth={1.2}
            opacity={0.45}
          />
          <path d={line(above.hips, 0, i + 1)} fill="none" stroke={cssColor("amber")} strokeWidth={2.4} />
          <path
            d={line(above.ball, i - 34, i + 1)}
            fill="none"
            stroke={cssColor("chalk")}
            strokeWidth={2}
            opacity={0.4}
          />
          {above.feet.map((f, side) => {
            // Where a foot in the air is, one picture of the ground does not tell.
            const p = above.down[side]?.[i] ? at(f, i) : null;
            return (
              p && (
                <Foot
                  key={side}
                  x={p[0]}
                  y={p[1]}
                  az={known(f.az[i]) && f.sd[i] < 20 ? f.az[i] : undefined}
                  left={above.left}
                  right={side === 1}
                />
              )
            );
          })}
          {pelvis && known(above.hips.az[i]) && (
            <>
              <path d={wedge(pelvis, above.hips.az[i], above.hips.sd[i], 62)} fill={cssColor("moss")} opacity={0.2} />
              <path
                d={arrow(pelvis, above.hips.az[i], 62)}
                stroke={cssColor("moss")}
                strokeWidth={6}
                strokeLinecap="round"
                data-az={above.hips.az[i]}
                data-who="hips"
              />
            </>
          )}
          {neck && known(above.chest.az[i]) && (
            <>
              <path d={wedge(neck, above.chest.az[i], above.chest.sd[i], 82)} fill={cssColor("sky")} opacity={0.18} />
              <path
                d={arrow(neck, above.chest.az[i], 82)}
                stroke={cssColor("sky")}
                strokeWidth={5}
                strokeDasharray="9 7"
                strokeLinecap="round"
                data-az={above.chest.az[i]}
                data-who="chest"
              />
            </>
          )}
          {neck && ball && (
            <>
              <path d={`M${neck[0]} ${neck[1]}L${ball[0]} ${ball[1]}`} stroke={cssColor("chalk")} strokeWidth={2} />
              <circle
                cx={ball[0]}
                cy={ball[1]}
                r={9}
                fill={cssColor("chalk")}
                data-az={above.ball.az[i]}
                data-who="ball"
              />
            </>
          )}
        </svg>
        <SaveDrawing drawing={drawing} name={name} />
      </Box>
      <CircleLegend hips={above.hips.az.some(known)} ball={above.ball.az.some(known)} />
    </>
  );
}

/** footPrints: each contact once, a long one once a turn. */
function footPrints(above: Above, turns: Turn[]) {
  const out: { x: number; y: number; az?: number; right: boolean }[] = [];
  above.feet.forEach((f, side) => {
    const down = above.down[side] ?? [];
    for (let a = 0; a < down.length; a++) {
      if (!down[a]) continue;
      let b = a;
      while (b < down.length && down[b]) b++;
      const zeros = turns
        .flatMap((t) => [t.zero, t.next])
        .map((z) => z - above.from)
        .filter((z, k, all) => z >= a && z < b && all.indexOf(z) === k);
      for (const k of zeros.length ? zeros : [Math.floor((a + b) / 2)]) {
        if (known(f.x[k]) && k < above.to - above.from)
          out.push({
            x: f.z[k] * cm,
            y: -f.x[k] * cm,
            az: known(f.az[k]) && f.sd[k] < 15 ? f.az[k] : undefined,
            right: side === 1,
          });
      }
      a = b;
    }
  });
  return out;
}

/** Foot: the left one is round and clay, the right one square and sky. The place is
 * that of the toes. */
function Foot({
  x,
  y,
  az,
  left,
  right,
  faint,
}: {
  x: number;
  y: number;
  az?: number;
  left: boolean;
  right: boolean;
  faint?: boolean;
}) {
  const style = { fill: cssColor(right ? "sky" : "clay"), opacity: faint ? 0.28 : 1 };
  if (az === undefined)
    return right ? (
      <rect x={x - 6} y={y - 6} width={12} height={12} {...style} />
    ) : (
      <circle cx={x} cy={y} r={6.5} {...style} />
    );
  const [dx, dy] = to(az, left);
  const turn = (Math.atan2(dy, dx) * 180) / Math.PI;
  return (
    <g transform={`translate(${x} ${y}) rotate(${turn})`}>
      {right ? (
        <rect x={-25} y={-5.5} width={28} height={11} rx={3} {...style} />
      ) : (
        <ellipse cx={-11} cy={0} rx={14} ry={6} {...style} />
      )}
    </g>
  );
}

/** Now: the numbers of the frame under the cursor. */
export function Now({ above, say, player }: Parts) {
  const frame = usePlayer(player, (s) => s.frame);
  const i = Math.max(0, Math.min(above.to - 1, frame) - above.from);
  // A direction that may be off by more than a sixth of a turn is none.
  const sure = (half: number) => half <= 60;
  const told = (w: Above["ball"]) => known(w.az[i]) && sure(1.96 * w.sd[i]);
  const az = (w: Above["ball"]) => (told(w) ? `${say(w.az[i])}` : "–");
  const sd = (w: Above["ball"]) => (told(w) ? `±${Math.round(1.96 * w.sd[i])}°` : known(w.az[i]) ? t("unsure") : "");
  const lead = (l: Above["drag"]) =>
    known(l.x[i]) && sure(l.half95[i])
      ? written((Math.round(l.x[i]) > 0 ? "+" : "") + (Math.round(l.x[i]) + 0)) + "°"
      : "–";
  const half = (l: Above["drag"]) =>
    !known(l.x[i]) ? "" : sure(l.half95[i]) ? `±${Math.round(l.half95[i])}` : t("unsure");
  const cells: [string, ReactNode, string, string?][] = [
    [t("ball"), az(above.ball), sd(above.ball), "chalk"],
    [t("chest"), az(above.chest), sd(above.chest), "sky"],
    [t("hips"), az(above.hips), sd(above.hips), "moss"],
    [t("hips before chest"), lead(above.separation), half(above.separation)],
    [t("chest before ball"), lead(above.drag), half(above.drag)],
    [t("ball"), known(above.speed[i]) ? fixed(above.speed[i], 1) : "–", "m/s"],
  ];
  return (
    <>
      <Box display="grid" gridTemplateColumns="repeat(3, 1fr)" gap="4px 10px" mb="8px" data-testid="now">
        {cells.map(([name, v, u, c], k) => (
          <Box key={k}>
            <Text fontSize="11.5px" color={c ?? "quiet"}>
              {name}
            </Text>
            <Text fontSize="14px" fontWeight="650" whiteSpace="nowrap">
              {v}{" "}
              <Text as="span" fontSize="11px" fontWeight="400" color="quiet">
                {u}
              </Text>
            </Text>
          </Box>
        ))}
      </Box>
      <Text fontSize="12px" color="quiet" mb="10px">
        {above.drift &&
          t("Hips leave the straight line by {value} cm ±{half95} to the {which}. ", {
            value: fixed(Math.abs(above.drift.value), 0),
            half95: fixed(above.drift.half95, 0),
            which: above.drift.value > 0 ? t("right") : t("left"),
          })}
        {above.axis &&
          t("At the release the trunk leans {value}° ±{half95} toward {say}{which}. ", {
            value: fixed(Math.abs(above.axis.lean.value), 0),
            half95: fixed(above.axis.lean.half95, 0),
            say: say((above.axis.toward + (above.axis.lean.value < 0 ? 180 : 0)) % 360),
            which: above.axis.whole ? "" : t(", as far as it shows from here"),
          })}
        {above.rim &&
          t("Nearest to the rim: {value} cm ±{half95}.", {
            value: fixed(above.rim.value),
            half95: fixed(above.rim.half95, 0),
          })}
      </Text>
    </>
  );
}
