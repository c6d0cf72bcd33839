import { useCallback } from "react";
import type { Open } from "../context";
import { overlays as annotations } from "../panels/annotate";
import type { Overlay, Spot } from "./tools";
import { t } from "../../../texts/texts";

const none: Overlay[] = [];

/** useOverlays gives what is drawn over the picture of a frame beside points and readings:
 * annotations, and what the open panel works on. */
export function useOverlays({ clip, evaluation, state }: Pick<Open, "clip" | "evaluation" | "state">) {
  const { core, input, report, clipWork, catalogue } = evaluation;
  const { panel } = state;
  const template = catalogue?.templates.find((t) => t.id === clipWork?.ground?.template);
  const ground = report?.ground;
  return useCallback(
    (frame: number): Overlay[] => {
      if (!core || !clip) return none;
      const out = annotations(core, input, clipWork?.annotations ?? {}, frame);
      if (panel === "ground" && ground && template) {
        const seen = (places: Spot[]) =>
          core.camera({ camera: clip.camera, ground, frame, places }).pixels.filter((q) => q[0] > -1e8) as Spot[];
        const lines = template.lines.map((l) => seen(l as Spot[])).filter((l) => l.length > 1);
        out.push({ key: "ground", style: "ground", lines });
      }
      if ((panel === "ground" || panel === "clip") && clipWork?.scale) {
        const { ax, ay, bx, by, metres } = clipWork.scale;
        const line: Spot[] = [
          [ax, ay],
          [bx, by],
        ];
        out.push({ key: "scale", style: "ground", lines: [line], label: t("{metres} m", { metres }) });
      }
      if (panel === "track" && clipWork?.box?.frame === frame) {
        const { x, y, width: w, height: h } = clipWork.box;
        const line: Spot[] = [
          [x, y],
          [x + w, y],
          [x + w, y + h],
          [x, y + h],
          [x, y],
        ];
        out.push({ key: "box", style: "box", lines: [line] });
      }
      return out;
    },
    [core, clip, input, clipWork?.annotations, clipWork?.box, clipWork?.scale, ground, template, panel],
  );
}
