import type { Drawing, Model, Point, Reading } from "../../../api/client";
import { show } from "../../../ui/numbers";

export type Spot = [number, number]; // px of the upright picture

/** Tool is what the next press on the picture means. */
export type Tool =
  | { kind: "line"; says: string; done(a: Spot, b: Spot): void }
  | { kind: "box"; says: string; done(x: number, y: number, w: number, h: number): void }
  | { kind: "spot"; says: string; done(x: number, y: number): void }
  | { kind: "joint"; says: string; done(id: string): void }
  | { kind: "limb"; says: string; done(id: string, x: number, y: number): void };

/** Ask is the landmark that guided placing wants next. */
export type Ask = { landmark: string; label: string; position: string; frame: number; nth: number; of: number };
export type Place = { landmark: string; frame: number; point: Point };

/** Overlay is something measured that is drawn over the picture of a frame. */
export type Overlay = { key: string; lines: Spot[][]; style: "still" | "now" | "ground" | "box"; label?: string };

/** drawnNow is what the stage draws over a frame for the eye: what was annotated and what
 * is measured there; of a lit reading that one alone. */
export function drawnNow(
  over: Overlay[],
  readings: Reading[],
  model: Model,
  frame: number,
  lit: string | null,
): Drawing[] {
  const here = readings.filter(
    (r) =>
      r.value &&
      !r.clip &&
      r.evidence?.frame === frame &&
      r.evidence.lines.length &&
      (!lit || r.id === lit || !readings.some((x) => x.id === lit && !x.clip && x.evidence?.frame === frame)),
  );
  return [
    ...over.map((o): Drawing => ({ lines: o.lines, style: o.style === "box" ? "plain" : o.style, label: o.label })),
    ...here.map((r): Drawing => {
      const s = show(r.value!, model.checkpoints.find((c) => c.id === r.id)?.unit ?? "");
      const at = r.evidence!.lines[0].points as Spot[];
      return {
        lines: r.evidence!.lines.map((l) => l.points as Spot[]),
        style: r.side === "left" || r.side === "right" ? r.side : "plain",
        label: `${s.value}${s.unit ? " " + s.unit : ""} ${s.half}`,
        at: at[Math.floor(at.length / 2)],
      };
    }),
  ];
}
