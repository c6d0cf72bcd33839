import { loadGraphModel, type GraphModel } from "@tensorflow/tfjs-converter";
import { tensor4d, type Tensor } from "@tensorflow/tfjs-core";
import { ready } from "./backend";

// The pose model (MoveNet Thunder, 17 joints) on the WebAssembly backend. Model
// and backend ship with the application under /pose/ and load when first used.

/** The joints that the model gives, under our landmarks' names. */
export const joints = [
  "nose",
  "left_eye",
  "right_eye",
  "left_ear",
  "right_ear",
  "left_shoulder",
  "right_shoulder",
  "left_elbow",
  "right_elbow",
  "left_wrist",
  "right_wrist",
  "left_hip",
  "right_hip",
  "left_knee",
  "right_knee",
  "left_ankle",
  "right_ankle",
] as const;

/** Where a joint was seen, px of the picture, and how sure the model is, 0 to 1. */
export interface Seen {
  x: number;
  y: number;
  score: number;
}

/** A square part of the picture. */
export interface Region {
  x: number;
  y: number;
  size: number;
}

const side = 256; // what the model takes

let model: Promise<GraphModel> | undefined;

async function load(): Promise<GraphModel> {
  await ready();
  return loadGraphModel("/pose/movenet-thunder.json");
}

/** look finds one person in a part of a picture. */
export async function look(picture: ImageBitmap, at: Region): Promise<Seen[]> {
  const net = await (model ??= load());
  const cut = new OffscreenCanvas(side, side);
  const pen = cut.getContext("2d", { willReadFrequently: true })!;
  pen.drawImage(picture, at.x, at.y, at.size, at.size, 0, 0, side, side);
  const rgba = pen.getImageData(0, 0, side, side).data;
  const rgb = new Int32Array(side * side * 3);
  for (let i = 0, k = 0; i < rgba.length; i += 4) {
    rgb[k++] = rgba[i];
    rgb[k++] = rgba[i + 1];
    rgb[k++] = rgba[i + 2];
  }
  const input = tensor4d(rgb, [1, side, side, 3], "int32");
  const out = net.execute(input) as Tensor;
  const v = await out.data();
  input.dispose();
  out.dispose();
  return joints.map((_, i) => ({
    y: at.y + v[3 * i] * at.size,
    x: at.x + v[3 * i + 1] * at.size,
    score: v[3 * i + 2],
  }));
}

/** whole is the square that holds all of a picture. */
export const whole = (p: ImageBitmap): Region => {
  const size = Math.max(p.width, p.height);
  return { x: (p.width - size) / 2, y: (p.height - size) / 2, size };
};

/** around is the square about a person who was seen, with room to move. */
export function around(seen: Seen[], least = 0.2): Region | undefined {
  const sure = seen.filter((s) => s.score >= least);
  if (sure.length < 6) return undefined;
  const xs = sure.map((s) => s.x);
  const ys = sure.map((s) => s.y);
  const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const size = 1.55 * Math.max(x1 - x0, y1 - y0, 40);
  return { x: (x0 + x1) / 2 - size / 2, y: (y0 + y1) / 2 - size / 2, size };
}

/** person looks twice: where the last frame or the whole picture says, then closer. */
export async function person(picture: ImageBitmap, last?: Seen[]): Promise<Seen[]> {
  const before = last && around(last);
  const first = await look(picture, before ?? whole(picture));
  const close = around(first);
  return close ? look(picture, close) : first;
}
