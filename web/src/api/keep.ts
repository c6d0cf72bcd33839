// Working videos that were opened stay in the browser, so that stepping needs no network. They
// are the signed-in coach's: signing out takes them away.

import { forgetAll, recall, remember } from "../ui/recall";

/** unsent is where files wait that are on their way to the server. */
export const unsent = "neo-unsent";
const shelf = "neo-clips";
/** most is what is kept, bytes; the longest unused goes first. */
const most = 300e6;

// Only pages with a certificate, or of this machine, have a shelf; others keep what is open.
const open = async () => ("caches" in globalThis ? caches.open(shelf).catch(() => undefined) : undefined);

/** kept is a video that is here already. */
export async function kept(url: string): Promise<Blob | undefined> {
  const c = await open();
  const r = await c?.match(url);
  if (!c || !r) return;
  const b = await r.blob();
  void put(c, url, b); // the latest stands last
  return b;
}

/** keep fetches all of a video, as often as it takes, and keeps it. */
export async function keep(url: string, signal: AbortSignal): Promise<Blob> {
  for (let wait = 1000; ; wait = Math.min(30_000, 2 * wait)) {
    try {
      const r = await fetch(url, { signal });
      if (!r.ok) throw new Error(`${r.status}`);
      const b = await r.blob();
      const c = await open();
      if (c) await put(c, url, b);
      return b;
    } catch (e) {
      if (signal.aborted) throw e;
      await connectedOrAfter(wait, signal);
    }
  }
}

async function put(c: Cache, url: string, b: Blob) {
  try {
    await c.delete(url);
    await c.put(url, new Response(b, { headers: { "Content-Type": b.type, "Content-Length": String(b.size) } }));
    const all = [...(await c.keys())];
    const sizes = await Promise.all(all.map(async (k) => Number((await c.match(k))?.headers.get("Content-Length"))));
    let sum = sizes.reduce((a, n) => a + n, 0);
    for (let i = 0; sum > most && i < all.length - 1; i++) {
      await c.delete(all[i]);
      sum -= sizes[i];
    }
  } catch {
    // No room: what is open stays in memory.
  }
}

/** forgotten is told to what goes on in this page for the coach who left. */
export const forgotten = new EventTarget();

/** forget takes away all that is kept, what was not sent, and what the service worker has seen. */
export async function forget() {
  forgotten.dispatchEvent(new Event("forgotten"));
  if ("caches" in globalThis)
    for (const name of [shelf, unsent, "neo-seen"]) await caches.delete(name).catch(() => false);
  forgetAll(workshopKeys);
  forgetAll(trackKeys);
}

/** trackKeys begins the keys of what was written down at the track. */
export const trackKeys = "neo.track.";

/** workshopKeys begins the keys of what is reckoned with in this browser. */
export const workshopKeys = "neo.workshop.";

const whose = "neo.whose";

/** known tells whether somebody was signed in here the last time. */
export const known = () => recall(whose, "") !== "";

/** keepFor lets what is kept be that of one coach: when another signs in, it goes. */
export async function keepFor(user: string) {
  const before = recall(whose, "");
  if (before !== "" && before !== user) await forget();
  if (before !== user) remember(whose, user);
}

const connectedOrAfter = (ms: number, signal: AbortSignal) =>
  new Promise<void>((go) => {
    const end = () => {
      clearTimeout(timer);
      removeEventListener("online", end);
      go();
    };
    const timer = setTimeout(end, ms);
    addEventListener("online", end);
    signal.addEventListener("abort", end);
  });
