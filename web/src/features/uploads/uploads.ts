import { useSyncExternalStore } from "react";
import { Upload } from "tus-js-client";
import { forgotten } from "../../api/keep";
import { t } from "../../texts/texts";
import { afterOthers, alone, hold, release, unsent } from "./unsent";

// Uploads go on while the coach works elsewhere in the application; after a
// lost connection, a reload or a closed page they go on where they stopped.

export type Sending = {
  key: number;
  attempt: string;
  name: string;
  size: number;
  sent: number;
  state: "sending" | "waiting" | "done" | "failed";
  says: string;
  /** close stops what is under way, and takes the line away. */
  close(): void;
};

const coaches = "/api/uploads/";

let list: Sending[] = [];
let next = 1;
const listeners = new Set<() => void>();
const change = (f: (l: Sending[]) => Sending[]) => {
  list = f(list);
  listeners.forEach((l) => l());
};
const put = (key: number, c: Partial<Sending>) => change((l) => l.map((s) => (s.key === key ? { ...s, ...c } : s)));

export const largest = 2 * 1024 ** 3;

// What goes with the page, because the browser has no room for it: closing asks first.
const fleeting = new Set<string>();
if (typeof window !== "undefined")
  window.addEventListener("beforeunload", (e) => {
    if (fleeting.size > 0) e.preventDefault();
  });

// What this page is sending.
const active = new Set<string>();

forgotten.addEventListener("forgotten", () => list.forEach((s) => s.close()));

/** send uploads files to an attempt; done is called after each. Guests have an
 * endpoint of their own; only what a coach sends outlives the page. */
export function send(attempt: string, files: Iterable<File>, done: () => void, endpoint = coaches, when = alone) {
  for (const file of files) {
    const refuse =
      file.size === 0
        ? t("This file is empty. Copy it from the phone again.")
        : file.size > largest
          ? t("This file is larger than 2 GB. Cut it to the attempt on the phone first.")
          : "";
    const print = printOf(attempt, file);
    if (active.has(print)) continue; // it is on its way already, as the tray shows
    // From now on: who asks while this one waits for its turn would send it twice.
    active.add(print);
    void when(print, async () => {
      const held = endpoint === coaches && !refuse ? hold(print, { attempt, file }) : Promise.resolve(!!refuse);
      void held.then((outlives) => outlives || fleeting.add(print));
      const how = await sent(attempt, file, refuse, print, endpoint);
      // What failed may be dropped again at once.
      active.delete(print);
      if (how === "sent") done();
      await held;
      // What failed may be dropped again, or goes on at the next visit.
      if (how !== "failed") await release(print);
      fleeting.delete(print);
    }).finally(() => active.delete(print));
  }
}

const printOf = (attempt: string, file: File) => ["neo", attempt, file.name, file.size, file.lastModified].join("-");

/** holdFor keeps a file in this browser for an attempt that the server does not know yet, and tells
 * whether there was room. */
export const holdFor = (attempt: string, file: File) => hold(printOf(attempt, file), { attempt, file });

/** resume sends what an earlier page did not bring to the server, but for attempts that wait themselves. */
export async function resume(done: () => void, waits: (attempt: string) => boolean = () => false) {
  for (const { attempt, file } of await unsent())
    if (!waits(attempt)) send(attempt, [file], done, coaches, afterOthers);
}

/** sent brings one file to the server, and tells what became of it. */
const sent = (attempt: string, file: File, refuse: string, print: string, endpoint: string) =>
  new Promise<"sent" | "failed" | "closed">((end) => {
    const key = next++;
    const close = () => {
      change((l) => l.filter((s) => s.key !== key));
      end("closed");
    };
    const giveUp = () => {
      void release(print);
      close();
    };
    const entry = { key, attempt, name: file.name, size: file.size, sent: 0, says: refuse, close };
    const again = (s: Sending) => s.state === "failed" && s.attempt === attempt && s.name === file.name;
    change((l) => [...l.filter((s) => !again(s)), { ...entry, state: refuse ? "failed" : "sending" }]);
    if (refuse) return end("failed");
    const upload = new Upload(file, {
      endpoint,
      // Half an hour of tries: a phone's hotspot comes back.
      retryDelays: [500, 1000, 2000, 4000, 8000, 15000, ...Array<number>(120).fill(15000)],
      metadata: { attempt, filename: file.name },
      fingerprint: async () => print,
      removeFingerprintOnSuccess: true,
      onShouldRetry: (e) => {
        const status = e.originalResponse?.getStatus() ?? 0;
        // A proxy answers for a server that restarts; only a full disk needs somebody.
        const again =
          status === 0 ||
          status === 408 ||
          status === 409 ||
          status === 423 ||
          status === 429 ||
          (status >= 500 && status !== 507);
        if (again) put(key, { state: "waiting", says: t("Connection lost; goes on by itself.") });
        return again;
      },
      onProgress: (bytes) => put(key, { sent: bytes, state: "sending", says: "" }),
      onSuccess: () => {
        put(key, { sent: file.size, state: "done", close });
        end("sent");
        setTimeout(close, 4000);
      },
      onError: (e) => {
        const body = "originalResponse" in e ? (e.originalResponse?.getBody() ?? "") : "";
        put(key, {
          state: "failed",
          says:
            body.replace(/^[a-z_]+: /i, "").trim() ||
            t("The upload did not work. Drop the file again; it goes on where it stopped."),
          close: giveUp,
        });
        end("failed");
      },
    });
    put(key, {
      close: () =>
        void upload
          .abort(true)
          .catch(() => {})
          .finally(close),
    });
    void upload.findPreviousUploads().then((found) => {
      if (found.length) upload.resumeFromPreviousUpload(found[0]);
      upload.start();
    });
  });

export const useUploads = () =>
  useSyncExternalStore(
    (f) => {
      listeners.add(f);
      return () => listeners.delete(f);
    },
    () => list,
  );
