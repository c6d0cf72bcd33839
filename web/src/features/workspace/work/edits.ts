import type { Edit, Point, Track, Work } from "../../../api/client";
import table from "../../../api/gen/edits.gen.json";
import * as tracks from "./tracks";

// What an edit does to the work, by the table of kinds that the server has.

const kinds = Object.fromEntries(table.map((k) => [k.kind, k]));

/** known tells whether there is that kind of edit; an older page may have left others. */
export const known = (e: Edit) => e.kind in kinds;

type Fields = Record<string, unknown>;

const put = (m: Fields, key: string, v: unknown): Fields => {
  const out = { ...m };
  if (v === null || v === undefined) delete out[key];
  else out[key] = v;
  return out;
};

/** holder is what has the field that an edit changes: the work, or its part of one clip. */
const holder = (w: Work, e: Edit): Fields | undefined => (kinds[e.kind].on_clip ? w.clips[e.clip!] : w);

/** apply makes one edit on a copy of the work. */
export function apply(w: Work, e: Edit): Work {
  const k = kinds[e.kind];
  const holds = holder(w, e);
  if (!holds) return w;
  const was = holds[k.field];
  let now: unknown;
  if (e.kind === "point" || e.kind === "track") {
    const list = was as Record<string, Track>;
    if (e.kind === "track" && !e.value) return w;
    now =
      e.kind === "point"
        ? put(
            list,
            e.key,
            tracks.apply(list[e.key], tracks.change([[e.frame ?? 0, (e.value ?? null) as Point | null]]), true),
          )
        : put(list, e.key, tracks.apply(list[e.key], e.value as Track, !!e.override));
  } else if (k.keyed) now = put(was as Fields, e.key, e.value);
  else now = e.value ?? (k.text ? "" : undefined);
  return k.on_clip
    ? { ...w, clips: { ...w.clips, [e.clip!]: { ...w.clips[e.clip!], [k.field]: now } } }
    : { ...w, [k.field]: now };
}

/** valueAt is what an edit's target holds now. */
export function valueAt(w: Work, e: Edit): unknown {
  const k = kinds[e.kind];
  const holds = holder(w, e)?.[k.field];
  if (e.kind === "point") return tracks.at((holds as Record<string, Track> | undefined)?.[e.key], e.frame ?? 0);
  if (e.kind === "track")
    return e.value
      ? tracks.stretch((holds as Record<string, Track> | undefined)?.[e.key], e.value as Track)
      : undefined;
  if (k.keyed) return (holds as Fields | undefined)?.[e.key];
  return k.text ? holds || undefined : holds;
}

export const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);
