import type { Edit } from "../../api/client";
import type { Place } from "./address";
import type { Tool } from "./stage/tools";

// What the coach is doing at the workspace. What he has done is the work (work/); what
// follows from it comes from the core (hooks/useEvaluation).

/** Mode is what the next press on the picture means. */
export type Mode =
  | { is: "idle" }
  /** landmarks are asked for one after the other; skipped are position and landmark */
  | { is: "placing"; skipped: readonly string[] }
  | { is: "tool"; tool: Tool }
  /** a line of that length is being laid */
  | { is: "scaling"; metres: number };

export const panelIDs = [
  "check",
  "numbers",
  "findings",
  "whatif",
  "topview",
  "track",
  "annotate",
  "ground",
  "clip",
] as const;
export type PanelID = (typeof panelIDs)[number];
export type Dialog = "keys" | "compare" | "add-clip";

export type State = {
  clip: string | null; // null: the first that is ready
  beside: string | null; // clip that is shown next to it, at the same moment
  panel: PanelID;
  position: string; // key position that is looked at
  landmark: string | null; // selected on the stage
  opensAt: number | null; // frame to which a clip that was just opened goes
  reading: string | null; // its lines stand out
  fault: string; // finding that is open
  setAside: boolean; // findings refused before are shown too
  mode: Mode;
  drag: readonly Edit[]; // while a hand still moves something
  hidden: boolean; // the next point is a guess behind the body
  radius: number; // neighbours that a moved joint takes along, frames
  skeleton: boolean;
  curves: readonly string[];
  later: readonly string[]; // questions that were put off
  dialog: Dialog | null;
};

export type Action =
  | { type: "clip"; id: string; frame?: number; from?: string } // opens at a frame, where one is given
  | { type: "opened" }
  | { type: "beside"; id: string | null }
  | { type: "panel"; panel: PanelID }
  | { type: "position"; id: string }
  | { type: "select"; landmark: string | null }
  | { type: "light"; reading: string | null }
  | { type: "fault"; id: string }
  | { type: "set-aside"; shown: boolean }
  | { type: "place" } // begin or end placing
  | { type: "skip"; ask: string }
  | { type: "tool"; tool: Tool | null }
  | { type: "scale"; metres: number | null }
  | { type: "drag"; edits: readonly Edit[] }
  | { type: "placed" } // a point is where it was asked for
  | { type: "hide" }
  | { type: "radius"; frames: number }
  | { type: "skeleton" }
  | { type: "curve"; id: string }
  | { type: "later"; id: string }
  | { type: "dialog"; dialog: Dialog | null }
  | { type: "escape" };

export const mostCurves = 3;

export const initial = (curves: readonly string[], at: Place = {}, clips: { id: string }[] = []): State => ({
  clip: (at.clip && clips[at.clip - 1]?.id) || null,
  opensAt: at.frame ?? null,
  beside: null,
  panel: at.panel ?? "numbers",
  position: "",
  landmark: null,
  reading: null,
  fault: at.finding ?? "",
  setAside: false,
  mode: { is: "idle" },
  drag: [],
  hidden: false,
  radius: 6,
  skeleton: true,
  curves,
  later: [],
  dialog: null,
});

const idle: Mode = { is: "idle" };

export function reduce(s: State, a: Action): State {
  switch (a.type) {
    case "clip":
      // Two that stand side by side change places.
      return {
        ...s,
        clip: a.id,
        beside: s.beside === a.id ? (a.from ?? null) : s.beside,
        opensAt: a.frame ?? null,
        landmark: null,
        mode: idle,
        drag: [],
      };
    case "beside":
      return { ...s, beside: a.id };
    case "opened":
      return { ...s, opensAt: null };
    case "panel":
      return { ...s, panel: a.panel };
    case "position":
      return { ...s, position: a.id };
    case "select":
      return { ...s, landmark: a.landmark };
    case "light":
      return { ...s, reading: a.reading };
    case "fault":
      return { ...s, fault: a.id };
    case "set-aside":
      return { ...s, setAside: a.shown };
    case "place":
      return { ...s, landmark: null, mode: s.mode.is === "placing" ? idle : { is: "placing", skipped: [] } };
    case "skip":
      return s.mode.is === "placing" ? { ...s, mode: { is: "placing", skipped: [...s.mode.skipped, a.ask] } } : s;
    case "tool":
      return { ...s, mode: a.tool ? { is: "tool", tool: a.tool } : s.mode.is === "tool" ? idle : s.mode };
    case "scale":
      return {
        ...s,
        mode: a.metres !== null ? { is: "scaling", metres: a.metres } : s.mode.is === "scaling" ? idle : s.mode,
      };
    case "drag":
      return s.drag.length || a.edits.length ? { ...s, drag: a.edits } : s;
    case "placed":
      return { ...s, hidden: false };
    case "hide":
      return { ...s, hidden: !s.hidden };
    case "radius":
      return { ...s, radius: a.frames };
    case "skeleton":
      return { ...s, skeleton: !s.skeleton };
    case "curve":
      return {
        ...s,
        curves: s.curves.includes(a.id) ? s.curves.filter((c) => c !== a.id) : [...s.curves, a.id].slice(-mostCurves),
      };
    case "later":
      return { ...s, later: s.later.includes(a.id) ? s.later : [...s.later, a.id] };
    case "dialog":
      return { ...s, dialog: a.dialog };
    case "escape":
      return { ...s, mode: idle, landmark: null, reading: null };
  }
}
