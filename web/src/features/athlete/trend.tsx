import { Box, Text } from "@chakra-ui/react";
import type { MeasureLog } from "../../api/client";
import { show } from "../../ui/numbers";
import { t } from "../../texts/texts";
import { written } from "../../ui/written";
import { pressable } from "../../ui/pressable";

const w = 430;
const h = 92;
const pad = { left: 34, right: 10, top: 8, bottom: 14 };

/** Trend draws a measure from attempt to attempt: the band, the doubt of each value,
 * and where cues were given. */
export function Trend({
  m,
  cues,
  label,
  onOpen,
}: {
  m: MeasureLog;
  cues: ReadonlySet<string>;
  label(attempt: string): string;
  onOpen(attempt: string): void;
}) {
  const all = m.values.flatMap((v) => [v.value.value - v.value.half95, v.value.value + v.value.half95]);
  const { lo, hi } = m.band;
  for (const b of [lo, hi]) if (b !== undefined) all.push(b);
  const room = (Math.max(...all) - Math.min(...all) || 1) * 0.08;
  const [from, to] = [Math.min(...all) - room, Math.max(...all) + room];
  const y = (v: number) => pad.top + ((to - v) / (to - from)) * (h - pad.top - pad.bottom);
  const n = m.values.length;
  const x = (i: number) =>
    n === 1 ? (pad.left + w - pad.right) / 2 : pad.left + 8 + (i * (w - pad.left - pad.right - 16)) / (n - 1);
  const colour = (v: number) =>
    (lo !== undefined && v < lo) || (hi !== undefined && v > hi)
      ? "var(--chakra-colors-clay)"
      : lo === undefined && hi === undefined
        ? "var(--chakra-colors-sky)"
        : "var(--chakra-colors-moss)";
  const top = hi === undefined ? pad.top : y(hi);
  const bottom = lo === undefined ? h - pad.bottom : y(lo);
  const tick = (v: number) => written(Math.abs(v) >= 10 || v === 0 ? v.toFixed(0) : v.toFixed(2));
  return (
    <svg
      viewBox={`0 0 ${w} ${h}`}
      style={{ width: "100%", display: "block" }}
      role="group"
      aria-label={t("{name} over {n} attempts", { name: m.name, n })}
      data-trend={m.checkpoint}
    >
      {(lo !== undefined || hi !== undefined) && (
        <rect
          x={pad.left}
          y={top}
          width={w - pad.left - pad.right}
          height={Math.max(1, bottom - top)}
          fill="var(--chakra-colors-moss-faint)"
        />
      )}
      {[from + room, to - room].map((v) => (
        <text
          key={v}
          x={pad.left - 5}
          y={y(v) + 3.5}
          textAnchor="end"
          style={{ fontSize: 10 }}
          fill="var(--chakra-colors-quiet)"
        >
          {tick(v)}
        </text>
      ))}
      <polyline
        points={m.values.map((v, i) => `${x(i)},${y(v.value.value)}`).join(" ")}
        fill="none"
        stroke="var(--chakra-colors-quiet)"
        strokeOpacity={0.55}
      />
      {m.values.map((v, i) => {
        const c = colour(v.value.value);
        const s = show(v.value, m.unit);
        return (
          <g
            key={v.attempt_id}
            {...pressable(`${label(v.attempt_id)}: ${s.value} ${s.unit} ${s.half}`, () => onOpen(v.attempt_id))}
          >
            <title>{`${label(v.attempt_id)}: ${s.value} ${s.unit} ${s.half}`}</title>
            <path
              d={`M${x(i)} ${y(v.value.value - v.value.half95)}V${y(v.value.value + v.value.half95)}`}
              stroke={c}
              strokeOpacity={0.7}
              strokeWidth={1.6}
            />
            <circle cx={x(i)} cy={y(v.value.value)} r={4} fill={c} />
            {cues.has(v.attempt_id) && (
              <path d={`M${x(i)} ${h - pad.bottom + 2}l4 7h-8z`} fill="var(--chakra-colors-amber)" />
            )}
            <rect x={x(i) - 8} y={0} width={16} height={h} fill="transparent" />
          </g>
        );
      })}
    </svg>
  );
}

/** Weighed says in words how a measure scatters, whether it moved over sessions, and whether it goes with
 * the mark once what both owe to the season is taken off. */
export function Weighed({ m }: { m: MeasureLog }) {
  const { scatter: s, progress: p } = m;
  const unit = m.unit && m.unit !== "°" ? ` ${m.unit}` : m.unit;
  const num = (v: number) => written(Math.abs(v) >= 10 ? v.toFixed(0) : Math.abs(v) >= 1 ? v.toFixed(1) : v.toFixed(2));
  const sign = (v: number) => (v > 0 ? "+" : "") + num(v);
  if (!s)
    return (
      <Text fontSize="11.5px" color="quiet">
        {t("One attempt so far; spread shows from two on.")}
      </Text>
    );
  return (
    <Box fontSize="11.5px" color="quiet">
      <Text>
        {t("{which}over {n}", {
          which:
            s.sd === 0
              ? t("no more spread than the doubt ")
              : t("spread ±{sd}{unit} {which}", {
                  sd: num(s.sd),
                  unit,
                  which: s.few ? "" : t("({lo} to {hi}) ", { lo: num(s.lo), hi: num(s.hi) }),
                }),
          n: s.n,
        })}
        {p?.few && <Few sessions={p.sessions} />}
      </Text>
      {p && !p.few && (
        <Text data-testid="progress">
          {p.moved
            ? t("{month}{unit} a month ({lo} to {hi})", { month: sign(p.month), unit, lo: sign(p.lo), hi: sign(p.hi) })
            : t("no sure change over {n} sessions", { n: p.sessions })}
          {" · "}
          {p.with.verdict === "more_is_better"
            ? t("more goes with a better mark, the season taken off")
            : p.with.verdict === "less_is_better"
              ? t("less goes with a better mark, the season taken off")
              : p.with.verdict === "too_few"
                ? t("too few marks to hold it against")
                : p.with.verdict === "within_uncertainty"
                  ? t("it moved by less than its doubt")
                  : t("no sure relation with the mark")}
        </Text>
      )}
      {p?.alone !== undefined && (
        <Text color="amber">
          {t("The day of the cue lay {by}{unit} off the mean before it: as much comes back by itself.", {
            by: num(Math.abs(p.alone)),
            unit,
          })}
        </Text>
      )}
    </Box>
  );
}

const Few = ({ sessions }: { sessions: number }) => (
  <Text as="span" color="amber">
    {" "}
    {t("· {sessions} of five sessions, so nothing is claimed", { sessions })}
  </Text>
);
