import type { Edit, Work } from "../../api/client";
import type { Evaluation } from "./hooks/useEvaluation";
import type { Ask } from "./stage/tools";
import type { Open } from "./context";
import { shown } from "./findings";
import { at as pointOf } from "./work/tracks";
import { answer, asked, taken } from "./questions";
import { limbOf, swap } from "./sides";

// What a key or a button does at the workspace.

/** hop is the flag before or behind a frame: its position, if there is one. */
export function hop(flags: Record<string, number>, frame: number, by: 1 | -1): string | undefined {
  const list = Object.entries(flags).sort((a, b) => a[1] - b[1]);
  return (by > 0 ? list.find(([, f]) => f > frame) : list.findLast(([, f]) => f < frame))?.[0];
}

/** lookedAt is the key position that is looked at: another version of the model may not have
 * the one that was chosen. */
export const lookedAt = (positions: { id: string }[], chosen: string): string =>
  (positions.find((p) => p.id === chosen) ?? positions[0])?.id ?? "";

/** nextSuspect is the point to look at behind (or before) the one that is selected. */
export function nextSuspect(
  suspects: Evaluation["suspects"],
  frame: number,
  landmark: string | null,
  by: 1 | -1,
): Evaluation["suspects"][number] | undefined {
  const same = suspects.filter((d) => d.frame === frame);
  const i = same.findIndex((d) => d.landmark === landmark);
  const list = by > 0 ? suspects : [...suspects].reverse();
  return (i >= 0 ? same[i + by] : same[0]) ?? list.find((d) => (d.frame - frame) * by > 0) ?? list[0];
}

export type Commands = ReturnType<typeof commands>;

export function commands(
  w: Open & {
    asked: Ask | null;
    undo(): void;
    redo(): void;
    talk(): void;
    go(to: "feedback" | "log" | "next"): void;
    goOn(): void;
    link(): void;
  },
) {
  const { player, state, dispatch, clip, model, evaluation, edit } = w;
  const { points, flags, report, ready } = evaluation;
  const frame = () => player.get().frame;
  const selected = () => (state.landmark ? pointOf(points[state.landmark], frame()) : undefined);
  const put = (value: unknown): Edit => ({
    kind: "point",
    clip: clip!.id,
    key: state.landmark!,
    frame: frame(),
    value,
  });
  return {
    event: model.id,
    player,
    dispatch,
    ready,
    asked: w.asked,
    selected,
    undo: w.undo,
    redo: w.redo,
    talk: w.talk,
    go: w.go,
    goOn: w.goOn,
    link: w.link,
    suspect: w.suspect,
    hop(by: 1 | -1) {
      const to = hop(flags, frame(), by);
      if (to) w.choose(to);
    },
    flag(position: string, at: number | null) {
      edit({ kind: "flag", clip: clip!.id, key: position, value: at });
      dispatch({ type: "position", id: position });
    },
    flagNext() {
      if (report?.next && ready && player.sees()) this.flag(report.next, frame());
    },
    /** nudge moves the selected point by pixels. */
    nudge(dx: number, dy: number) {
      const p = selected();
      if (!p || !clip || !player.sees()) return;
      const clamp = (v: number, to: number) => Math.round(Math.min(to, Math.max(0, v)) * 10) / 10;
      edit(
        put({ ...p, source: "hand", confidence: 1, x: clamp(p.x + dx, clip.width), y: clamp(p.y + dy, clip.height) }),
      );
    },
    /** hide says that the selected point, or the next one, is a guess behind the body. */
    hide() {
      const p = selected();
      if (p && clip) edit(put({ ...p, hidden: !p.hidden }));
      else dispatch({ type: "hide" });
    },
    /** swap exchanges the legs (or the arms, with a joint of one selected) in the loop, or
     * in the whole clip. */
    swap() {
      const [from, to] = player.get().loop ?? [0, player.last];
      if (clip && evaluation.core) edit(...swap(evaluation.core, clip.id, limbOf(state.landmark), from, to));
    },
    remove() {
      if (selected() && clip) edit(put(null));
    },
    skip() {
      if (w.asked) dispatch({ type: "skip", ask: w.asked.position + w.asked.landmark });
    },
    /** answer takes the nth likely answer to the question on top, the frame on the stage, or
     * puts it off. */
    answer(n: number | "stage" | "later") {
      const q = clip && state.panel === "check" ? asked(report, state.later, clip.id) : undefined;
      if (!q || !clip) return;
      if (n === "stage" && !player.sees()) return;
      if (n === "later") return dispatch({ type: "later", id: clip.id + q.id });
      if (q.kind === "circle" && n === 0) return edit(...taken(clip.id, w.circle));
      const option = n === "stage" ? q.kind === "moment" && { label: "", frame: frame() } : q.options[n];
      const { core, input } = evaluation;
      if (option) edit(...answer({ clip: clip.id, core, input }, q, option));
    },
    decide(v: "accepted" | "refused") {
      const f = shown(w).open;
      if (f && state.panel === "findings") edit({ kind: "finding", key: f.fault, value: v });
    },
    /** loop plays the phase under the cursor again and again, or ends that. */
    loop() {
      const p = report?.phases.find((x) => x.from <= frame() && x.to > frame());
      player.setLoop(player.get().loop || !p ? null : [p.from, p.to]);
    },
    name: (fault: string) => model.faults.find((f) => f.id === fault)?.name ?? fault,
  };
}

/** bend moves a point; in a drafted track its neighbours come along. */
export function bend(
  w: { clip: string; radius: number; work: Work; core: Evaluation["core"] },
  p: { landmark: string; frame: number; point: { x: number; y: number; hidden: boolean } },
): Edit {
  const was = w.work.clips[w.clip]?.points[p.landmark];
  const drafted =
    w.radius > 0 && was && pointOf(was, p.frame) && (pointOf(was, p.frame - 1) || pointOf(was, p.frame + 1));
  if (!w.core || !drafted) return { kind: "point", clip: w.clip, key: p.landmark, frame: p.frame, value: p.point };
  const { changes } = w.core.correct({
    kind: "bend",
    landmarks: [p.landmark],
    from: p.frame,
    to: p.frame,
    x: p.point.x,
    y: p.point.y,
    hidden: p.point.hidden,
    radius: w.radius,
    tracks: { [p.landmark]: was },
  });
  return { kind: "track", clip: w.clip, key: p.landmark, value: changes[p.landmark] };
}
