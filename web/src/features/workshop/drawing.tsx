import { useId } from "react";
import type { PlanDrawing } from "../../api/client";

export type Layer = { drawing: PlanDrawing; name: string };

const rad = 4.5;

/** Drawn shows what was reckoned to scale: the one at hand whole, others as lines beside it. A long
 * and thin ground is turned where the screen is narrow, so that the run goes up. */
export function Drawn({
  layers,
  at,
  width,
  height,
  lit,
  label,
}: {
  layers: Layer[];
  at: number;
  width: number;
  height: number;
  /** the place of the plan that is looked for now */
  lit?: number;
  label: string;
}) {
  const id = useId();
  const boxes = layers.flatMap((l) => l.drawing.shapes.flatMap((s) => s.points));
  if (!boxes.length || !layers[at]) return null;
  let [left, bottom, right, top] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [x, y] of boxes) {
    left = Math.min(left, x);
    right = Math.max(right, x);
    bottom = Math.min(bottom, y);
    top = Math.max(top, y);
  }
  const turned = width < 450 && layers[at].drawing.view === "above" && right - left > 5 * (top - bottom);
  const wide = turned ? top - bottom : right - left;
  const tall = turned ? right - left : top - bottom;
  const room = 26;
  const k = Math.min((width - 2 * room) / wide, ((turned ? 560 : height) - 2 * room) / tall);
  const w = width;
  const h = tall * k + 2 * room;
  const off = (w - wide * k) / 2;
  const put = ([x, y]: number[]): [number, number] =>
    turned ? [off + (top - y) * k, room + (right - x) * k] : [off + (x - left) * k, room + (top - y) * k];
  const path = (list: number[][]) =>
    list
      .map((p) =>
        put(p)
          .map((v) => v.toFixed(1))
          .join(","),
      )
      .join(" ");
  const taken: [number, number][] = [];
  return (
    <svg
      viewBox={`0 0 ${w} ${h.toFixed(0)}`}
      width="100%"
      style={{ display: "block", maxHeight: turned ? undefined : height }}
      role="img"
      aria-label={label}
      aria-describedby={id}
      data-testid="drawing"
      className="plan"
    >
      <desc id={id}>
        {layers[at].drawing.shapes
          .map((s) => s.text)
          .filter(Boolean)
          .join(", ")}
      </desc>
      {layers.map((l, i) =>
        i === at
          ? null
          : l.drawing.shapes
              .filter((s) => s.role === "path" || s.role === "way" || s.role === "limb")
              .map((s, j) => (
                <g key={`${i} ${j}`} className="other">
                  <polyline points={path(s.points as number[][])} />
                  {s.role !== "limb" && (
                    <text
                      x={put(s.points[s.points.length >> 1] as number[])[0]}
                      y={put(s.points[s.points.length >> 1] as number[])[1] - 5}
                    >
                      {l.name}
                    </text>
                  )}
                </g>
              )),
      )}
      {layers[at].drawing.shapes.map((s, j) => {
        const points = s.points as number[][];
        if (s.kind === "area") return <polygon key={j} className={s.role} points={path(points)} />;
        if (s.kind === "line") return <polyline key={j} className={s.role} points={path(points)} />;
        const [x, y] = put(points[0]);
        if (s.kind === "dot") {
          const on = lit !== undefined && s.n === lit;
          const r = on ? 9 : s.role === "mark" ? 6 : rad;
          const c = `${s.role} ${s.foot ?? ""} ${on ? "lit" : ""}`;
          return s.foot === "right" ? (
            <rect key={j} className={c} x={x - r} y={y - r} width={2 * r} height={2 * r} />
          ) : (
            <circle key={j} className={c} cx={x} cy={y} r={r} />
          );
        }
        const long = (s.text?.length ?? 0) * 6.4;
        const tx = Math.max(2, Math.min(x + 8, w - long));
        let ty = y - 8;
        while (taken.some((q) => Math.abs(q[1] - ty) < 13 && Math.abs(q[0] - tx) < Math.max(long, 60))) ty += 13;
        taken.push([tx, ty]);
        return (
          <text key={j} className={s.role} x={tx} y={ty}>
            {s.text}
          </text>
        );
      })}
    </svg>
  );
}
