// What was said and is not stored on the server yet lies in the browser's own database,
// so that a closed tab loses nothing.

const open = () =>
  new Promise<IDBDatabase>((ok, fail) => {
    const r = indexedDB.open("neo-talk", 1);
    r.onupgradeneeded = () =>
      r.result.createObjectStore("waiting", { autoIncrement: true }).createIndex("attempt", "attempt");
    r.onsuccess = () => ok(r.result);
    r.onerror = () => fail(r.error as Error);
  });

async function run<T>(mode: IDBTransactionMode, work: (s: IDBObjectStore) => IDBRequest<T>): Promise<T> {
  const db = await open();
  try {
    return await new Promise<T>((ok, fail) => {
      const r = work(db.transaction("waiting", mode).objectStore("waiting"));
      r.onsuccess = () => ok(r.result);
      r.onerror = () => fail(r.error as Error);
    });
  } finally {
    db.close();
  }
}

/** put keeps a recording of an attempt and gives its key; undefined where the browser keeps nothing. */
export const put = <T>(attempt: string, recording: T) =>
  run("readwrite", (s) => s.add({ attempt, recording })).then(
    (k) => k as number,
    () => undefined,
  );

/** drop forgets one. */
export const drop = (key: number | undefined) =>
  key === undefined
    ? Promise.resolve()
    : run("readwrite", (s) => s.delete(key)).then(
        () => {},
        () => {},
      );

/** left lists what an earlier visit could not store, in order. */
export async function left<T>(attempt: string): Promise<{ key: number; recording: T }[]> {
  try {
    const keys = await run("readonly", (s) => s.index("attempt").getAllKeys(attempt));
    const values = await run("readonly", (s) => s.index("attempt").getAll(attempt));
    return values.map((v: { recording: T }, i) => ({ key: keys[i] as number, recording: v.recording }));
  } catch {
    return [];
  }
}
