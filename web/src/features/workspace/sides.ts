import type { Clip, Edit } from "../../api/client";
import type { Core } from "../../core/core";

const leg = ["hip", "knee", "ankle", "heel", "toe"];
const arm = ["elbow", "wrist", "hand"];

/** limbOf is the limb that goes along when a joint changes sides; the leg when none is
 * selected. */
export const limbOf = (landmark: string | null) =>
  arm.includes(landmark?.replace(/^(left|right)_/, "") ?? "") ? arm : leg;

/** swap exchanges left and right of a limb over a range. */
export const swap = (core: Core, clip: string, limb: string[], from: number, to: number): Edit[] =>
  Object.entries(core.correct({ kind: "swap", landmarks: limb, from, to }).changes).map(([key, value]) => ({
    kind: "track",
    clip,
    key,
    value,
    override: true,
  }));

/** farOf is the side away from the camera, where the view tells it. */
export const farOf = (clip: Pick<Clip, "view" | "direction">) =>
  clip.view === "side" && clip.direction !== 0 ? (clip.direction > 0 ? "left" : "right") : null;
