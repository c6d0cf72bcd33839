import type { Calls, Track } from "../api/client";

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
  model(q: Calls["model"]): Calls["model_answer"];
  put(q: Calls["put"]): Calls["put_answer"];
  evaluate(q: Calls["evaluate"]): Calls["evaluate_answer"];
  blocks(q: Calls["blocks"]): Calls["blocks_answer"];
  rates(q: Calls["rates"]): Calls["rates_answer"];
  curves(q: Calls["curves"]): Calls["curves_answer"];
  doubts(q: Calls["doubts"]): Calls["doubts_answer"];
  settle(q: Calls["doubts"]): Calls["settle_answer"];
  shows(q: Calls["shows"]): Calls["shows_answer"];
  above(q: Calls["above"]): Calls["above_answer"];
  say(q: Calls["say"]): Calls["say_answer"];
  limb(q: Calls["limb"]): Calls["limb_answer"];
  correct(q: Calls["correct"]): Calls["correct_answer"];
  camera(q: Calls["camera"]): Calls["camera_answer"];
  catalogue(q: object): Calls["catalogue"];
};

export type Input = Calls["evaluate"]["input"];

/** desk lays the tracks of a clip on the core's desk: only those that are not
 * there yet. */
export function desk(core: Core) {
  let clip = "";
  let lying: Record<string, Track> = {};
  return (id: string, tracks: Record<string, Track>) => {
    const anew = id !== clip;
    if (anew) lying = {};
    const put: Record<string, Track> = {};
    for (const [k, t] of Object.entries(tracks)) if (lying[k] !== t) put[k] = t;
    for (const k of Object.keys(lying)) if (!(k in tracks)) put[k] = null as never; // null takes it off
    if (anew || Object.keys(put).length) core.put({ anew, tracks: put });
    clip = id;
    lying = tracks;
  };
}

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
    // First room, then the view: making room may move the memory.
    const room = x.reserve(request.length);
    bytes().set(request, room);
    const n = x.call(name.length, request.length);
    const at = x.place();
    const answer = decoder.decode(bytes().subarray(at, at + Math.abs(n)));
    if (n < 0) throw new Error(answer);
    return JSON.parse(answer);
  };
  const names = [
    "model",
    "put",
    "evaluate",
    "blocks",
    "rates",
    "curves",
    "doubts",
    "settle",
    "shows",
    "limb",
    "above",
    "say",
    "correct",
    "camera",
    "catalogue",
  ] as const;
  return Object.fromEntries(names.map((n) => [n, (q: unknown) => call(n, q)])) as unknown as Core;
}
