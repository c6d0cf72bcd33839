import type { Edit, Point, Track, Work } from "../api/client";
import * as tracks from "./tracks";

const put = <T>(m: Record<string, T>, key: string | number, v: T | null | undefined) => {
  const out = { ...m };
  if (v === null || v === undefined) delete out[key];
  else out[key] = v;
  return out;
};

/** apply makes one edit on a copy of the work. */
export function apply(w: Work, e: Edit): Work {
  const value = e.value as never;
  const clip = (change: (c: Work["clips"][string]) => Partial<Work["clips"][string]>): Work => {
    const c = w.clips[e.clip!];
    return c ? { ...w, clips: { ...w.clips, [e.clip!]: { ...c, ...change(c) } } } : w;
  };
  switch (e.kind) {
    case "mark":
      return { ...w, marks: put(w.marks, e.key, value) };
    case "finding":
      return { ...w, findings: put(w.findings, e.key, value) };
    case "advice":
      return { ...w, advice: put(w.advice, e.key, value) };
    case "note":
      return { ...w, note: (value as string) ?? "" };
    case "course":
      return { ...w, course: value ?? undefined };
    case "eye":
      return { ...w, eye: (value as string) ?? "" };
    case "flag":
      return clip((c) => ({ flags: put(c.flags, e.key, value) }));
    case "scale":
      return clip(() => ({ scale: value ?? undefined }));
    case "ground":
      return clip(() => ({ ground: value ?? undefined }));
    case "box":
      return clip(() => ({ box: value ?? undefined }));
    case "show":
      return clip((c) => ({ shows: put(c.shows, e.key, value) }));
    case "point":
      return clip((c) => ({
        points: put(
          c.points,
          e.key,
          tracks.apply(c.points[e.key], tracks.change([[e.frame ?? 0, (value ?? null) as Point | null]]), true),
        ),
      }));
    case "track":
      return value
        ? clip((c) => ({ points: put(c.points, e.key, tracks.apply(c.points[e.key], value as Track, !!e.over)) }))
        : w;
  }
  return missing(e.kind);
}

/** valueAt is what an edit's target holds now. */
export function valueAt(w: Work, e: Edit): unknown {
  const c = e.clip ? w.clips[e.clip] : undefined;
  switch (e.kind) {
    case "mark":
      return w.marks[e.key];
    case "finding":
      return w.findings[e.key];
    case "advice":
      return w.advice[e.key];
    case "note":
      return w.note || undefined;
    case "course":
      return w.course;
    case "eye":
      return w.eye || undefined;
    case "flag":
      return c?.flags[e.key];
    case "scale":
      return c?.scale;
    case "ground":
      return c?.ground;
    case "box":
      return c?.box;
    case "show":
      return c?.shows[e.key];
    case "point":
      return tracks.at(c?.points[e.key], e.frame ?? 0);
    case "track":
      return e.value ? tracks.stretch(c?.points[e.key], e.value as Track) : undefined;
  }
  return missing(e.kind);
}

/** A kind of edit without a case does not compile. */
const missing = (kind: never): never => {
  throw new Error(`unknown edit ${String(kind)}`);
};

export const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);
