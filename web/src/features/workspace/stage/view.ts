import type { Spot } from "./tools";

// How the picture lies on the stage: screen = scale * picture + (x, y).

export type Size = { w: number; h: number };
export type View = { k: number; x: number; y: number };

const closest = 24;

/** fit shows the whole picture in the middle. */
export function fit(stage: Size, picture: Size): View {
  const k = Math.min(stage.w / picture.w, stage.h / picture.h);
  return { k, x: (stage.w - k * picture.w) / 2, y: (stage.h - k * picture.h) / 2 };
}

/** zoomed keeps the place under the pointer; null is the whole picture again. */
export function zoomed(now: View, whole: View, by: number, x: number, y: number): View | null {
  const k = Math.min(closest, Math.max(whole.k, now.k * by));
  if (k <= whole.k * 1.001) return null;
  return { k, x: x - ((x - now.x) / now.k) * k, y: y - ((y - now.y) / now.k) * k };
}

/** toPicture is the place of the picture at a place of the stage. */
export const toPicture = (v: View, x: number, y: number): Spot => [(x - v.x) / v.k, (y - v.y) / v.k];

const tenth = (n: number) => Math.round(n * 10) / 10;

/** part is the part of the picture in sight: left, top, width, height. */
export function part(v: View, stage: Size, picture: Size): [number, number, number, number] {
  const [left, top] = [tenth(Math.max(0, -v.x / v.k)), tenth(Math.max(0, -v.y / v.k))];
  return [
    left,
    top,
    tenth(Math.min(picture.w, (stage.w - v.x) / v.k) - left),
    tenth(Math.min(picture.h, (stage.h - v.y) / v.k) - top),
  ];
}
