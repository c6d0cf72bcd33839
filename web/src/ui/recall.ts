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
