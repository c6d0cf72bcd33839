import type { Calls, Model, Track } from "../api/client";

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

/** Calls of the core by name, each with its question and its answer. */
type CallName = Exclude<keyof Calls, `${string}_answer`>;
export type Core = { [K in CallName]: (q: Calls[K]) => Calls[`${K}_answer`] };

export type Input = Calls["evaluate"]["input"];

type Tracks = Record<string, Track>;

/** openSession gives the core for one model, clip and its tracks. The core keeps them
 * between calls; only what it does not have yet is handed over, before whatever call
 * comes next, so that it does not matter who asks first. */
export function openSession(core: Core) {
  let model: Model | undefined;
  let clip = "";
  let tracks: Tracks = {};
  const hand = (m: Model, id: string, t: Tracks) => {
    if (model !== m) core.set_model({ model: m });
    model = m;
    const replace = id !== clip;
    if (t === tracks && !replace) return;
    const was = replace ? {} : tracks;
    const put: Tracks = {};
    for (const [k, v] of Object.entries(t)) if (was[k] !== v) put[k] = v;
    for (const k of Object.keys(was)) if (!(k in t)) put[k] = null as never; // null removes it
    if (replace || Object.keys(put).length) core.set_tracks({ replace, tracks: put });
    clip = id;
    tracks = t;
  };
  return (m: Model, id: string, t: Tracks): Core =>
    new Proxy(core, {
      get: (c, name: keyof Core) => (q: never) => {
        hand(m, id, t);
        return c[name](q);
      },
    });
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
  return new Proxy({} as Core, {
    // Whoever awaits the core asks whether it has a "then".
    get: (own, name: keyof Core | "then") =>
      name === "then" ? undefined : (own[name] ?? ((q: unknown) => call(name, q))),
  });
}
