// Films of this phone's tries, to be looked at while they are on their way.

import { unsent } from "../uploads/unsent";

const urls = new Map<string, string>();
const files = new Map<string, File>();
const listeners = new Set<() => void>();

export const films = {
  of: (id: string | undefined) => (id ? urls.get(id) : undefined),
  /** file is the film of a try while this page lives. */
  file: (id: string) => files.get(id),
  put(id: string, f: File) {
    files.set(id, f);
    urls.set(id, URL.createObjectURL(f));
    listeners.forEach((l) => l());
  },
  /** recall finds what an earlier page kept. */
  async recall() {
    for (const { attempt, file } of await unsent()) if (!urls.has(attempt)) films.put(attempt, file);
  },
  subscribe(f: () => void) {
    listeners.add(f);
    return () => {
      listeners.delete(f);
    };
  },
};
