import type { PlanSession, PlanWeek } from "../../api/client";
import { events, type EventID } from "../../api/events";
import { later, monday } from "../../ui/written";
import { t } from "../../texts/texts";

/** blocks by their names and colours; every colour stands beside its name. */
export const blocks: Record<PlanWeek["block"], { name: string; tone: string }> = {
  rebuild: { name: t("rebuilding"), tone: "sky" },
  build: { name: t("building"), tone: "moss" },
  sharpen: { name: t("sharpening"), tone: "amber" },
  taper: { name: t("taper"), tone: "quiet" },
  compete: { name: t("competition"), tone: "clay" },
  between: { name: t("between"), tone: "quiet" },
  off: { name: t("off"), tone: "seam" },
};

export const kinds: Record<"technique" | "full" | "lift" | "test" | "compete" | "other", string> = {
  technique: t("technique"),
  full: t("full efforts"),
  lift: t("lifting"),
  test: t("test"),
  compete: t("competition"),
  other: t("other"),
};

export const places: Record<string, string> = {
  track: t("track"),
  pit: t("jumping pit"),
  mat: t("mat and uprights"),
  circle: t("circle"),
  runway: t("javelin runway"),
  weights: t("weights"),
};

/** titled names a session in a few words. */
export function titled(s: PlanSession) {
  const event = events[s.event as EventID] ?? "";
  switch (s.kind) {
    case "lift":
      return t("Lifting");
    case "compete":
      return s.name ?? t("Competition");
    case "test":
      return t("{event}, test", { event });
  }
  return event;
}

/** toneOf is the colour of a session's kind. */
export const toneOf = (s: PlanSession) =>
  ({ technique: "sky", full: "amber", lift: "quiet", test: "moss", compete: "clay" })[s.kind];

export const weekDays = (iso: string) => [0, 1, 2, 3, 4, 5, 6].map((n) => later(monday(iso), n));
