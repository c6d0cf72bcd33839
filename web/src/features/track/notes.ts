// What is written down at the track stays in this browser until the team has it: each note under a
// key of its own, so that two tabs lose nothing of each other.

import { useSyncExternalStore } from "react";
import { ask, client, type JoinedNotes, type NewTraining, type TrackField, type TrackNote } from "../../api/client";
import { trackKeys } from "../../api/keep";
import { recall, remember } from "../../ui/recall";
import { films } from "./films";
import { send } from "../uploads/uploads";
import { unsent } from "../uploads/unsent";

const noteKey = trackKeys + "note.";
const doneKey = trackKeys + "done.";
const toldKey = trackKeys + "told";

export type Finished = NewTraining & { id: string; athlete: string };
/** Told is what joining brought to light and nobody has looked at yet. */
export type Told = Pick<JoinedNotes, "refused" | "conflicts">;

let version = 0;
const listeners = new Set<() => void>();
const changed = () => {
  version++;
  listeners.forEach((l) => l());
};
const subscribe = (f: () => void) => {
  listeners.add(f);
  return () => listeners.delete(f);
};

function all<T>(begin: string): T[] {
  const out: T[] = [];
  for (let i = 0; i < localStorage.length; i++) {
    const k = localStorage.key(i)!;
    if (k.startsWith(begin)) out.push(recall(k, {} as T & object));
  }
  return out;
}

/** waiting are the notes that the team does not have yet, in the order in which they were written. */
export const waiting = () => all<TrackNote>(noteKey).sort((a, b) => a.at - b.at);

/** waits tells whether a try has notes that the team does not have yet. */
export const waits = (id: string) => waiting().some((n) => n.try === id);

/** phone names this browser among those that write. */
const phone = () => {
  const own = recall("neo.phone", "") || crypto.randomUUID();
  remember("neo.phone", own);
  return own;
};

let last = 0;
/** write notes something down; before is what stood there on this phone. */
export function write(
  n: Pick<TrackNote, "try" | "athlete" | "event" | "day">,
  field: TrackField,
  value: string,
  before: string,
) {
  // No two notes of a phone have one time, so that their order is known.
  last = Math.max(Date.now(), last + 1);
  const note: TrackNote = { ...n, id: crypto.randomUUID(), phone: phone(), at: last, field, value, before };
  // A full store is told by what it throws: nothing may seem to be kept that is not.
  localStorage.setItem(noteKey + note.id, JSON.stringify(note));
  changed();
}

/** finish keeps what a session was, until the team has it. */
export function finish(f: Finished) {
  localStorage.setItem(doneKey + f.id, JSON.stringify(f));
  changed();
}

export const told = (): Told => recall<Told>(toldKey, { refused: [], conflicts: [] });
export function heard() {
  localStorage.removeItem(toldKey);
  changed();
}

/** justSent are notes that the team has, though the page has not asked it anew yet. */
let justSent: TrackNote[] = [];

/** ours are the notes of this phone: those that wait, and those that were just sent. */
export const ours = () => [...waiting(), ...justSent];

let joining: Promise<void> | undefined;

/** join brings what was written to the team, then the films of those tries; what does not work is
 * tried again at the next change, and when the network is back. */
export function join(done: () => void): Promise<void> {
  joining ??= joinNow(done).finally(() => (joining = undefined));
  return joining;
}

async function joinNow(done: () => void) {
  const most = 500;
  const tries = new Set<string>();
  for (let list = waiting(); list.length > 0; list = waiting()) {
    const notes = list.slice(0, most);
    const got = await ask(client.POST("/track/notes", { body: { notes } })).catch(() => undefined);
    if (!got) return;
    justSent = [...justSent.slice(-2000), ...notes];
    for (const n of notes) localStorage.removeItem(noteKey + n.id);
    notes.forEach((n) => tries.add(n.try));
    if (got.refused.length || got.conflicts.length) {
      const was = told();
      remember(toldKey, {
        refused: [...was.refused, ...got.refused],
        conflicts: [...was.conflicts.filter((c) => !tries.has(c.try)), ...got.conflicts],
      });
    }
  }
  for (const f of all<Finished>(doneKey)) {
    const { id, athlete, ...body } = f;
    const path = { id: athlete, training: id };
    const ok = await ask(client.PUT("/athletes/{id}/trainings/{training}", { params: { path }, body })).then(
      () => true,
      () => false,
    );
    if (ok) localStorage.removeItem(doneKey + id);
  }
  if (tries.size > 0) {
    for (const { attempt, file } of await unsent()) if (tries.has(attempt)) send(attempt, [file], done);
    // What found no room on the shelf goes as long as this page is open; what is under way is left alone.
    for (const id of tries) {
      const file = films.file(id);
      if (file) send(id, [file], done);
    }
    changed();
    done();
  }
}

/** useWaiting counts what the team does not have yet, and is another after every change. */
export const useWaiting = () => useSyncExternalStore(subscribe, () => version);
