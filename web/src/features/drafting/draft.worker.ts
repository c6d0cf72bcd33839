/// <reference lib="webworker" />
import type { Clip } from "../../api/client";
import { Frames } from "../workspace/stage/frames";
import type { Region } from "./movenet";
import { find, type Body } from "./person";

// Drafts a whole clip beside the page: frames in the order given, each in the
// region that the nearest frame already looked at says.

export type Order = { clip: Clip; frames: number[]; regions: [number, Region][] };
export type Report =
  { frame: number; body: Body | null; other: boolean; took: number } | { trouble: string } | { done: true };

declare const self: DedicatedWorkerGlobalScope;

self.onmessage = async (e: MessageEvent<Order>) => {
  const { clip, frames, regions } = e.data;
  const say = (r: Report) => self.postMessage(r);
  try {
    const source = await Frames.open(clip);
    const known = new Map(regions);
    for (const [i, n] of frames.entries()) {
      source.ahead(frames.slice(i + 1, i + 3));
      const picture = await source.get(n);
      const began = performance.now();
      const k = (picture.width / (clip.width * clip.proxy_scale)) * clip.proxy_scale;
      const hint = nearest(known, n);
      const region = hint && { x: hint.x * k, y: hint.y * k, size: hint.size * k };
      let got = await find(picture, region);
      // Nobody leaps by half a body from one look to the next: that is somebody else.
      const other = !!got && !!region && far(got.region, region) && close(known, n);
      if (other) got = undefined;
      if (got) {
        known.set(n, { x: got.region.x / k, y: got.region.y / k, size: got.region.size / k });
        for (const s of Object.values(got.body)) {
          s.x /= k;
          s.y /= k;
        }
      }
      say({ frame: n, body: got?.body ?? null, other, took: performance.now() - began });
    }
    source.close();
    say({ done: true });
  } catch (err) {
    say({ trouble: (err as Error).message });
  }
};

const far = (a: Region, b: Region) =>
  Math.hypot(a.x + a.size / 2 - b.x - b.size / 2, a.y + a.size / 2 - b.y - b.size / 2) > 0.4 * b.size;
const close = (known: Map<number, Region>, n: number) => [-3, -2, -1, 0, 1, 2, 3].some((d) => known.has(n + d));

/** nearest is the region of the closest frame looked at, or between the two
 * around; it grows with the distance, since the athlete moves. */
function nearest(known: Map<number, Region>, n: number): Region | undefined {
  let before: number | undefined;
  let after: number | undefined;
  for (const f of known.keys()) {
    if (f <= n && (before === undefined || f > before)) before = f;
    if (f >= n && (after === undefined || f < after)) after = f;
  }
  const a = before === undefined ? undefined : known.get(before);
  const b = after === undefined ? undefined : known.get(after);
  if (a && b && before !== after) {
    const t = (n - before!) / (after! - before!);
    const mix = (p: number, q: number) => p + (q - p) * t;
    return { x: mix(a.x, b.x), y: mix(a.y, b.y), size: mix(a.size, b.size) };
  }
  const r = a ?? b;
  if (!r) return undefined;
  const gap = Math.abs(n - (before ?? after ?? n));
  const more = Math.min(0.6, 0.04 * gap) * r.size;
  return { x: r.x - more / 2, y: r.y - more / 2, size: r.size + more };
}
