import type { Edit, Work } from "../../../api/client";
import { apply, known, same, valueAt } from "./edits";

// Changes that the server does not have yet lie in the browser's store, one list for each
// tab and attempt. A tab holds a lock while it lives; lists of tabs that have gone are
// taken over by the next that opens the attempt.

/** Pending is one change with what was there before, in the order of its edits. */
export type Pending = { edits: Edit[]; was: unknown[]; join?: boolean; failed?: number; tried?: boolean };

/** rebase puts changes on top of newer work: an edit whose target somebody else changed
 * meanwhile gives way; one that is there already (its answer was lost) is done. */
export function rebase(queue: Pending[], now: Work): { queue: Pending[]; gave: number } {
  let gave = 0;
  let w = now;
  const out: Pending[] = [];
  for (const p of queue) {
    const done = p.edits.map((e) => same(valueAt(apply(w, e), e), valueAt(w, e)));
    const stays = p.edits.map((e, i) => !done[i] && same(valueAt(w, e), p.was[i]));
    gave += stays.filter((s, i) => !s && !done[i]).length;
    const edits = p.edits.filter((_, i) => stays[i]);
    if (edits.length) out.push({ ...p, edits, was: p.was.filter((_, i) => stays[i]) });
    w = edits.reduce(apply, w); // what comes behind was made on top of it
  }
  return { queue: out, gave };
}

const prefix = (attempt: string) => `neo.pending.${attempt}`;
const lock = (tab: string) => `neo.tab.${tab}`;

/** tab is the name of this tab. A tab that was doubled gets a name of its own. */
const tab: Promise<string> = (async () => {
  const named = () => {
    const id = Math.random().toString(36).slice(2);
    remembered(() => sessionStorage.setItem("neo.tab", id));
    return id;
  };
  const hold = (id: string) =>
    new Promise<boolean>((ok) => {
      // Without locks (an address without TLS) every tab counts as gone, as before.
      if (!navigator.locks) return ok(true);
      void navigator.locks.request(lock(id), { ifAvailable: true }, (l) => {
        ok(!!l);
        return l ? new Promise(() => {}) : undefined; // while the tab lives
      });
    });
  let id = remembered(() => sessionStorage.getItem("neo.tab")) ?? named();
  while (!(await hold(id))) id = named();
  return id;
})();

function remembered<T>(f: () => T): T | undefined {
  try {
    return f();
  } catch {
    return undefined; // a full or shut store only means that a closed tab is not covered
  }
}

/** put keeps what waits in this tab. */
export async function put(attempt: string, queue: () => Pending[]) {
  const key = `${prefix(attempt)}.${await tab}`;
  remembered(() =>
    queue().length ? localStorage.setItem(key, JSON.stringify(queue())) : localStorage.removeItem(key),
  );
}

/** take gives what tabs that have gone could not save, this tab's own earlier page among
 * them. Lists of others are forgotten: who takes them puts them again, as its own. */
export async function take(attempt: string): Promise<Pending[]> {
  const mine = await tab;
  const out: Pending[] = [];
  const keys =
    remembered(() =>
      Object.keys(localStorage).filter((k) => k === prefix(attempt) || k.startsWith(prefix(attempt) + ".")),
    ) ?? [];
  for (const key of keys.sort()) {
    const owner = key.slice(prefix(attempt).length + 1);
    const read = () => {
      out.push(...parse(remembered(() => localStorage.getItem(key)) ?? null));
      if (owner !== mine) remembered(() => localStorage.removeItem(key));
    };
    if (!owner || owner === mine || !navigator.locks) read();
    else await navigator.locks.request(lock(owner), { ifAvailable: true }, (l) => void (l && read()));
  }
  return out;
}

function parse(text: string | null): Pending[] {
  try {
    const list = JSON.parse(text ?? "[]") as Pending[];
    return list.filter(
      (p) => Array.isArray(p.edits) && Array.isArray(p.was) && p.edits.length === p.was.length && p.edits.every(known),
    );
  } catch {
    return []; // damaged
  }
}
