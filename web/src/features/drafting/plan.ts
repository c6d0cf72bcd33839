import type { Clip, Edit, Point } from "../../api/client";
import { change } from "../workspace/work/tracks";
import type { Body } from "./person";

/** Wish is what of a clip is to be drafted: frames from and to, every so many, anew or only
 * where there is nothing yet. */
export type Wish = { from: number; to: number; step: number; anew: boolean };

/** plan lists the frames: coarse ones first, so that regions and a first look
 * come early, then the frames between. */
export function plan(w: Wish, done: boolean[]): number[] {
  const coarse = Math.max(w.step, 8);
  const list: number[] = [];
  for (let f = w.from; f <= w.to; f += coarse) list.push(f);
  const rest: number[] = [];
  for (let f = w.from; f <= w.to; f += w.step) if ((f - w.from) % coarse !== 0) rest.push(f);
  return [...list, ...rest].filter((f) => w.anew || !done[f]);
}

/** edits makes one change a landmark of what was seen in some frames. */
export function edits(clip: Clip, seen: [number, Body][]): Edit[] {
  const by: Record<string, [number, Point | null][]> = {};
  for (const [frame, body] of seen)
    for (const [id, s] of Object.entries(body)) {
      const inside = s.x >= 0 && s.y >= 0 && s.x <= clip.width && s.y <= clip.height;
      (by[id] ??= []).push([
        frame,
        inside
          ? {
              x: round(s.x),
              y: round(s.y),
              source: "draft",
              confidence: Math.max(0.01, Math.min(1, s.score)),
              hidden: false,
            }
          : null,
      ]);
    }
  return Object.entries(by).map(([key, list]) => ({ kind: "track" as const, clip: clip.id, key, value: change(list) }));
}

const round = (v: number) => Math.round(v * 100) / 100;
