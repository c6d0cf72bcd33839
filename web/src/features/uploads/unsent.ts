// Files on their way are kept in the browser until the server has them: a page that is closed, or
// a phone that runs out of power, loses none. They are the coach's who chose them and go when he
// signs out (forget in api/keep.ts).

import { unsent as shelf } from "../../api/keep";

/** most is what is kept, bytes; what is beyond goes while the page stays open. */
const most = 2e9;

export type Unsent = { attempt: string; file: File };

const open = async () => ("caches" in globalThis ? caches.open(shelf).catch(() => undefined) : undefined);
const place = (key: string) => `/unsent/${encodeURIComponent(key)}`;

/** hold keeps a file until release, and tells whether there was room. */
export async function hold(key: string, { attempt, file }: Unsent) {
  const c = await open();
  if (!c) return false;
  if (await c.match(place(key))) return true;
  const all = await Promise.all((await c.keys()).map((k) => c.match(k)));
  const sum = all.reduce((n, r) => n + Number(r?.headers.get("Content-Length")), 0);
  if (sum + file.size > most) return false;
  const headers = {
    "Content-Type": file.type,
    "Content-Length": String(file.size),
    "X-Attempt": attempt,
    "X-Name": encodeURIComponent(file.name),
    "X-Modified": String(file.lastModified),
  };
  return c.put(place(key), new Response(file, { headers })).then(
    () => true,
    () => false,
  );
}

export const release = async (key: string) => void (await (await open())?.delete(place(key)));

/** unsent are the files that an earlier page did not bring to the server. */
export async function unsent(): Promise<Unsent[]> {
  const c = await open();
  const all = await Promise.all(((await c?.keys()) ?? []).map((k) => c!.match(k)));
  return Promise.all(
    all
      .filter((r) => r !== undefined)
      .map(async (r) => {
        const blob = await r.blob();
        const name = decodeURIComponent(r.headers.get("X-Name") ?? "");
        return {
          attempt: r.headers.get("X-Attempt") ?? "",
          file: new File([blob], name, { type: blob.type, lastModified: Number(r.headers.get("X-Modified")) }),
        };
      }),
  );
}

/** alone does something with a file once nobody else is at it. */
export const alone = (key: string, does: () => Promise<void>) => locked(key, does);

/** afterOthers does it once no other tab sends the file, if that did not bring it to the server. */
export const afterOthers = (key: string, does: () => Promise<void>) =>
  locked(key, async () => {
    if (await (await open())?.match(place(key))) await does();
  });

async function locked(key: string, does: () => Promise<void>) {
  if (!("locks" in navigator)) return does();
  await navigator.locks.request(`neo-unsent ${key}`, does);
}
