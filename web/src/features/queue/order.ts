import { recall, remember } from "../../ui/recall";
import type { EventID } from "../../api/events";
import type { QueueItem } from "../../api/client";
import { t } from "../../texts/texts";

/** View is how the queue is put in order and narrowed; it is kept in this browser. */
export type View = { only: QueueItem["state"] | null; event: EventID | ""; find: string; by: keyof typeof orders };

export const orders = {
  next: t("what is next"),
  newest: t("newest"),
  age: t("youngest athletes first"),
  athlete: t("athlete"),
  event: t("event"),
  findings: t("most findings"),
} as const;

const key = "neo.queue";
const start: View = { only: null, event: "", find: "", by: "next" };

export const keptView = (): View => {
  const v = { ...start, ...recall<Partial<View>>(key, {}) };
  return v.by in orders ? v : { ...v, by: start.by };
};

export const keepView = (v: View) => remember(key, v);

/** asking is a view as the server is asked for it. */
export const asking = (v: View) => ({
  state: v.only ?? undefined,
  event: v.event || undefined,
  find: v.find.trim() || undefined,
  by: v.by,
});
