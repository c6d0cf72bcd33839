import { createContext, use, type Dispatch } from "react";
import type { CircleSeen, Clip, ClipWork, Edit, Model, Reading, Work, Workspace } from "../../api/client";
import type { Core, Input } from "../../core/core";
import type { Evaluation } from "./hooks/useEvaluation";
import type { Player } from "./stage/player";
import type { Tool } from "./stage/tools";
import type { Action, State } from "./state";

/** Open is the workspace as its panels see it. */
export type Open = {
  sheet: Workspace;
  model: Model;
  state: State;
  dispatch: Dispatch<Action>;
  work: Work; // with what a hand is moving just now
  clip: Clip | undefined;
  player: Player;
  evaluation: Evaluation;
  circle: CircleSeen | undefined; // that the clip shows, while it is asked for
  /** edit saves a change; more joins it to the one before, and both are undone together */
  edit(...e: Edit[]): void;
  more(...e: Edit[]): void;
  kept(): Promise<void>; // until the server has everything
  tool(t: Tool | null): void;
  position: string; // key position that is looked at
  choose(position: string): void;
  light(r: Reading | null): void;
  suspect(by: 1 | -1): void; // go to the next or last point that wants a look
};

export const OpenContext = createContext<Open | null>(null);

export function useOpen(): Open {
  const w = use(OpenContext);
  if (!w) throw new Error("a panel stands outside of the workspace");
  return w;
}

const noWork: ClipWork = { flags: {}, points: {}, annotations: {} };

/** useOpenClip is for panels that work on a clip that is ready, with the core. */
export function useOpenClip() {
  const w = useOpen();
  const { clip, evaluation } = w;
  return {
    ...w,
    clip: clip as Clip,
    core: evaluation.core as Core,
    input: evaluation.input as Input,
    report: evaluation.report,
    clipWork: evaluation.clipWork ?? noWork,
  };
}
