import type { CircleSeen, Edit, Report } from "../../api/client";
import type { Core, Input } from "../../core/core";

type Question = Report["questions"][number];

/** asked is the question on top: the first that was not put off. */
export const asked = (report: Report | null | undefined, later: readonly string[], clip: string) =>
  report?.questions.find((q) => !later.includes(clip + q.id));

/** taken is the edit that takes a circle that was seen. */
export const taken = (clip: string, circle: CircleSeen | undefined): Edit[] =>
  circle?.marks ? [{ kind: "ground", clip, key: "points", value: circle.marks }] : [];

/** answer is what an answer changes: a flag, a point of the hand, or the names of the legs. */
export function answer(
  w: { clip: string; core: Core | null | undefined; input: Input | null },
  q: Question,
  o: Question["options"][number],
): Edit[] {
  const { clip, core, input } = w;
  switch (q.kind) {
    case "moment":
      return [{ kind: "flag", clip, key: q.position ?? "", value: o.frame }];
    case "sides":
      if (!core || !input) return [];
      return Object.entries(
        core.name_legs({ input, frame: o.frame, ...(o.exchanged ? { exchanged: true } : {}) }).changes,
      ).map(([key, value]) => ({ kind: "track", clip, key, value, override: true }));
    default:
      return [
        {
          kind: "point",
          clip,
          key: q.landmark ?? "",
          frame: o.frame,
          value: { x: o.x ?? 0, y: o.y ?? 0, source: "hand", confidence: 1, hidden: false },
        },
      ];
  }
}
