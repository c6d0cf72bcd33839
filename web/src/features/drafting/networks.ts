import { loadGraphModel, type GraphModel } from "@tensorflow/tfjs-converter";
import { tensor4d, type Tensor } from "@tensorflow/tfjs-core";
import type { Calls } from "../../api/client";
import { ready } from "./backend";
import { t } from "../../texts/texts";

// The pose networks on the WebAssembly backend. Networks and backend ship with the
// application and load when first used; what they are to look at, and what
// becomes of their answers, is the core's.

type Spec = Calls["begin_draft_answer"]["networks"][number];

export type Run = (network: string, square: Uint8Array) => Promise<Float32Array>;

const loaded = new Map<string, Promise<GraphModel>>();

/** networks gives a function that runs a network on a square of bytes. */
export function networks(specs: Spec[]): Run {
  return async (name, square) => {
    const spec = specs.find((s) => s.network === name);
    if (!spec) throw new Error(t("There is no network of {name}.", { name }));
    let model = loaded.get(spec.file);
    if (!model) {
      model = ready().then(() => loadGraphModel(`${__POSE__}/${spec.file}.json`));
      model.catch(() => loaded.delete(spec.file));
      loaded.set(spec.file, model);
    }
    const net = await model;
    const shape: [number, number, number, number] = [1, spec.side, spec.side, 3];
    const input = spec.unit
      ? tensor4d(
          Float32Array.from(square, (v) => v / 255),
          shape,
        )
      : tensor4d(Int32Array.from(square), shape, "int32");
    const output = net.execute(input, spec.output) as Tensor;
    try {
      return (await output.data()) as Float32Array;
    } finally {
      input.dispose();
      output.dispose();
    }
  };
}
