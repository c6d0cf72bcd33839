import type { Checkpoint, Reading, Estimate } from "../api/client";
import { cssColor } from "./color";
import { t } from "../texts/texts";
import { written, fixed } from "./written";
import { settings } from "../settings/settings";

// What lengths are read in, for who thinks in feet: the core reckons in metres.
const feet: Record<string, [string, number]> = { m: ["ft", 1 / 0.3048], cm: ["in", 1 / 2.54], mm: ["in", 1 / 25.4] };

/** inUnits gives the unit that somebody reads in, and what a value is multiplied by for it. */
export const inUnits = (unit: string): [string, number] => (settings().units === "feet" && feet[unit]) || [unit, 1];

/** show writes a value no finer than its doubt carries, in the units of who reads it; what is counted has none. */
export function show(estimate: Estimate, given: string, sign = false) {
  const [unit, k] = inUnits(given);
  const v = { value: estimate.value * k, half95: estimate.half95 * k };
  const counted = v.half95 === 0;
  const digits = counted
    ? (String(Math.round(v.value * 100) / 100).split(".")[1]?.length ?? 0)
    : v.half95 < 0.1
      ? 2
      : v.half95 < 1
        ? 1
        : 0;
  return {
    value: written((sign && v.value > 0 ? "+" : "") + v.value.toFixed(digits)) + (unit === "°" ? "°" : ""),
    unit: unit === "°" ? "" : unit,
    half: counted ? "" : "±" + fixed(v.half95, digits),
  };
}

export function Num({ v, unit, size = "15px" }: { v: Estimate; unit: string; size?: string }) {
  const s = show(v, unit);
  return (
    // Plain elements: this is drawn anew at every move of a dragged joint.
    <span style={{ whiteSpace: "nowrap" }}>
      <span style={{ fontSize: size, fontWeight: 650 }}>{s.value}</span>{" "}
      <span style={{ fontSize: 11, color: "var(--chakra-colors-quiet)" }}>
        {s.unit} {s.half}
      </span>
    </span>
  );
}

export const verdictColour: Record<Reading["verdict"], string> = {
  met: "moss",
  missed: "clay",
  open: "amber",
  none: "quiet",
};

/** Gauge draws the band as a box and the value as a dot with its doubt as a whisker. */
export function Gauge({ cp, r, w = 84 }: { cp: Checkpoint; r: Reading; w?: number }) {
  if (!r.value || (cp.band.lo === undefined && cp.band.hi === undefined)) return <span style={{ width: w }} />;
  const { value, half95: half } = r.value;
  const lo = cp.band.lo ?? Math.min(cp.band.hi! - 1, value - half) - 1;
  const hi = cp.band.hi ?? Math.max(cp.band.lo! + 1, value + half) + 1;
  const width = hi - lo;
  const from = Math.min(lo - width * 0.5, value - half * 1.2);
  const to = Math.max(hi + width * 0.5, value + half * 1.2);
  const x = (v: number) => ((v - from) / (to - from)) * w;
  const left = cp.band.lo === undefined ? 0 : x(lo);
  const right = cp.band.hi === undefined ? w : x(hi);
  const colour = cssColor(verdictColour[r.verdict]);
  // What is tolerated reaches past the band on either side.
  const slack = cp.tolerated && [
    cp.tolerated.lo === undefined ? left : Math.max(0, x(cp.tolerated.lo)),
    cp.tolerated.hi === undefined ? right : Math.min(w, x(cp.tolerated.hi)),
  ];
  return (
    <svg width={w} height={14} aria-hidden>
      <rect x={0} y={6} width={w} height={2} fill="var(--chakra-colors-seam)" />
      {slack && (
        <rect
          x={slack[0]}
          y={4.5}
          width={Math.max(0, slack[1] - slack[0])}
          height={5}
          rx={2}
          fill="var(--chakra-colors-amber)"
          fillOpacity={0.3}
        />
      )}
      <rect
        x={left}
        y={3}
        width={Math.max(2, right - left)}
        height={8}
        rx={2}
        fill={cp.info ? "none" : "var(--chakra-colors-moss-faint)"}
        stroke={cp.info ? "var(--chakra-colors-quiet)" : "var(--chakra-colors-moss)"}
        strokeOpacity={0.35}
      />
      <path
        d={`M${x(value - half)} 7H${x(value + half)}M${x(value - half)} 4.5v5M${x(value + half)} 4.5v5`}
        stroke={colour}
        strokeWidth={1.4}
      />
      {r.verdict === "missed" ? (
        <rect x={x(value) - 3} y={4} width={6} height={6} transform={`rotate(45 ${x(value)} 7)`} fill={colour} />
      ) : (
        <circle cx={x(value)} cy={7} r={3.2} fill={colour} />
      )}
    </svg>
  );
}

/** goal writes a band in words. */
export function goal(cp: Checkpoint) {
  const said = span(cp.band, cp.unit);
  if (!said) return cp.measure.kind !== "answer" ? t("no band, reported only") : t("yes");
  return cp.info ? t("usually {said}", { said }) : said;
}

/** span writes the ends of a band in words; nothing when it has none. */
function span(band: Checkpoint["band"], given: string) {
  const [unit, k] = inUnits(given);
  const end = (x: number | undefined) => (x === undefined || k === 1 ? x : Number((x * k).toFixed(1)));
  const [lo, hi] = [end(band.lo), end(band.hi)];
  const u = unit && unit !== "°" ? " " + unit : unit;
  const [from, to] = [written(`${lo}`), written(`${hi}`)];
  if (lo !== undefined && hi !== undefined) return t("{from} to {to}{unit}", { from, to, unit: u });
  if (lo !== undefined) return t("at least {from}{unit}", { from, unit: u });
  if (hi !== undefined) return t("at most {to}{unit}", { to, unit: u });
  return "";
}

/** tolerated writes what lies past the band and is no fault yet. */
export const tolerated = (cp: Checkpoint) =>
  cp.tolerated ? t("tolerated {span}", { span: span(cp.tolerated, cp.unit) }) : "";
