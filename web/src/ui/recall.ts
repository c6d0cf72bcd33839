import { useEffect, useState } from "react";

// Small things that a browser remembers. What is there may be damaged, and the store may
// be full or shut: then the usual holds.

/** recall reads what was remembered, when it has the kind of the usual. */
export function recall<T>(key: string, usual: T): T {
  try {
    const v = JSON.parse(localStorage.getItem(key) ?? "null") as T;
    const same = Array.isArray(usual) ? Array.isArray(v) : v !== null && typeof v === typeof usual && !Array.isArray(v);
    return same ? v : usual;
  } catch {
    return usual;
  }
}

export function remember(key: string, v: unknown) {
  try {
    localStorage.setItem(key, JSON.stringify(v));
  } catch {
    // It is forgotten with the page.
  }
}

/** forgetAll takes away what was remembered under keys that begin so. */
export function forgetAll(begin: string) {
  try {
    for (const k of Object.keys(localStorage)) if (k.startsWith(begin)) localStorage.removeItem(k);
  } catch {
    // There is nothing.
  }
}

/** useKept is what somebody fills in: what he changed of the usual outlives a page that was
 * closed by mistake, for as long as the tab lives, until it is let go. The rest is as it is now. */
export function useKept<T extends object>(key: string, usual: T) {
  const [v, set] = useState<T>(() => {
    try {
      return { ...usual, ...(JSON.parse(sessionStorage.getItem(key) ?? "{}") as Partial<T>) };
    } catch {
      return usual;
    }
  });
  useEffect(() => {
    const changed = Object.entries(v).filter(([k, x]) => x !== usual[k as keyof T]);
    try {
      if (changed.length) sessionStorage.setItem(key, JSON.stringify(Object.fromEntries(changed)));
      else sessionStorage.removeItem(key);
    } catch {
      // It is forgotten with the page.
    }
    // What was usual when it was opened.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, v]);
  const letGo = () => sessionStorage.removeItem(key);
  return [v, set, letGo] as const;
}
