import { useSyncExternalStore } from "react";
import { Upload } from "tus-js-client";
import { t } from "../../texts/texts";

// Uploads go on while the coach works elsewhere in the application; after a
// lost connection or a reload they go on where they stopped.

export type Sending = {
  key: number;
  attempt: string;
  name: string;
  size: number;
  sent: number;
  state: "sending" | "waiting" | "done" | "failed";
  says: string;
  stop(): void;
};

let list: Sending[] = [];
let next = 1;
const listeners = new Set<() => void>();
const change = (f: (l: Sending[]) => Sending[]) => {
  list = f(list);
  listeners.forEach((l) => l());
};
const put = (key: number, c: Partial<Sending>) => change((l) => l.map((s) => (s.key === key ? { ...s, ...c } : s)));

export const largest = 2 * 1024 ** 3;

/** send uploads files to an attempt; done is called after each. Guests have an
 * endpoint of their own. */
export function send(attempt: string, files: Iterable<File>, done: () => void, endpoint = "/api/uploads/") {
  for (const file of files) {
    const key = next++;
    const entry: Sending = {
      key,
      attempt,
      name: file.name,
      size: file.size,
      sent: 0,
      state: "sending",
      says: "",
      stop: () => {},
    };
    const refuse =
      file.size === 0
        ? t("This file is empty. Copy it from the phone again.")
        : file.size > largest
          ? t("This file is larger than 2 GB. Cut it to the attempt on the phone first.")
          : "";
    if (refuse) {
      change((l) => [...l, { ...entry, state: "failed", says: refuse }]);
      continue;
    }
    const upload = new Upload(file, {
      endpoint,
      // Half an hour of tries: a phone's hotspot comes back.
      retryDelays: [500, 1000, 2000, 4000, 8000, 15000, ...Array<number>(120).fill(15000)],
      metadata: { attempt, filename: file.name },
      fingerprint: async (f) =>
        ["neo", attempt, (f as File).name, (f as File).size, (f as File).lastModified].join("-"),
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
      onProgress: (sent) => put(key, { sent, state: "sending", says: "" }),
      onSuccess: () => {
        put(key, { sent: file.size, state: "done" });
        done();
        setTimeout(() => change((l) => l.filter((s) => s.key !== key)), 4000);
      },
      onError: (e) => {
        const body = "originalResponse" in e ? (e.originalResponse?.getBody() ?? "") : "";
        put(key, {
          state: "failed",
          says:
            body.replace(/^[a-z_]+: /i, "").trim() ||
            t("The upload did not work. Drop the file again; it goes on where it stopped."),
        });
      },
    });
    change((l) => [
      ...l,
      { ...entry, stop: () => void upload.abort(true).finally(() => change((x) => x.filter((s) => s.key !== key))) },
    ]);
    void upload.findPreviousUploads().then((found) => {
      if (found.length) upload.resumeFromPreviousUpload(found[0]);
      upload.start();
    });
  }
}

export const drop = (key: number) => change((l) => l.filter((s) => s.key !== key));

export const useUploads = () =>
  useSyncExternalStore(
    (f) => {
      listeners.add(f);
      return () => listeners.delete(f);
    },
    () => list,
  );
