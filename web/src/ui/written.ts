import { settings } from "../settings/settings";

// Numbers and days as they are written where somebody lives, with the texts of his language.

const here = () => {
  const { language, region } = settings();
  const own = new Intl.Locale(Intl.DateTimeFormat().resolvedOptions().locale);
  const spoken = language === "marked" ? "en" : language;
  return new Intl.Locale(spoken, { region: region || own.maximize().region }).toString();
};
/** place is the locale of dates and numbers. It is read once: a change opens the page anew. */
const place = here();
const point = Intl.NumberFormat(place).format(0.5).includes(",") ? "," : ".";

/** written sets the decimal sign of the place and a proper minus, and none before nothing. */
export const written = (number: string) =>
  number
    .replace(/^-(?=0(\.0*)?$)/, "")
    .replace("-", "−")
    .replace(/(\d)\.(?=\d)/, "$1" + point);

/** fixed writes a number with so many decimals. */
export const fixed = (n: number, decimals = 0) => written(n.toFixed(decimals));

// Days as the server writes them (2026-04-02), and in words.

const at = (iso: string) => new Date(iso.length > 10 ? iso : iso + "T12:00");
const as = (how: Intl.DateTimeFormatOptions) => {
  const f = new Intl.DateTimeFormat(place, how);
  return (iso: string) => f.format(at(iso));
};

/** today and later are days as the server writes them. */
export const today = () => new Date().toLocaleDateString("sv");
export function later(iso: string, days: number) {
  const d = at(iso);
  d.setDate(d.getDate() + days);
  return d.toLocaleDateString("sv");
}

/** daysBetween counts from one day to another. */
export const daysBetween = (from: string, to: string) => Math.round((at(to).getTime() - at(from).getTime()) / 864e5);

/** monday is that of a day's week. */
export const monday = (iso: string) => later(iso, -((at(iso).getDay() + 6) % 7));

export const day = as({ day: "numeric", month: "short" });
export const longDay = as({ day: "numeric", month: "long" });
export const monthName = as({ month: "short" });
export const dayOfWeek = as({ weekday: "short" });
export const weekday = as({ weekday: "short", day: "numeric", month: "short" });
export const dayAndYear = as({ day: "numeric", month: "short", year: "2-digit" });
export const moment = as({ day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
export const hour = as({ hour: "2-digit", minute: "2-digit" });
