import { t } from "./texts";

// Words for what the contract names by a single word of its own.
const words: Record<string, string> = {
  left: t("left"),
  right: t("right"),
  female: t("female"),
  male: t("male"),
  fresh: t("fresh"),
  tired: t("tired"),
  met: t("met"),
  missed: t("missed"),
  open: t("open"),
  none: "–",
  yes: t("yes"),
  partly: t("partly"),
  no: t("no"),
  accepted: t("accepted"),
  refused: t("refused"),
  taken: t("worked"),
  not_taken: t("did not work"),
  overdone: t("overdone"),
  away: t("away"),
  new: t("new"),
  in_work: t("in work"),
  ready: t("ready"),
  sent: t("sent"),
  saved: t("saved"),
  saving: t("saving"),
  kept: t("kept"),
  side: t("side"),
  back: t("back"),
  front: t("front"),
  rear: t("rear"),
  oblique: t("oblique"),
  full: t("full"),
  half: t("half"),
  quarter: t("quarter"),
  eighth: t("eighth"),
};

/** word is the word for it in the language of this browser. */
export const word = (id: string) => words[id] ?? id;
