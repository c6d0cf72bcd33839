import { t } from "../../texts/texts";

/** levels are from when on a drill is done. */
export const levels = { new: t("first season"), learning: t("a year of training"), trained: t("trained") };

/** places are where a drill is done. */
export const places: Record<string, string> = {
  track: t("on the track"),
  pit: t("at the pit"),
  mat: t("at the mat"),
  circle: t("in the circle"),
  runway: t("on the runway"),
  weights: t("with weights"),
};
