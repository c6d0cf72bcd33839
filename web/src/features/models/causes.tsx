import type { Model } from "../../api/client";
import { cssColor } from "../../ui/color";
import { t } from "../../texts/texts";
import { pressable } from "../../ui/pressable";

const short = (text: string, room: number) => (text.length > room ? text.slice(0, Math.max(4, room - 1)) + "…" : text);

/** inOrder lists the phases in the order of the movement; those of a repeated
 * group stand once. */
export function inOrder(model: Model): Model["phases"] {
  const group = model.repeat?.phases ?? [];
  return model.phases.flatMap((p) => {
    const member = group.find((g) => p.id.startsWith(g.id) && /^\d+$/.test(p.id.slice(g.id.length)));
    return !member ? [p] : p.id === member.id + "1" ? [member] : [];
  });
}

/** Causes draws faults and their causes: one column a phase in which they are made,
 * arrows from a cause to what follows from it; the open one and its arrows are
 * strong. */
export function Causes({
  model,
  faults,
  phases,
  open,
  onOpen,
}: {
  model: Model;
  faults: Model["faults"];
  phases: Model["phases"];
  open: string | null;
  onOpen(f: string): void;
}) {
  const order = phases.map((p) => p.id).filter((p) => faults.some((f) => f.phase === p));
  const columns = order.map((p) => faults.filter((f) => f.phase === p));
  const rows = Math.max(1, ...columns.map((c) => c.length));
  const w = Math.max(420, 104 * columns.length);
  const step = w / Math.max(1, columns.length);
  const h = 26 + rows * 32;
  const half = Math.min(48, step / 2 - 5);
  const at = new Map(
    columns.flatMap((c, i) => c.map((f, k) => [f.id, [step * (i + 0.5), 38 + k * 32 + (i % 2) * 4] as const])),
  );
  const lit = (a: string, b: string) => open === a || open === b;
  return (
    <svg
      viewBox={`0 0 ${w} ${h}`}
      width="100%"
      role="group"
      aria-label={t("Causes in {name}", { name: model.name })}
      data-testid="graph"
      style={{ display: "block" }}
    >
      <defs>
        <marker id="follows" markerWidth="6" markerHeight="6" refX="5" refY="3" orient="auto">
          <path d="M0 0L6 3L0 6z" fill={cssColor("quiet")} />
        </marker>
      </defs>
      {order.map((p, i) => (
        <text key={p} x={step * (i + 0.5)} y={13} textAnchor="middle" style={{ fontSize: 10 }} fill={cssColor("quiet")}>
          {short(phases.find((q) => q.id === p)!.name, step / 5.6)}
        </text>
      ))}
      {faults.flatMap((f) =>
        (f.because ?? []).flatMap((b) => {
          const [from, to] = [at.get(b), at.get(f.id)];
          if (!from || !to) return [];
          const strong = lit(b, f.id);
          const d =
            from[0] === to[0]
              ? `M${from[0] + half} ${from[1]}q18 ${(to[1] - from[1]) / 2} 2 ${to[1] - from[1]}`
              : `M${from[0] + Math.sign(to[0] - from[0]) * half} ${from[1]}L${to[0] - Math.sign(to[0] - from[0]) * (half + 2)} ${to[1]}`;
          return [
            <path
              key={b + f.id}
              d={d}
              fill="none"
              stroke={strong ? cssColor("clay") : cssColor("quiet")}
              strokeOpacity={open && !strong ? 0.2 : 0.7}
              strokeWidth={strong ? 1.8 : 1}
              markerEnd="url(#follows)"
            />,
          ];
        }),
      )}
      {faults.map((f) => {
        const p = at.get(f.id);
        if (!p) return null;
        return (
          <g key={f.id} {...pressable(`${f.short}: ${f.name}`, () => onOpen(f.id))}>
            <rect
              x={p[0] - half}
              y={p[1] - 11}
              width={2 * half}
              height={22}
              rx={5}
              fill={cssColor("raised")}
              stroke={open === f.id ? cssColor("clay") : cssColor("seam")}
              strokeWidth={open === f.id ? 2 : 1}
            />
            <text x={p[0]} y={p[1] + 3.5} textAnchor="middle" style={{ fontSize: 10 }} fill={cssColor("chalk")}>
              {f.short}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
