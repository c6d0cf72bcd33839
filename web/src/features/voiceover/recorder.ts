import { ask, client, Failure, type Drawing, type Recording, type Scene } from "../../api/client";
import * as safe from "./safe";
import { t } from "../../texts/texts";

// A talk is recorded as what it is: the voice, and what changes on the stage. Nothing
// of the screen is filmed, so that it can be shown again in full sharpness.

/** Stage is what the stage shows now; over holds things drawn, not who drew them. */
export type Stage = {
  clip: string;
  frame: number;
  view: [number, number, number, number];
  speed: number;
  over: Drawing[];
};

/** Taken is a chapter that waits to be kept; again names one that it replaces. */
type Taken = Recording & { again?: string };

/** What the server will never take; anything else waits and is tried again. */
const hopeless = ["invalid", "too_large", "not_found"];

type State = {
  phase: "idle" | "asking" | "talking" | "keeping";
  name: string;
  since: number;
  waiting: number;
  trouble: string;
};

/** Recorder lives beside the Bench: it looks at the stage once a picture and notes what
 * changed. */
export class Recorder {
  private state: State = { phase: "idle", name: "", since: 0, waiting: 0, trouble: "" };
  private listeners = new Set<() => void>();
  private stream?: MediaStream;
  private tape?: MediaRecorder;
  private scenes: Scene[] = [];
  private last?: Stage & { drawn: string };
  private raf = 0;
  private waiting: { key: number | undefined; recording: Taken }[] = [];
  private ending: Promise<void> = Promise.resolve();

  /** look is what the stage shows now; the workspace keeps it fresh */
  look: () => Stage | null = () => null;

  constructor(
    private attempt: string,
    private kept: () => void,
  ) {
    void safe.left<Taken>(attempt).then((list) => {
      if (!list.length) return;
      this.waiting.unshift(...list);
      this.set({
        trouble: t("What you said here before is not stored yet; it was kept in this browser. Try again to store it."),
      });
    });
  }

  get = () => this.state;
  subscribe = (f: () => void) => {
    this.listeners.add(f);
    return () => void this.listeners.delete(f);
  };
  private set(change: Partial<State>) {
    this.state = { ...this.state, ...change, waiting: this.waiting.length };
    this.listeners.forEach((f) => f());
  }

  /** start asks for the microphone and begins the first chapter. */
  async start(name: string, finding = "", again?: string) {
    if (this.state.phase !== "idle") return;
    this.set({ phase: "asking", trouble: "" });
    try {
      this.stream = await navigator.mediaDevices.getUserMedia({
        audio: { echoCancellation: true, noiseSuppression: true },
      });
    } catch {
      return this.set({
        phase: "idle",
        trouble: t(
          "The browser gives no microphone. Allow it for this page (the sign before the address), check that one is plugged in, and press Z again.",
        ),
      });
    }
    this.begin(name, finding, again);
  }

  /** chapter ends the one that runs and begins the next. */
  chapter(name: string, finding = "") {
    if (this.state.phase !== "talking" || this.state.name === name) return;
    this.end();
    this.begin(name, finding);
  }

  /** stop ends the last chapter and keeps all. */
  async stop() {
    if (this.state.phase !== "talking") return;
    this.end();
    this.set({ phase: "keeping" });
    await this.ending;
    this.stream?.getTracks().forEach((t) => t.stop());
    await this.keep();
  }

  /** keep sends what waits, in order; what cannot be sent goes on waiting. */
  async keep() {
    this.set({ phase: "keeping", trouble: "" });
    while (this.waiting.length) {
      const { key, recording } = this.waiting[0];
      const { again, ...body } = recording;
      try {
        if (again) await ask(client.PUT("/chapters/{id}/recording", { params: { path: { id: again } }, body }));
        else await ask(client.POST("/attempts/{id}/chapters", { params: { path: { id: this.attempt } }, body }));
      } catch (e) {
        const lost = !(e instanceof Failure && hopeless.includes(e.kind));
        if (!lost) {
          this.waiting.shift(); // it would be refused again
          await safe.drop(key);
        }
        this.set({
          phase: "idle",
          trouble: t("“{name}” is not kept: {message}{which}", {
            name: body.name,
            message: (e as Error).message,
            which: lost ? t(" It waits here; try again.") : "",
          }),
        });
        this.kept();
        return;
      }
      this.waiting.shift();
      await safe.drop(key);
      this.set({});
    }
    this.set({ phase: "idle", name: "" });
    this.kept();
  }

  /** close lets the microphone go. */
  close() {
    cancelAnimationFrame(this.raf);
    if (this.tape?.state === "recording") this.tape.stop();
    this.stream?.getTracks().forEach((t) => t.stop());
  }

  private begin(name: string, finding: string, again?: string) {
    const type = ["audio/webm;codecs=opus", "audio/ogg;codecs=opus", "audio/mp4"].find((t) =>
      MediaRecorder.isTypeSupported(t),
    );
    const tape = (this.tape = new MediaRecorder(this.stream!, { mimeType: type, audioBitsPerSecond: 40000 }));
    const scenes: Scene[] = (this.scenes = []);
    const parts: Blob[] = [];
    this.last = undefined;
    tape.ondataavailable = (e) => void parts.push(e.data);
    const before = this.ending;
    this.ending = new Promise((done) => {
      tape.onstop = async () => {
        await before; // chapters stay in order
        const voice = await base64(new Blob(parts));
        if (scenes.length && voice) {
          const recording = { name, finding, stage: scenes, voice, again };
          this.waiting.push({ key: await safe.put(this.attempt, recording), recording });
        }
        done();
      };
    });
    tape.start();
    const since = performance.now();
    this.set({ phase: "talking", name, since, trouble: "" });
    const tick = () => {
      this.note((performance.now() - since) / 1000);
      this.raf = requestAnimationFrame(tick);
    };
    tick();
  }

  private end() {
    cancelAnimationFrame(this.raf);
    this.tape?.stop();
  }

  /** note adds what changed on the stage since the last look. */
  private note(t: number) {
    const now = this.look();
    if (!now) return;
    const drawn = JSON.stringify(now.over);
    const was = this.last;
    const scene: Scene = { t: Math.round(t * 1000) / 1000 };
    if (now.clip !== was?.clip) scene.clip = now.clip;
    if (now.frame !== was?.frame || scene.clip) scene.frame = now.frame;
    if (!was || now.view.some((v, i) => v !== was.view[i])) scene.view = now.view;
    if (now.speed !== was?.speed) scene.speed = now.speed;
    if (drawn !== was?.drawn) scene.over = now.over;
    if (Object.keys(scene).length > 1) this.scenes.push(scene);
    this.last = { ...now, drawn };
  }
}

async function base64(b: Blob) {
  const bytes = new Uint8Array(await b.arrayBuffer());
  let s = "";
  for (let i = 0; i < bytes.length; i += 0x8000) s += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  return btoa(s);
}
