// The service worker: without a connection the application opens, with the attempts that were
// opened last. What is named by its content is kept for good; everything else is asked of the
// server first. What belongs to the coach goes when he signs out (forget in src/api/keep.ts).

const shell = "neo-shell";
const seen = "neo-seen";
const most = 60; // answers that are kept

const fixed = /^\/(assets\/|core~|pose~|mark|icon)/;
const told = /^\/api\/(me|models|queue|athletes|track|athletes\/[^/]+\/workshop|attempts\/[^/]+\/(workspace|companions))$/;

self.addEventListener("install", (e) => {
  e.waitUntil(
    caches
      .open(shell)
      .then((c) => c.add("/"))
      .then(() => self.skipWaiting()),
  );
});
self.addEventListener("activate", (e) => e.waitUntil(self.clients.claim()));

self.addEventListener("fetch", (e) => {
  const { request } = e;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== location.origin) return;
  if (request.mode === "navigate" && !url.pathname.startsWith("/api/")) e.respondWith(page(request));
  else if (fixed.test(url.pathname)) e.respondWith(once(request));
  else if (told.test(url.pathname)) e.respondWith(latest(request));
});

/** page is the newest page, or the one of last time. */
async function page(request) {
  const c = await caches.open(shell);
  try {
    const r = await fetch(request);
    if (r.ok && r.headers.get("Content-Type")?.startsWith("text/html")) await renewed(c, r.clone());
    return r;
  } catch {
    return (await c.match("/")) ?? Response.error();
  }
}

/** renewed keeps a page; what an older one was made of goes with it. */
async function renewed(c, r) {
  const text = await r.clone().text();
  const before = await (await c.match("/"))?.text();
  if (before === text) return;
  await c.put("/", r);
  if (before) for (const k of await c.keys()) if (new URL(k.url).pathname !== "/") await c.delete(k);
}

/** once is what never changes under its name. */
async function once(request) {
  const c = await caches.open(shell);
  const have = await c.match(request);
  if (have) return have;
  const r = await fetch(request);
  if (r.status === 200) await c.put(request, r.clone()).catch(() => {});
  return r;
}

/** latest is what the server answers, or its last answer while it cannot be reached. */
async function latest(request) {
  const c = await caches.open(seen);
  const asked = fetch(request).then(async (r) => {
    if (r.status === 200) {
      await c.delete(request);
      await c.put(request, r.clone()).catch(() => {});
      const all = await c.keys();
      for (const k of all.slice(0, Math.max(0, all.length - most))) await c.delete(k);
    }
    return r;
  });
  return asked.catch(async (e) => {
    const have = await c.match(request);
    if (!have) throw e;
    return have;
  });
}

// A page that was there before its worker tells what it is made of.
self.addEventListener("message", (e) => {
  const list = Array.isArray(e.data) ? e.data.filter((u) => fixed.test(new URL(u, location.origin).pathname)) : [];
  e.waitUntil(Promise.allSettled(list.map((u) => once(new Request(u)))));
});

// A notification opens what it is of, in a page that is open already if there is one.
self.addEventListener("notificationclick", (e) => {
  e.notification.close();
  const open = async () => {
    const [page] = await self.clients.matchAll({ type: "window" });
    if (!page) return self.clients.openWindow(e.notification.data);
    await page.focus();
    return page.navigate(e.notification.data);
  };
  e.waitUntil(open());
});
