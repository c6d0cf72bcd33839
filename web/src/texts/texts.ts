import { change, settings } from "../settings/settings";
import { recall, remember } from "../ui/recall";

// The texts of the screens. The English of a text stands where it is used and is its name
// in the catalogues: en.json lists them all (npm run texts), <language>.json translates
// them. What the core, the models and other people say is not among them.

type Catalogue = Record<string, string>;
export type Values = Record<string, string | number | null | undefined>;

const catalogues = import.meta.glob<Catalogue>(["./*.json", "!./en.json"], { import: "default" });

/** languages are those with a catalogue. */
export const languages = ["en", ...Object.keys(catalogues).map((path) => path.slice(2, -5))];

// The catalogue that was chosen last stands in the store of the browser, so that the first
// text waits for nothing.
const kept = "neo.texts";
const { language } = settings();
const own: Catalogue = language === "en" ? {} : recall<Catalogue>(kept, {});

/** marked is a language for tests: whatever stands in no catalogue is seen at once. */
const marked = (text: string) => "⟦" + text + "⟧";

/** t is a text in the language of this browser; {name} stands for a value. */
export function t(text: string, values?: Values): string {
  const said = language === "marked" ? marked(text) : (own[text] ?? text);
  return values
    ? said.replace(/\{(\w+)\}/g, (whole, name: string) => (name in values ? String(values[name] ?? "") : whole))
    : said;
}

/** speak changes the language. The page is opened anew in it. */
export async function speak(language: string) {
  const other = catalogues[`./${language}.json`];
  if (other) remember(kept, await other());
  change({ language });
  location.reload();
}
