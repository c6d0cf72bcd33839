import type { Finding, Model, Report, Work } from "../api/client";

/** Seen is a finding of the tool, or a fault that the coach saw himself. */
export type Seen = Omit<Finding, "sure"> & { sure: Finding["sure"] | "own" };

/** seen lists the findings of an attempt as they are shown, and how many of them stay
 * quiet because the coach refused them for this athlete before. */
export function seen(
  report: Report,
  work: Work,
  model: Model,
  refused: string[],
  quiet: boolean,
): { list: Seen[]; hushed: number } {
  const hushed = report.findings.filter((f) => refused.includes(f.fault) && !work.findings[f.fault]);
  const found = report.findings.filter((f) => !quiet || !hushed.includes(f));
  const own = Object.keys(work.findings).filter(
    (id) =>
      work.findings[id] === "accepted" && model.faults.some((f) => f.id === id) && !found.some((f) => f.fault === id),
  );
  return {
    list: [...found, ...own.map((id): Seen => ({ fault: id, sure: "own", readings: [], leads: [], first: false }))],
    hushed: hushed.length,
  };
}
