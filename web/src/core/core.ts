import type { Calls, Model, Track } from "../api/client";
import { t } from "../texts/texts";

// The Go core as WebAssembly: the same computation as in the server. Loaded
// only when the workspace opens.

type Exports = {
  memory?: WebAssembly.Memory;
  mem?: WebAssembly.Memory;
  reserve(n: number): number;
  call(name: number, length: number): number;
  place(): number;
  draft_buffer(which: number, n: number): number;
};

type Go = new () => { importObject: WebAssembly.Imports; run(i: WebAssembly.Instance): Promise<void> };

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
  loading ??= openCore()
    .then((opened) => opened.core)
    .catch((e) => {
      loading = undefined;
      throw e;
    });
  return loading;
}

/** openModule starts a program of ours that was built as WebAssembly: calls by name, with JSON in
 * and out. */
export async function openModule(file: string) {
  const runtime = `${__CORE__}/wasm_exec.js`; // a script of Go's, which leaves its Go behind
  await import(/* @vite-ignore */ runtime).catch(() => {
    throw new Error(t("The computation could not be loaded. Reload the page."));
  });
  const go = new (globalThis as unknown as { Go: Go }).Go();
  const { instance } = await WebAssembly.instantiateStreaming(fetch(`${__CORE__}/${file}`), go.importObject);
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
  return { call, bytes, exports: x };
}

/** openCore starts a core of its own, on a page or in a worker. Besides its calls it has
 * buffers for what is too large for JSON: n bytes of one of them, until the next call. */
export async function openCore(): Promise<{ core: Core; buffer(which: number, n: number): Uint8Array }> {
  const { call, bytes, exports: x } = await openModule("core.wasm");
  const core = new Proxy({} as Core, {
    // Whoever awaits the core asks whether it has a "then".
    get: (own, name: keyof Core | "then") =>
      name === "then" ? undefined : (own[name] ?? ((q: unknown) => call(name, q))),
  });
  const buffer = (which: number, n: number) => {
    const at = x.draft_buffer(which, n);
    return bytes().subarray(at, at + n);
  };
  return { core, buffer };
}
