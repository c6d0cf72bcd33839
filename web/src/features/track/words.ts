import type { TrackField } from "../../api/client";
import { t } from "../../texts/texts";

/** What notes are about, as it is called. */
export const fieldNames: Record<TrackField, string> = {
  made: t("try"),
  mark: t("mark"),
  foul: t("foul"),
  wind: t("wind"),
  felt: t("how it felt"),
  kept: t("kept or lost"),
  words: t("words"),
  roof: t("indoors"),
};
