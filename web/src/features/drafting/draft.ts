import type { Box, Clip, Edit, Track } from "../../api/client";
import { at, drafted } from "../workspace/work/tracks";
import type { Body } from "./person";
import { edits, plan, type Wish } from "./plan";
import type { Region } from "./movenet";
import type { Order, Report } from "./draft.worker";

// A draft from the page's side: which frames, in which order, saved in batches
// while it runs, so that a closed lid loses nothing and the rest can be taken up
// again.

export type { Wish } from "./plan";

export type Progress = { done: number; of: number; left: number | null; lost: number[]; others: number[] };
const batch = 12;

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
  const frames = plan(o.wish, drafted(o.points, o.clip.stamps.length));
  let worker: Worker | undefined;
  let stopped = false;
  let kept: [number, Body][] = [];
  let first = true;
  const flush = () => {
    if (!kept.length) return;
    o.save(edits(o.clip, kept), first);
    first = false;
    kept = [];
  };
  const end = (trouble?: string) => {
    if (stopped) return;
    stopped = true;
    flush();
    worker?.terminate();
    o.end(trouble);
  };
  try {
    worker = new Worker(new URL("./draft.worker.ts", import.meta.url), { type: "module" });
  } catch {
    end("This browser does not let pages work in the background. Use a current browser, or place points by hand.");
    return () => {};
  }
  const took: number[] = [];
  const lost: number[] = [];
  const others: number[] = [];
  let done = 0;
  worker.onerror = () => end("The pose model could not be loaded. Reload the page; what was drafted is kept.");
  worker.onmessage = (e: MessageEvent<Report>) => {
    const r = e.data;
    if ("done" in r) return end();
    if ("trouble" in r) return end(r.trouble);
    done++;
    took.push(r.took);
    if (r.body) kept.push([r.frame, r.body]);
    else (r.other ? others : lost).push(r.frame);
    if (kept.length >= batch) flush();
    // The first picture loads the model; the last few tell the pace.
    const pace = took.length > 2 ? took.slice(-12).reduce((a, b) => a + b, 0) / Math.min(12, took.length) : null;
    o.progress({
      done,
      of: frames.length,
      left: pace === null ? null : ((frames.length - done) * pace) / 1000,
      lost,
      others,
    });
  };
  o.progress({ done: 0, of: frames.length, left: null, lost, others });
  const order: Order = {
    clip: { ...o.clip, camera: undefined },
    frames,
    regions: regions(o.points, o.clip.stamps.length, o.box),
  };
  worker.postMessage(order);
  return () => end();
}

/** regions are squares about the athlete where points or the coach's box tell. */
function regions(points: Record<string, Track>, n: number, box?: Box): [number, Region][] {
  const out: [number, Region][] = [];
  for (let f = 0; f < n; f += 4) {
    const here = Object.values(points).flatMap((t) => at(t, f) ?? []);
    if (here.length < 8) continue;
    const xs = here.map((p) => p.x);
    const ys = here.map((p) => p.y);
    const size = 1.55 * Math.max(Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys));
    out.push([
      f,
      { x: (Math.max(...xs) + Math.min(...xs) - size) / 2, y: (Math.max(...ys) + Math.min(...ys) - size) / 2, size },
    ]);
  }
  if (box) {
    const size = 1.25 * Math.max(box.width, box.height);
    out.push([box.frame, { x: box.x + box.width / 2 - size / 2, y: box.y + box.height / 2 - size / 2, size }]);
  }
  return out;
}
