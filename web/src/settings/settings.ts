import { useSyncExternalStore } from "react";
import { recall, remember } from "../ui/recall";

/** Settings are what somebody chose for this browser. What stands here is the usual. */
const usual = {
  /** Of the texts of the screens: a catalogue of texts/, or "marked", which tests use. */
  language: "en",
  /** Of dates and numbers: a country such as "DE"; empty is the browser's own. */
  region: "",
  theme: "system" as "system" | "dark" | "light",
  /** Size of the texts against the usual. */
  text: 1,
  units: "metric" as "metric" | "feet",
  /** How phases are called: as coaches do, or after what stands on the ground. */
  phases: "task" as "task" | "support",
  force: "N" as "N" | "kgf" | "lbf",
  /** What this device tells while the coach looks elsewhere. */
  notify: "none" as "none" | "answers" | "all",
  /** Whether answers by eye carry the doubt of the coach's measured eye. */
  eye: true,
  /** Whether single letters are keys of the Bench and the lists. */
  letters: true,
  /** Keys of one's own, by the key that they take the place of. */
  keys: {} as Record<string, string>,
};
export type Settings = typeof usual;

const key = "neo.settings";
const heard = new Set<() => void>();

// Of what is remembered only what has the kind of the usual is taken.
function read(): Settings {
  const kept = recall<Partial<Settings>>(key, {});
  const sound = Object.entries(kept).filter(([k, v]) => typeof v === typeof usual[k as keyof Settings] && v !== null);
  return { ...usual, ...Object.fromEntries(sound) };
}

let now = read();

/** settings are those that hold now; useSettings follows them. */
export const settings = () => now;

export function change(patch: Partial<Settings>) {
  now = { ...now, ...patch };
  remember(key, now);
  heard.forEach((f) => f());
}

/** heed calls when a setting changes; what it gives ends that. */
export const heed = (f: () => void) => {
  heard.add(f);
  return () => void heard.delete(f);
};

export const useSettings = () => useSyncExternalStore(heed, settings);

// What another tab chose holds here too.
if (typeof window !== "undefined")
  window.addEventListener("storage", (e) => {
    if (e.key !== key) return;
    now = read();
    heard.forEach((f) => f());
  });
