/// <reference lib="webworker" />
import type { Box, Calls, Clip, Edit, Track } from "../../api/client";
import { openCore } from "../../core/core";
import { networks } from "./networks";
import { pictures } from "./pictures";

// Drafts a clip beside the page. The core says at which frames to look and what the
// networks are to see; here it gets its pictures and has the networks run.

export type Wish = Calls["begin_draft"]["wish"];
export type Order = { clip: Clip; points: Record<string, Track>; box?: Box; wish: Wish };
export type Outcome = Calls["look_answer"]["outcome"];
export type Report =
  | { of: number }
  | { frame: number; outcome: Outcome; took: number }
  | { save: Edit[] }
  | { trouble: string }
  | { done: true };

declare const self: DedicatedWorkerGlobalScope;

// A batch is saved after so many frames, or so many milliseconds on a slow machine.
const batch = 12;
const longest = 4000;
// Buffers of the core, by their numbers in core/wasmapi.
const [picture, square, answer] = [0, 1, 2];

self.onmessage = async (e: MessageEvent<Order>) => {
  const { clip, points, box, wish } = e.data;
  const say = (r: Report) => self.postMessage(r);
  try {
    const { core, buffer } = await openCore();
    const { frames, networks: specs } = core.begin_draft({
      clip: {
        width: clip.width,
        height: clip.height,
        scale: clip.proxy_scale,
        frames: clip.stamps.length,
        rate: clip.file_rate,
        pictures: clip.pictures,
      },
      points,
      box,
      wish,
    });
    const run = networks(specs);
    say({ of: frames.length });
    const source = await pictures(clip);
    let saved = performance.now();
    const save = () => {
      saved = performance.now();
      const changes = Object.entries(core.draft_changes({}).changes);
      if (changes.length) say({ save: changes.map(([key, value]) => ({ kind: "track", clip: clip.id, key, value })) });
    };
    for (const [i, frame] of frames.entries()) {
      const p = await source.get(frame);
      const began = performance.now();
      buffer(picture, p.bytes.length).set(p.bytes);
      let step = core.look({ frame, width: p.width, height: p.height, format: p.format });
      while (step.run) {
        const side = specs.find((s) => s.network === step.run)!.side;
        const out = await run(step.run, buffer(square, 3 * side * side).slice(0, 3 * side * side));
        const bytes = new Uint8Array(out.buffer, out.byteOffset, out.byteLength);
        buffer(answer, bytes.length).set(bytes);
        step = core.go_on({});
      }
      say({ frame, outcome: step.outcome, took: performance.now() - began });
      if ((i + 1) % batch === 0 || performance.now() - saved > longest) save();
    }
    save();
    source.close();
    say({ done: true });
  } catch (err) {
    say({ trouble: (err as Error).message });
  }
};
