import type { Edit, Report } from "../../api/client";

type Question = Report["questions"][number];

/** asked is the question on top: the first that was not put off. */
export const asked = (report: Report | null | undefined, later: readonly string[], clip: string) =>
  report?.questions.find((q) => !later.includes(clip + q.id));

/** answer is the edit that an answer makes: a flag, or a point of the hand. */
export const answer = (clip: string, q: Question, o: Question["options"][number]): Edit =>
  q.kind === "moment"
    ? { kind: "flag", clip, key: q.position ?? "", value: o.frame }
    : {
        kind: "point",
        clip,
        key: q.landmark ?? "",
        frame: o.frame,
        value: { x: o.x ?? 0, y: o.y ?? 0, source: "hand", confidence: 1, hidden: false },
      };
