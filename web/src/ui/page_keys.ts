import { useEffect, useEffectEvent } from "react";
import { pressed } from "../settings/keys";

// Whether a window lies over the page while a key is on its way: read first of all, since the
// window may be gone by the time the page hears of the key, and wherever the focus is.
let covered = false;
if (typeof window !== "undefined")
  window.addEventListener("keydown", () => (covered = !!document.querySelector("[role=dialog]")), true);

/** underWindow says whether a window has this key, not the page below it. */
export const underWindow = () => covered;

/** usePageKeys acts on keys that are meant for the page: none in a field, none while a window
 * lies over it. Keys are named as in the tables, with "Ctrl+" before those with Ctrl or Cmd. */
export function usePageKeys(keys: Record<string, (e: KeyboardEvent) => void>) {
  const hear = useEffectEvent((e: KeyboardEvent) => {
    if (covered || e.altKey || (e.target as HTMLElement).closest("input, textarea, select")) return;
    const act = keys[(e.ctrlKey || e.metaKey ? "Ctrl+" : "") + pressed(e)];
    if (!act) return;
    e.preventDefault();
    act(e);
  });
  useEffect(() => {
    const down = (e: KeyboardEvent) => hear(e);
    addEventListener("keydown", down);
    return () => removeEventListener("keydown", down);
  }, []);
}
