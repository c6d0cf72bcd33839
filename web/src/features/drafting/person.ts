import { detail } from "./blazepose";
import { around, joints, look, whole, type Region, type Seen } from "./movenet";

// One athlete in one picture, from both models. Where they agree their word is
// worth more; feet and knuckles follow the joints that both see.

export type Body = Record<string, Seen>;

const limbs = ["shoulder", "elbow", "wrist", "hip", "knee", "ankle", "ear"];
const mean = (list: number[]) => list.reduce((a, b) => a + b, 0) / Math.max(1, list.length);

/** find looks in a region first, and in wider ones when nobody is there. */
export async function find(
  picture: ImageBitmap,
  at: Region | undefined,
): Promise<{ body: Body; region: Region } | undefined> {
  const tries = at ? [at, { x: at.x - at.size * 0.3, y: at.y - at.size * 0.3, size: at.size * 1.6 }] : [whole(picture)];
  for (const r of tries) {
    const first = await look(picture, r);
    const close = around(first, 0.25);
    if (!close) continue;
    // A second, closer look when the first region was much wider than the athlete.
    const seen = close.size < 0.75 * r.size ? await look(picture, close) : first;
    const sure = mean(seen.slice(5).map((s) => s.score));
    if (sure < 0.28) continue;
    const region = around(seen, 0.25) ?? close;
    return { body: await merge(picture, seen, region), region };
  }
  return undefined;
}

async function merge(picture: ImageBitmap, seen: Seen[], region: Region): Promise<Body> {
  const m: Body = {};
  joints.forEach((id, i) => (m[id] = seen[i]));
  const hip = mid(m.left_hip, m.right_hip);
  const chest = mid(m.left_shoulder, m.right_shoulder);
  const turn = Math.atan2(chest.x - hip.x, hip.y - chest.y);
  // A square about the hips that holds every joint, with room.
  const far = Math.max(
    ...seen.filter((s) => s.score > 0.2).map((s) => Math.hypot(s.x - hip.x, s.y - hip.y)),
    region.size / 3,
  );
  const fine = await detail(picture, hip.x, hip.y, 2.3 * far, turn);
  const scale = region.size / 1.55;
  const d = (a: Seen, b: Seen) => Math.hypot(a.x - b.x, a.y - b.y) / scale;
  // The second model may take left for right: whichever way fits the first better.
  for (const chain of [["knee", "ankle"], ["elbow", "wrist"], ["hip"], ["shoulder", "ear"]]) {
    const straight = chain.reduce(
      (t, p) => t + d(m["left_" + p], fine["left_" + p]) + d(m["right_" + p], fine["right_" + p]),
      0,
    );
    const crossed = chain.reduce(
      (t, p) => t + d(m["left_" + p], fine["right_" + p]) + d(m["right_" + p], fine["left_" + p]),
      0,
    );
    if (crossed < straight * 0.6) {
      const also = chain[0] === "knee" ? ["heel", "toe"] : chain[0] === "elbow" ? ["hand"] : [];
      for (const p of [...chain, ...also])
        [fine["left_" + p], fine["right_" + p]] = [fine["right_" + p], fine["left_" + p]];
    }
  }
  const out: Body = {};
  for (const s of ["left", "right"]) {
    for (const p of limbs) {
      const id = `${s}_${p}`;
      const agree = Math.exp(-((d(m[id], fine[id]) / 0.09) ** 2));
      out[id] = { x: m[id].x, y: m[id].y, score: Math.min(1, m[id].score * (0.55 + 0.6 * agree)) };
    }
    // Heel, toe and knuckles relative to the joint that both models know.
    const hang = (id: string, on: string) => {
      const a = m[on];
      const b = fine[on];
      const agree = Math.exp(-((d(a, b) / 0.07) ** 2));
      out[id] = {
        x: a.x + fine[id].x - b.x,
        y: a.y + fine[id].y - b.y,
        score: Math.min(1, fine[id].score * a.score * (0.25 + 0.85 * agree)),
      };
    };
    hang(`${s}_heel`, `${s}_ankle`);
    hang(`${s}_toe`, `${s}_ankle`);
    hang(`${s}_hand`, `${s}_wrist`);
  }
  return out;
}

const mid = (a: Seen, b: Seen) => ({ x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 });
