import type { Point, Track } from "../../../api/client";

// Tracks as they come over the wire: parallel arrays with a letter a frame. What
// stands here only reads them and merges changes the way the server does.

const letters = { h: "hand", d: "draft", t: "tracked", f: "filled" } as const;
const letterOf = { hand: "h", draft: "d", tracked: "t", filled: "f" } as const;
const empty = ".";
export const keep = "_";

export const newTrack = (from = 0): Track => ({ from, x: [], y: [], source: "", confidence: [] });

/** at gives the point of a frame. */
export function at(t: Track | undefined, frame: number): Point | undefined {
  if (!t) return undefined;
  const i = frame - t.from;
  const c = t.source[i];
  if (c === undefined || c === empty || c === keep) return undefined;
  return {
    x: t.x[i],
    y: t.y[i],
    source: letters[c.toLowerCase() as keyof typeof letters],
    confidence: t.confidence[i] / 100,
    hidden: c !== c.toLowerCase(),
  };
}

/** change makes a change of single points: frame to point, null takes it away. */
export function change(points: [number, Point | null][]): Track {
  const frames = points.map(([f]) => f);
  const from = Math.min(...frames);
  const n = Math.max(...frames) - from + 1;
  const t: Track = { from, x: Array(n).fill(0), y: Array(n).fill(0), source: "", confidence: Array(n).fill(0) };
  const source = Array(n).fill(keep);
  for (const [f, p] of points) {
    const i = f - from;
    source[i] = p ? (p.hidden ? letterOf[p.source].toUpperCase() : letterOf[p.source]) : empty;
    if (!p) continue;
    t.x[i] = p.x;
    t.y[i] = p.y;
    t.confidence[i] = Math.round(p.confidence * 100);
  }
  t.source = source.join("");
  return t;
}

/** apply merges a change into a copy; the hand's points give way to the hand only,
 * unless over is set. */
export function apply(t: Track | undefined, c: Track, over: boolean): Track | null {
  const was = t ?? newTrack(c.from);
  if (!c.source.length) return was.source.length ? was : null;
  const from = was.source.length ? Math.min(was.from, c.from) : c.from;
  const end = Math.max(was.from + was.source.length, c.from + c.source.length);
  const n = end - from;
  const x = Array<number>(n).fill(0);
  const y = Array<number>(n).fill(0);
  const confidence = Array<number>(n).fill(0);
  const source = Array<string>(n).fill(empty);
  const shift = was.from - from;
  for (let i = 0; i < was.source.length; i++) {
    x[i + shift] = was.x[i];
    y[i + shift] = was.y[i];
    confidence[i + shift] = was.confidence[i];
    source[i + shift] = was.source[i];
  }
  let some = false;
  for (let i = 0; i < c.source.length; i++) {
    const k = c.from - from + i;
    const letter = c.source[i];
    if (letter === keep || (!over && source[k].toLowerCase() === "h" && letter.toLowerCase() !== "h")) continue;
    x[k] = c.x[i];
    y[k] = c.y[i];
    confidence[k] = c.confidence[i];
    source[k] = letter;
  }
  for (const s of source) some ||= s !== empty;
  return some ? { from, x, y, source: source.join(""), confidence } : null;
}

/** stretch is what a track holds over the frames of a change, to tell whether
 * somebody else has touched them. */
export const stretch = (t: Track | undefined, c: Track) => Array.from(c.source, (_, i) => at(t, c.from + i) ?? null);

/** drafted tells which frames have computed points of the body. */
export function drafted(points: Record<string, Track>, frames: number): boolean[] {
  const out = Array<boolean>(frames).fill(false);
  for (const [id, t] of Object.entries(points)) {
    if (!/_(hip|knee|ankle|shoulder)$/.test(id)) continue;
    for (let i = 0; i < t.source.length; i++)
      if ("dfth".includes(t.source[i].toLowerCase())) out[t.from + i] ||= t.source[i] === "d" || t.source[i] === "f";
  }
  return out;
}
