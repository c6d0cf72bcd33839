import type { PanelID } from "./state";

// Where the coach is in an attempt stands in the address, so that a reload, a step back in the
// history and a link to a colleague come to the same place.

/** Place is a clip by its number, a frame, a panel and a finding; what is not named is as usual. */
export type Place = { clip?: number; frame?: number; panel?: PanelID; finding?: string };

const whole = (text: string | null, least: number) => {
  const n = text === null || !/^\d{1,9}$/.test(text) ? NaN : Number(text);
  return n >= least ? n : undefined;
};

/** read is the place in an address; what cannot be is left out. */
export function read(search: string, panels: readonly string[]): Place {
  const q = new URLSearchParams(search);
  const panel = q.get("panel") ?? "";
  const finding = q.get("finding") ?? "";
  return {
    clip: whole(q.get("clip"), 1),
    frame: whole(q.get("frame"), 0),
    panel: panels.includes(panel) ? (panel as PanelID) : undefined,
    finding: /^\w{1,40}$/.test(finding) ? finding : undefined,
  };
}

/** write is the part of an address that names a place; the usual is not named. */
export function write(p: Place): string {
  const q = new URLSearchParams();
  if (p.clip && p.clip > 1) q.set("clip", String(p.clip));
  if (p.frame) q.set("frame", String(p.frame));
  if (p.panel && p.panel !== "numbers") q.set("panel", p.panel);
  if (p.panel === "findings" && p.finding) q.set("finding", p.finding);
  const text = q.toString();
  return text && "?" + text;
}
