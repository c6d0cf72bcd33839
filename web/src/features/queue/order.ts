import type { QueueItem } from "../../api/client";
import { events, type EventID } from "../../api/events";
import { recall, remember } from "../../ui/recall";

/** How the queue is sorted and narrowed; kept in this browser. */
export type View = { only: QueueItem["state"] | null; event: EventID | ""; find: string; by: keyof typeof orders };

export const orders = {
  next: "what is next",
  newest: "newest",
  age: "youngest first",
  athlete: "athlete",
  event: "event",
  findings: "most findings",
} as const;

const states = ["new", "in_work", "ready", "sent"];
const newest = (a: QueueItem, b: QueueItem) => b.done_on.localeCompare(a.done_on);
const compare: Record<View["by"], (a: QueueItem, b: QueueItem) => number> = {
  // What wants the coach comes first; what was sent comes last.
  next: (a, b) => states.indexOf(a.state) - states.indexOf(b.state),
  newest,
  age: (a, b) => b.born - a.born || a.athlete.localeCompare(b.athlete),
  athlete: (a, b) => a.athlete.localeCompare(b.athlete) || newest(a, b),
  event: (a, b) =>
    Object.keys(events).indexOf(a.event) - Object.keys(events).indexOf(b.event) || a.athlete.localeCompare(b.athlete),
  findings: (a, b) => (b.found ?? -1) - (a.found ?? -1),
};

const key = "neo.queue";
const start: View = { only: null, event: "", find: "", by: "next" };

export const keptView = (): View => ({ ...start, ...recall<Partial<View>>(key, {}) });

export const keepView = (v: View) => remember(key, v);

/** ordered is the queue as the coach wants to see it. */
export function ordered(all: QueueItem[], v: View) {
  const words = v.find.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (i: QueueItem) => {
    const text = `${i.athlete} ${events[i.event as EventID]} ${i.session} ${i.mark} ${i.cue}`.toLowerCase();
    return (!v.only || i.state === v.only) && (!v.event || i.event === v.event) && words.every((w) => text.includes(w));
  };
  return all.filter(fits).sort(compare[v.by]);
}

/** after is the attempt that comes next, in the order of the queue, among those not
 * sent yet. */
export function after(all: QueueItem[], id: string) {
  const list = ordered(all, keptView()).filter((i) => i.id === id || i.state !== "sent");
  const at = list.findIndex((i) => i.id === id);
  return list[at + 1] ?? list.find((i) => i.id !== id);
}
