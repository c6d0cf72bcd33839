import { loadGraphModel, type GraphModel } from "@tensorflow/tfjs-converter";
import { tensor4d, type Tensor } from "@tensorflow/tfjs-core";
import { ready } from "./backend";
import type { Seen } from "./movenet";

// The landmark model with heels, toes and knuckles (33 points). It is good only
// when it is given the right region, turned so that the trunk stands upright; it
// answers with confident nonsense otherwise, so its word is weighed against the
// other model's.

/** Those of its points that we use, under our landmarks' names. */
export const points: Record<string, number> = {
  left_ear: 7,
  right_ear: 8,
  left_shoulder: 11,
  right_shoulder: 12,
  left_elbow: 13,
  right_elbow: 14,
  left_wrist: 15,
  right_wrist: 16,
  left_hand: 19,
  right_hand: 20,
  left_hip: 23,
  right_hip: 24,
  left_knee: 25,
  right_knee: 26,
  left_ankle: 27,
  right_ankle: 28,
  left_heel: 29,
  right_heel: 30,
  left_toe: 31,
  right_toe: 32,
};

const side = 256;
let model: Promise<GraphModel> | undefined;

/** detail looks at a square that is turned: middle, size and angle of its up. */
export async function detail(
  picture: ImageBitmap,
  cx: number,
  cy: number,
  size: number,
  turn: number,
): Promise<Record<string, Seen>> {
  const net = await (model ??= ready().then(() => loadGraphModel("/pose/blazepose-full.json")));
  const cut = new OffscreenCanvas(side, side);
  const pen = cut.getContext("2d", { willReadFrequently: true })!;
  const k = side / size;
  pen.translate(side / 2, side / 2);
  pen.rotate(-turn);
  pen.scale(k, k);
  pen.translate(-cx, -cy);
  pen.drawImage(picture, 0, 0);
  const rgba = pen.getImageData(0, 0, side, side).data;
  const rgb = new Float32Array(side * side * 3);
  for (let i = 0, n = 0; i < rgba.length; i += 4) {
    rgb[n++] = rgba[i] / 255;
    rgb[n++] = rgba[i + 1] / 255;
    rgb[n++] = rgba[i + 2] / 255;
  }
  const input = tensor4d(rgb, [1, side, side, 3]);
  const out = net.execute(input, ["Identity_2"]) as Tensor;
  const v = await out.data();
  input.dispose();
  out.dispose();
  const sigmoid = (x: number) => 1 / (1 + Math.exp(-x));
  const c = Math.cos(turn);
  const s = Math.sin(turn);
  return Object.fromEntries(
    Object.entries(points).map(([id, i]) => {
      const x = v[5 * i] / k - size / 2;
      const y = v[5 * i + 1] / k - size / 2;
      return [id, { x: cx + c * x - s * y, y: cy + s * x + c * y, score: sigmoid(v[5 * i + 3]) }];
    }),
  );
}
