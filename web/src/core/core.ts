import type { Calls } from "../api/client";

// The Go core as WebAssembly: the same computation as in the server. Loaded
// only when the Bench opens.

type Exports = {
  memory?: WebAssembly.Memory;
  mem?: WebAssembly.Memory;
  reserve(n: number): number;
  call(name: number, length: number): number;
  place(): number;
};

declare global {
  interface Window {
    Go?: new () => { importObject: WebAssembly.Imports; run(i: WebAssembly.Instance): Promise<void> };
  }
}

export type Core = {
  evaluate(q: Calls["evaluate"]): Calls["evaluate_answer"];
  blocks(q: Calls["blocks"]): Calls["blocks_answer"];
  rates(q: Calls["rates"]): Calls["rates_answer"];
};

let loading: Promise<Core> | undefined;

export function loadCore(): Promise<Core> {
  loading ??= start().catch((e) => {
    loading = undefined;
    throw e;
  });
  return loading;
}

async function start(): Promise<Core> {
  await new Promise<void>((ok, no) => {
    const s = document.createElement("script");
    s.src = "/core/wasm_exec.js";
    s.onload = () => ok();
    s.onerror = () => no(new Error("The computation could not be loaded. Reload the page."));
    document.head.append(s);
  });
  const go = new window.Go!();
  const { instance } = await WebAssembly.instantiateStreaming(fetch("/core/core.wasm"), go.importObject);
  void go.run(instance);
  const x = instance.exports as unknown as Exports;
  // Memory grows and moves: views are made anew for each call.
  const bytes = () => new Uint8Array((x.mem ?? x.memory)!.buffer);
  const encoder = new TextEncoder();
  const decoder = new TextDecoder();
  const call = (name: string, q: unknown) => {
    const request = encoder.encode(name + JSON.stringify(q));
    bytes().set(request, x.reserve(request.length));
    const n = x.call(name.length, request.length);
    const at = x.place();
    const answer = decoder.decode(bytes().subarray(at, at + Math.abs(n)));
    if (n < 0) throw new Error(answer);
    return JSON.parse(answer);
  };
  return { evaluate: (q) => call("evaluate", q), blocks: (q) => call("blocks", q), rates: (q) => call("rates", q) };
}
