import type { Box, Clip, Edit, Track } from "../../api/client";
import type { Order, Report, Wish } from "./draft.worker";
import { t } from "../../texts/texts";

// A draft by the browser, from the page's side: saved in batches while it runs, so that a
// closed lid loses nothing and the rest can be taken up again.

export type Progress = { done: number; of: number; left: number | null; lost: number[]; others: number[] };

/** draft runs until it is done or stopped. */
export function draft(o: {
  clip: Clip;
  points: Record<string, Track>;
  box?: Box;
  wish: Wish;
  save(e: Edit[], first: boolean): void;
  progress(p: Progress): void;
  end(trouble?: string): void;
}): () => void {
  let worker: Worker | undefined;
  let stopped = false;
  let first = true;
  const end = (trouble?: string) => {
    if (stopped) return;
    stopped = true;
    worker?.terminate();
    o.end(trouble);
  };
  try {
    worker = new Worker(new URL("./draft.worker.ts", import.meta.url), { type: "module" });
  } catch {
    end(t("This browser does not let pages work in the background. Use a current browser, or place points by hand."));
    return () => {};
  }
  const took: number[] = [];
  const p: Progress = { done: 0, of: 0, left: null, lost: [], others: [] };
  worker.onerror = () => end(t("The pose model could not be loaded. Reload the page; what was drafted is kept."));
  worker.onmessage = (e: MessageEvent<Report>) => {
    const r = e.data;
    if ("done" in r) return end();
    if ("trouble" in r) return end(r.trouble);
    if ("save" in r) {
      o.save(r.save, first);
      first = false;
      return;
    }
    if ("of" in r) p.of = r.of;
    else {
      p.done++;
      took.push(r.took);
      if (r.outcome === "nobody") p.lost.push(r.frame);
      if (r.outcome === "other") p.others.push(r.frame);
      // The first picture loads the model; the last few tell the pace.
      const pace = took.length > 2 ? took.slice(-12).reduce((a, b) => a + b, 0) / Math.min(12, took.length) : null;
      p.left = pace === null ? null : ((p.of - p.done) * pace) / 1000;
    }
    o.progress({ ...p });
  };
  o.progress({ ...p });
  const order: Order = { clip: { ...o.clip, camera: undefined }, points: o.points, box: o.box, wish: o.wish };
  worker.postMessage(order);
  return () => end();
}
