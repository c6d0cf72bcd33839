import { useSyncExternalStore } from "react";
import { word } from "../../../texts/words";

// The cursor of the Bench: which frame is shown, and playing at a share of true
// speed. It changes up to sixty times a second, so it lives outside React.

export const speeds = [1, 0.5, 0.25, 0.125] as const;
/** Their names, in the same order. */
export const speedNames = ["full", "half", "quarter", "eighth"].map(word);
export type Speed = (typeof speeds)[number];

type State = {
  frame: number;
  playing: boolean;
  speed: Speed;
  loop: [number, number] | null;
  direction: 1 | -1;
  /** what was asked of a frame that is not drawn yet, and refused: so many times */
  refused: number;
};

export class Player {
  private state: State = { frame: 0, playing: false, speed: 1, loop: null, direction: 1, refused: 0 };
  private listeners = new Set<() => void>();
  private raf = 0;
  /** how often playing began or ended: who listens may do either while a frame is being shown */
  private turn = 0;

  /** times are the seconds of each frame, in true time once the rate is known */
  constructor(
    public times: number[],
    public ready: (n: number) => boolean = () => true,
    public prepare: (list: number[]) => void = () => {},
  ) {}

  get = () => this.state;
  subscribe = (f: () => void) => {
    this.listeners.add(f);
    return () => void this.listeners.delete(f);
  };
  private set(change: Partial<State>) {
    this.state = { ...this.state, ...change };
    this.listeners.forEach((f) => f());
  }

  /** drawn is the frame whose picture is on the stage. */
  drawn = -1;
  /** sees tells whether the picture of a frame is what is on the stage; if not, the stage says
   * that it waits. */
  sees(frame = this.state.frame) {
    if (frame !== this.state.frame || this.drawn === frame) return true;
    this.set({ refused: this.state.refused + 1 });
    return false;
  }

  get last() {
    return this.times.length - 1;
  }

  jump(frame: number) {
    const to = Math.max(0, Math.min(this.last, Math.round(frame)));
    if (to !== this.state.frame) this.set({ frame: to, direction: to < this.state.frame ? -1 : 1 });
  }
  step(n: number) {
    this.pause();
    this.jump(this.state.frame + n);
  }
  setSpeed(speed: Speed) {
    const playing = this.state.playing;
    this.pause();
    this.set({ speed });
    if (playing) this.play();
  }
  setLoop(loop: State["loop"]) {
    this.set({ loop: loop && loop[1] > loop[0] ? loop : null });
  }
  pause() {
    this.turn++;
    cancelAnimationFrame(this.raf);
    if (this.state.playing) this.set({ playing: false });
  }
  toggle() {
    if (this.state.playing) this.pause();
    else this.play();
  }

  play() {
    cancelAnimationFrame(this.raf);
    const turn = ++this.turn;
    const [from, to] = this.state.loop ?? [0, this.last];
    let start = this.state.frame >= to || this.state.frame < from ? from : this.state.frame;
    let began: number | null = null;
    this.set({ playing: true, frame: start });
    const tick = (now: number) => {
      began ??= now;
      const t = this.times[start] + ((now - began) / 1000) * this.state.speed;
      let n = this.at(t);
      if (n >= to) {
        if (!this.state.loop) {
          this.set({ frame: to, playing: false });
          return;
        }
        n = start = from;
        began = now;
      }
      // What will be due over the next refreshes is decoded ahead.
      const due: number[] = [];
      for (let i = 0; i <= 8; i++) {
        const d = this.at(t + (i / 60) * this.state.speed);
        if (d <= to && due.at(-1) !== d) due.push(d);
      }
      this.prepare(due);
      if (n !== this.state.frame) {
        if (this.ready(n)) {
          this.set({ frame: n, direction: 1 });
        }
      }
      if (turn !== this.turn) return;
      this.raf = requestAnimationFrame(tick);
    };
    this.raf = requestAnimationFrame(tick);
  }

  /** nearest is the frame that lies closest to a time. */
  nearest(t: number) {
    const before = this.at(t);
    return before < this.last && this.times[before + 1] - t < t - this.times[before] ? before + 1 : before;
  }

  /** at is the last frame at or before a time. */
  private at(t: number) {
    let lo = 0;
    let hi = this.last;
    while (lo < hi) {
      const mid = (lo + hi + 1) >> 1;
      if (this.times[mid] <= t) lo = mid;
      else hi = mid - 1;
    }
    return lo;
  }
}

export function usePlayer<T>(p: Player, pick: (s: State) => T): T {
  return useSyncExternalStore(p.subscribe, () => pick(p.get()));
}
