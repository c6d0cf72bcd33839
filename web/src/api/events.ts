import type { NewAttempt } from "./client";

export type EventID = NewAttempt["event"];

/** The ten events in the order in which a club's week offers them. */
export const events: Record<EventID, string> = {
  "sprint-start": "Sprint start",
  running: "Running stride",
  "long-jump": "Long jump",
  "high-jump": "High jump",
  "pole-vault": "Pole vault",
  shot: "Shot put",
  discus: "Discus",
  hammer: "Hammer",
  weight: "Weight throw",
  javelin: "Javelin",
};

/** Events in which something is thrown or held, so that it matters which. */
export const withImplement: ReadonlySet<EventID> = new Set([
  "shot",
  "discus",
  "hammer",
  "weight",
  "javelin",
  "pole-vault",
]);
