import { t } from "../../texts/texts";
import type { Open } from "./context";
import { asked } from "./questions";

// The way of an attempt from its clip to what the athlete gets.

export const stages = ["clip", "rate", "draft", "check", "findings", "cue", "send"] as const;
export type Stage = (typeof stages)[number];

/** Next is the stage that an attempt has come to, and what it needs there; do is null while
 * there is only waiting. */
export type Next = { stage: Stage | null; says: string; act: string } & (
  { do: "clip" | "send" | "next" | null } | { do: "panel"; panel: "clip" | "check" | "findings" | "track" }
);

/** nextOf tells what the attempt needs next. drafting is how far the server's draft is. */
export function nextOf(
  w: Pick<Open, "sheet" | "clip" | "evaluation" | "work" | "state">,
  drafting: number | null,
): Next {
  const { sheet, clip, evaluation, work, state } = w;
  const { report, points } = evaluation;
  const waits = (stage: Stage, says: string): Next => ({ stage, says, act: "", do: null });
  if (!clip)
    return { stage: "clip", says: t("Film the attempt, then add the clip."), act: t("Add a clip"), do: "clip" };
  if (clip.state === "waiting" || clip.state === "importing")
    return waits("clip", t("The clip is being read, {progress} %.", { progress: Math.round(100 * clip.progress) }));
  if (clip.state !== "ready")
    return { stage: "clip", says: t("The clip could not be read."), act: t("See why"), do: "panel", panel: "clip" };
  if (clip.capture_rate === 0)
    return {
      stage: "rate",
      says: t("How many frames a second did the camera take?"),
      act: t("Answer"),
      do: "panel",
      panel: "clip",
    };
  if (clip.view === "side" && clip.direction === 0)
    return { stage: "rate", says: t("Which way does the athlete move?"), act: t("Answer"), do: "panel", panel: "clip" };
  if (drafting !== null)
    return waits("draft", t("The joints are being drafted, {progress} %.", { progress: Math.round(100 * drafting) }));
  if (!report) return waits("draft", t("The numbers are being computed."));
  if (Object.keys(points).length === 0)
    return { stage: "draft", says: t("No joint is placed yet."), act: t("Draft them"), do: "panel", panel: "track" };
  const open = report.questions.filter((q) => !state.later.includes(clip.id + q.id)).length;
  if (asked(report, state.later, clip.id))
    return {
      stage: "check",
      says:
        open === 1
          ? t("One question to you, then the numbers stand.")
          : t("{open} questions to you, the weightiest first.", { open }),
      act: t("Answer"),
      do: "panel",
      panel: "check",
    };
  const listed = evaluation.listed ?? [];
  const decided = Object.keys(work.findings).length > 0;
  if (!work.advice.main)
    return listed.length > 0 && !decided
      ? {
          stage: "findings",
          says: t("Is the first cause right? Accept or refuse it."),
          act: t("Findings"),
          do: "panel",
          panel: "findings",
        }
      : {
          stage: "cue",
          says:
            listed.length > 0
              ? t("Choose the cue that the athlete takes along.")
              : t("No certain fault. Keep what is good, or say what you saw."),
          act: t("Cue"),
          do: "panel",
          panel: "findings",
        };
  if (sheet.attempt.state !== "sent")
    return { stage: "send", says: t("Ready: look at the page and send it."), act: t("Feedback"), do: "send" };
  return { stage: null, says: t("Sent. On to the next attempt."), act: t("Next"), do: "next" };
}
