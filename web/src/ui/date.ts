// Days as the server writes them (2026-04-02), and in words.

const at = (iso: string) => new Date(iso.length > 10 ? iso : iso + "T12:00");

export const today = () => new Date().toLocaleDateString("sv");

/** later is a day so many days after another. */
export function later(iso: string, days: number) {
  const d = at(iso);
  d.setDate(d.getDate() + days);
  return d.toLocaleDateString("sv");
}

export const day = (iso: string) => at(iso).toLocaleDateString("en-GB", { day: "numeric", month: "short" });
export const longDay = (iso: string) => at(iso).toLocaleDateString("en-GB", { day: "numeric", month: "long" });
export const weekday = (iso: string) =>
  at(iso).toLocaleDateString("en-GB", { weekday: "short", day: "numeric", month: "short" });
export const dayAndYear = (iso: string) =>
  at(iso).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "2-digit" });
