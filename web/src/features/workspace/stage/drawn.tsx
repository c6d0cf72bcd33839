import type { Model, Point, Reading } from "../../../api/client";
import { show, verdictColour } from "../../../ui/numbers";
import type { Overlay, Spot } from "./tools";
import { cssColor, onPicture } from "../../../ui/color";

// What is drawn over the picture. Left is clay, round and solid, right is sky, square and
// dashed.

const isRight = (id: string) => id.startsWith("right");
const sideColour = (id: string) => cssColor(isRight(id) ? "sky" : "clay");

export const bones = [
  ["shoulder", "elbow"],
  ["elbow", "wrist"],
  ["wrist", "hand"],
  ["shoulder", "hip"],
  ["hip", "knee"],
  ["knee", "ankle"],
  ["ankle", "heel"],
  ["heel", "toe"],
  ["ankle", "toe"],
] as const;
const across = ["shoulder", "hip"] as const;

/** Bones: the skeleton of what is placed. Left is clay and solid, right is sky and
 * dashed; the side away from the camera is fainter. */
export function Bones({
  here,
  far,
  sx,
  sy,
}: {
  here: { id: string; at: Point }[];
  far: string | null;
  sx(n: number): number;
  sy(n: number): number;
}) {
  const by = new Map(here.map((h) => [h.id, h.at]));
  const path = (a?: Point, b?: Point) =>
    a && b ? `M${sx(a.x).toFixed(1)} ${sy(a.y).toFixed(1)}L${sx(b.x).toFixed(1)} ${sy(b.y).toFixed(1)}` : "";
  const limbs = (side: string) => bones.map(([a, b]) => path(by.get(`${side}_${a}`), by.get(`${side}_${b}`))).join("");
  const trunk = across.map((p) => path(by.get("left_" + p), by.get("right_" + p))).join("");
  const shaft = path(by.get("tail"), by.get("tip")) + path(by.get("grip"), by.get("ball"));
  return (
    <g fill="none" strokeLinecap="round" data-testid="bones">
      {(["left", "right"] as const).map((s) => {
        const d = limbs(s);
        if (!d) return null;
        return (
          <g key={s} opacity={s === far ? 0.55 : 1}>
            <path d={d} stroke={onPicture.outline} strokeWidth={s === far ? 3.6 : 4.6} />
            <path
              d={d}
              stroke={sideColour(s)}
              strokeWidth={s === far ? 1.6 : 2.4}
              strokeDasharray={s === "right" ? "6 4" : undefined}
            />
          </g>
        );
      })}
      {trunk && <path d={trunk} stroke={onPicture.line} strokeOpacity={0.7} strokeWidth={1.4} />}
      {shaft && <path d={shaft} stroke="var(--chakra-colors-amber)" strokeWidth={2} />}
    </g>
  );
}

/** Over: what the coach lets stand still (solid, chalk), and how it is now. */
export function Over({ o, sx, sy }: { o: Overlay; sx(n: number): number; sy(n: number): number }) {
  const d = (line: Spot[]) =>
    line.map((q, i) => `${i ? "L" : "M"}${sx(q[0]).toFixed(1)} ${sy(q[1]).toFixed(1)}`).join("");
  const look = {
    still: { stroke: onPicture.line, strokeWidth: 1.8, strokeDasharray: undefined },
    now: { stroke: "var(--chakra-colors-amber)", strokeWidth: 2.2, strokeDasharray: "3 3" },
    ground: { stroke: "var(--chakra-colors-moss)", strokeWidth: 1.3, strokeDasharray: undefined },
    box: { stroke: "var(--chakra-colors-amber)", strokeWidth: 1.4, strokeDasharray: "8 5" },
  }[o.style];
  const anchor = o.lines[0]?.[0];
  return (
    <g data-overlay={o.key}>
      {o.lines.map((line, i) =>
        line.length === 1 ? (
          <g key={i} transform={`translate(${sx(line[0][0])} ${sy(line[0][1])})`}>
            <circle r={7} fill="none" stroke={onPicture.outline} strokeWidth={4} />
            <circle r={7} fill="none" stroke={onPicture.line} strokeWidth={1.8} />
            <path d="M-11 0h8M3 0h8M0 -11v8M0 3v8" stroke={onPicture.line} strokeWidth={1.4} />
          </g>
        ) : (
          <path key={i} d={d(line)} fill="none" {...look} />
        ),
      )}
      {o.label && anchor && (
        <g transform={`translate(${sx(anchor[0]) + 12} ${sy(anchor[1]) - 26})`}>
          <rect
            width={o.label.length * 6.4 + 18}
            height={19}
            rx={9.5}
            fill={onPicture.label}
            stroke={onPicture.line}
            strokeOpacity={0.5}
          />
          <text x={9} y={13.5} style={{ fontSize: 11.5, fontWeight: 600 }} fill={onPicture.line}>
            {o.label}
          </text>
        </g>
      )}
    </g>
  );
}

