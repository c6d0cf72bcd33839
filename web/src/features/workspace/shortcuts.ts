import { useEffect, useEffectEvent, type RefObject } from "react";
import type { Commands } from "./commands";
import { panels, type Panel } from "./panels/registry";
import { speeds } from "./stage/player";
import type { Handle } from "./timeline/timeline";
import { t } from "../../texts/texts";
import { pressed } from "../../settings/keys";
import { underWindow } from "../../ui/page_keys";

// One table of keys: the handler and the key sheet both come from it.

type Act = (c: Commands, e: KeyboardEvent, timeline: Handle | null) => unknown;
export type Shortcut = {
  show: string;
  does: string;
  keys: Record<string, Act>;
  /** what each does, where it is not the same */
  each?: Record<string, string>;
};

const along =
  (dx: number, dy: number): Act =>
  (c, e) => {
    if (c.selected()) c.nudge(dx * (e.shiftKey ? 1 : 0.1), dy * (e.shiftKey ? 1 : 0.1));
    else if (dx) c.player.step(dx * (e.shiftKey ? 10 : 1));
    else c.hop(dy as 1 | -1);
  };
const open =
  (p: Panel): Act =>
  (c) =>
    (p.offered?.(c.event) ?? true) && c.dispatch({ type: "panel", panel: p.id });

export const shortcuts: Shortcut[] = [
  {
    show: "← →",
    does: t("one frame back or on (Shift: ten); the wheel does the same"),
    keys: {
      ArrowLeft: along(-1, 0),
      ArrowRight: along(1, 0),
      Home: (c) => c.player.step(-1e9),
      End: (c) => c.player.step(1e9),
    },
  },
  {
    show: "S D",
    does: t("one frame back or on, also while a point is selected"),
    keys: { s: (c) => c.player.step(-1), d: (c) => c.player.step(1) },
    each: { s: t("one frame back"), d: t("one frame on") },
  },
  {
    show: "↑ ↓",
    does: t("flag before or after; B and N do the same"),
    keys: { ArrowUp: along(0, -1), ArrowDown: along(0, 1), b: (c) => c.hop(-1), n: (c) => c.hop(1) },
    each: { b: t("to the flag before"), n: t("to the flag after") },
  },
  { show: "Space", does: t("play or stop"), keys: { " ": (c) => c.player.toggle() } },
  {
    show: "1 2 3 4",
    does: t("full, half, quarter, eighth of true speed"),
    keys: Object.fromEntries(speeds.map((s, i): [string, Act] => [String(i + 1), (c) => c.player.setSpeed(s)])),
  },
  { show: "R", does: t("loop the phase under the cursor, or drag along the ruler"), keys: { r: (c) => c.loop() } },
  { show: "Enter", does: t("do what the attempt needs next"), keys: { Enter: (c) => c.goOn() } },
  { show: "F", does: t("flag the next key position here"), keys: { f: (c) => c.flagNext() } },
  { show: "P", does: t("place points, guided"), keys: { p: (c) => c.dispatch({ type: "place" }) } },
  {
    show: "Z",
    does: t("talk-through: your voice and what you show are recorded; press it again to stop"),
    keys: { z: (c) => c.talk() },
  },
  {
    show: "H K",
    does: t("the point is hidden (a guess); skip it"),
    keys: { h: (c) => c.hide(), k: (c) => c.skip() },
    each: { h: t("the point is hidden (a guess)"), k: t("skip the point") },
  },
  { show: "← ↑ → ↓", does: t("with a point selected: move it a tenth of a pixel (Shift: one)"), keys: {} },
  { show: "Delete", does: t("take the selected point away"), keys: { Delete: (c) => c.remove() } },
  {
    show: "V ⇧V",
    does: t("next or previous doubtful point"),
    keys: { v: (c) => c.suspect(1), V: (c) => c.suspect(-1) },
  },
  {
    show: "5 6 7 8 9",
    does: t("in Check: first, second, third answer; later; the frame on the stage"),
    keys: {
      "5": (c) => c.answer(0),
      "6": (c) => c.answer(1),
      "7": (c) => c.answer(2),
      "8": (c) => c.answer("later"),
      "9": (c) => c.answer("stage"),
    },
  },
  {
    show: "⇧S",
    does: t("exchange left and right: the legs, or the arms with a joint of one selected; in the loop, or everywhere"),
    keys: { S: (c) => c.swap() },
  },
  { show: "⇧L", does: t("copy a link to this moment, for a colleague"), keys: { L: (c) => c.link() } },
  { show: "L", does: t("skeleton on or off"), keys: { l: (c) => c.dispatch({ type: "skeleton" }) } },
  {
    show: "+ − 0",
    does: t("zoom the score at the cursor; all of it (the wheel over it does the same, Shift moves)"),
    keys: {
      "+": (_, __, t) => t?.zoom(1.6),
      "-": (_, __, t) => t?.zoom(1 / 1.6),
      "0": (_, __, t) => t?.whole(),
    },
  },
  {
    show: panels.map((p) => p.key.toUpperCase()).join(" "),
    does: panels.map((p) => p.label.toLowerCase()).join(", "),
    keys: Object.fromEntries(panels.map((p): [string, Act] => [p.key, open(p)])),
    each: Object.fromEntries(panels.map((p) => [p.key, t("open {panel}", { panel: p.label })])),
  },
  {
    show: ". M",
    does: t("the next attempt of the queue; the athlete's log"),
    keys: { ".": (c) => c.go("next"), m: (c) => c.go("log") },
    each: { ".": t("the next attempt of the queue"), m: t("the athlete’s log") },
  },
  {
    show: "A X",
    does: t("accept or refuse the finding"),
    keys: { a: (c) => c.decide("accepted"), x: (c) => c.decide("refused") },
    each: { a: t("accept the finding"), x: t("refuse the finding") },
  },
  {
    show: "U ⇧U",
    does: t("undo, redo"),
    keys: { u: (c) => c.undo(), U: (c) => c.redo(), "Ctrl+z": (c) => c.undo(), "Ctrl+Z": (c) => c.redo() },
  },
  {
    show: "O Y",
    does: t("feedback page; side by side with another attempt"),
    keys: { o: (c) => c.go("feedback"), y: (c) => c.dispatch({ type: "dialog", dialog: "compare" }) },
    each: { o: t("feedback page"), y: t("side by side with another attempt") },
  },
  { show: "Ctrl+wheel", does: t("zoom at the pointer; drag to move; double click to go back"), keys: {} },
  {
    show: "? Esc",
    does: t("these keys; leave what was begun"),
    keys: { "?": (c) => c.dispatch({ type: "dialog", dialog: "keys" }), Escape: (c) => c.dispatch({ type: "escape" }) },
  },
];

