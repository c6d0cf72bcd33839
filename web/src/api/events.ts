import type { NewAttempt } from "./client";
import table from "./gen/events.gen.json";

export type EventID = NewAttempt["event"];

/** Facts of an event, from the core's table. */
export type EventFacts = (typeof table)[number];

/** The events in the order in which a club's week offers them, by their names. */
export const events = Object.fromEntries(table.map((e) => [e.id, e.name])) as Record<EventID, string>;

/** Events in which something is thrown or held, so that it matters which. */
export const withImplement: ReadonlySet<string> = new Set(table.filter((e) => e.held).map((e) => e.id));

/** What is known of an event; of one that is in no table nothing. */
export const factsOf = (id: string): Partial<EventFacts> => table.find((e) => e.id === id) ?? {};