/** Joint: left is clay and round, right is sky and square; a guessed place is
 * hollow, an unsure one dotted, one set by hand has its middle filled. */
export function Joint({
  id,
  x,
  y,
  hidden,
  unsure,
  byHand,
  small,
  on,
}: {
  id: string;
  x: number;
  y: number;
  hidden: boolean;
  unsure: boolean;
  byHand: boolean;
  small: boolean;
  on: boolean;
}) {
  const fill = hidden || unsure ? onPicture.hollow : onPicture.pit;
  const common = {
    fill,
    stroke: unsure ? "var(--chakra-colors-amber)" : sideColour(id),
    strokeWidth: on ? 3 : small ? 1.4 : 2,
    strokeDasharray: hidden || unsure ? "2 2" : undefined,
  };
  const r = small && !on ? 0.66 : 1;
  if (!id.startsWith("left") && !id.startsWith("right"))
    return (
      <g data-landmark={id}>
        {on && <circle cx={x} cy={y} r={12} fill="none" stroke={onPicture.line} strokeWidth={1} />}
        <path
          d={`M${x - 6} ${y}L${x} ${y - 6}L${x + 6} ${y}L${x} ${y + 6}Z`}
          fill={fill}
          stroke="var(--chakra-colors-amber)"
          strokeWidth={on ? 3 : 1.8}
        />
      </g>
    );
  return (
    <g data-landmark={id}>
      {on && <circle cx={x} cy={y} r={12} fill="none" stroke={onPicture.line} strokeWidth={1} />}
      {isRight(id) ? (
        <rect x={x - 4 * r} y={y - 4 * r} width={8 * r} height={8 * r} {...common} />
      ) : (
        <circle cx={x} cy={y} r={4.6 * r} {...common} />
      )}
      <circle cx={x} cy={y} r={byHand && small ? 2 : 0.9} fill={onPicture.line} />
    </g>
  );
}

/** Measured draws the lines of a reading: left solid, right dashed. */
export function Measured({
  r,
  sx,
  sy,
  strong,
  dim,
}: {
  r: Reading;
  sx(n: number): number;
  sy(n: number): number;
  strong: boolean;
  dim: boolean;
}) {
  return r.evidence!.lines.map((c, i) => {
    const d = c.points.map((q, j) => `${j ? "L" : "M"}${sx(q[0])} ${sy(q[1])}`).join("");
    const mixed = c.landmarks.some((l) => l.startsWith("mid"));
    return (
      <g key={i} opacity={dim ? 0.25 : 1}>
        <path d={d} fill="none" stroke={onPicture.outline} strokeWidth={strong ? 6 : 4} />
        <path
          d={d}
          fill="none"
          stroke={mixed ? onPicture.line : sideColour(c.landmarks[0])}
          strokeWidth={strong ? 3.4 : 2}
          strokeDasharray={!mixed && isRight(c.landmarks[0]) ? "7 4" : undefined}
        />
      </g>
    );
  });
}

export function Labels({
  lines,
  model,
  lit,
  sx,
  sy,
  w,
  h,
}: {
  lines: Reading[];
  model: Model;
  lit: string | null;
  sx(n: number): number;
  sy(n: number): number;
  w: number;
  h: number;
}) {
  const taken: { x: number; y: number; w: number }[] = [];
  return lines.map((r) => {
    const cp = model.checkpoints.find((c) => c.id === r.id);
    // What the coach drew himself is of this attempt alone and has no place in the model.
    if (!cp || cp.measure.kind === "change") return null;
    const at = r.evidence!.lines[0].points;
    const v = at[Math.floor(at.length / 2)];
    const s = show(r.value!, cp.unit);
    const text = `${s.value}${s.unit ? " " + s.unit : ""}`;
    const width = text.length * 7.4 + s.half.length * 6 + 20;
    const x = Math.min(sx(v[0]) + 12, w - width - 4);
    let y = Math.min(Math.max(sy(v[1]) - 24, 4), h - 24);
    for (
      let tries = 0;
      tries < 12 && taken.some((t) => Math.abs(t.y - y) < 21 && x < t.x + t.w && t.x < x + width);
      tries++
    )
      y += 22;
    taken.push({ x, y, w: width });
    return (
      <g key={r.id} opacity={lit && lit !== r.id ? 0.35 : 1}>
        <rect
          x={x}
          y={y}
          width={width}
          height={20}
          rx={10}
          fill={onPicture.label}
          stroke={cssColor(verdictColour[r.verdict])}
          strokeOpacity={0.7}
        />
        <text x={x + 10} y={y + 14} style={{ fontSize: 13, fontWeight: 650 }} fill={onPicture.line}>
          {text}
          <tspan style={{ fontSize: 10.5, fontWeight: 400 }} fill={onPicture.soft}>
            {" " + s.half}
          </tspan>
        </text>
      </g>
    );
  });
}