const acts: Record<string, Act> = Object.assign({}, ...shortcuts.map((s) => s.keys));

// Whether what has the focus got it from a pointer.
let pointed = false;
if (typeof window !== "undefined") {
  window.addEventListener("pointerdown", () => (pointed = true), true);
  window.addEventListener("keydown", (e) => (pointed &&= e.key !== "Tab"), true);
}

/** actOf is what a key does while something has the focus; nothing in a field of text. */
export function actOf(e: KeyboardEvent): Act | undefined {
  const t = e.target as HTMLElement;
  const slider = t instanceof HTMLInputElement && t.type === "range";
  if (t.closest("textarea, select") || (t instanceof HTMLInputElement && !slider)) return;
  // Sliders and tabs have arrows of their own.
  if ((slider || t.closest("[role=tab]")) && e.key.startsWith("Arrow")) return;
  if (e.altKey) return;
  // Enter presses what has the focus, when a key brought it there; what was clicked is done.
  if (e.key === "Enter" && !pointed && t.closest("button, a, [role=button], [role=tab], summary")) return;
  return acts[(e.ctrlKey || e.metaKey ? "Ctrl+" : "") + pressed(e)];
}

/** useShortcuts acts on keys while the workspace is in front. */
export function useShortcuts(c: Commands, timeline: RefObject<Handle | null>, off: boolean) {
  const down = useEffectEvent((e: KeyboardEvent) => {
    const act = off || underWindow() ? undefined : actOf(e);
    if (!act) return;
    e.preventDefault();
    // Space on a button that was pressed would press it again.
    if (e.key === " ") (e.target as HTMLElement).closest<HTMLElement>("button, [role=button]")?.blur();
    act(c, e, timeline.current);
  });
  useEffect(() => {
    const listen = (e: KeyboardEvent) => down(e);
    addEventListener("keydown", listen);
    return () => removeEventListener("keydown", listen);
  }, []);
}
