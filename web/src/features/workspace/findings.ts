import type { Calls } from "../../api/client";
import type { Open } from "./context";

/** Listed is a fault as it is shown: found, or seen by the coach himself. */
export type Listed = Calls["evaluate_answer"]["listed"][number];

const none: Listed[] = [];

/** shown lists the findings of an attempt, how many stay aside because the coach refused
 * them for this athlete before, and the one that is open. */
export function shown({ evaluation, state }: Pick<Open, "evaluation" | "state">) {
  const all = evaluation.listed ?? none;
  const list = state.setAside ? all : all.filter((f) => !f.set_aside);
  return {
    list,
    setAside: all.filter((f) => f.set_aside).length,
    open: list.find((f) => f.fault === state.fault) ?? list[0], // what was open may have gone
  };
}
