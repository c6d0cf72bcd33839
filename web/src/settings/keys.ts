import { settings } from "./settings";

/** pressed is the key that somebody means, in the words of the tables of keys: keys of his own
 * take the place of the usual ones, and letters are no keys at all when he switched them off.
 * CapsLock changes nothing. */
export function pressed(e: KeyboardEvent): string {
  const { letters, keys } = settings();
  let { key } = e;
  if (key.length !== 1 || key === " ") return key;
  if (e.getModifierState("CapsLock")) key = e.shiftKey ? key.toUpperCase() : key.toLowerCase();
  if (e.ctrlKey || e.metaKey) return key;
  if (!letters) return "";
  const own = Object.entries(keys).find(([, to]) => to === key);
  if (own) return own[0];
  return key in keys ? "" : key;
}

/** capOf is what a key is called on a key cap, where the coach put it. */
export const capOf = (usual: string) => (settings().keys[usual] ?? usual).toUpperCase();
