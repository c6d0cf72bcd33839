// What part of a clip the timeline shows, in seconds of true time.

export type Span = [number, number];

/** fewest frames that fill the timeline. */
const fewest = 8;

/** zoomed keeps the time under the pointer where it is; null is the whole clip. */
export function zoomed(now: Span | null, end: number, frames: number, by: number, t: number): Span | null {
  const [a, b] = now ?? [0, end];
  const least = Math.min(end, fewest * (end / Math.max(1, frames)));
  const long = Math.min(end, Math.max(least, (b - a) / by));
  if (long >= end * 0.999) return null;
  const share = (t - a) / (b - a);
  const from = Math.min(end - long, Math.max(0, t - share * long));
  return [from, from + long];
}

/** moved shifts a span within the clip. */
export function moved([a, b]: Span, by: number, end: number): Span {
  const d = Math.max(-a, Math.min(end - b, by));
  return [a + d, b + d];
}

/** following brings a time into sight that left it, with a tenth of the span beside it. */
export function following(now: Span | null, t: number, end: number): Span | null {
  if (!now || (t >= now[0] && t <= now[1])) return now;
  const room = 0.1 * (now[1] - now[0]);
  return moved(now, t < now[0] ? t - now[0] - room : t - now[1] + room, end);
}

const steps = [0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 30];

/** ticks are the times to write on the ruler, counted from zero, at least so many pixels
 * apart; digits are what they need to differ. */
export function ticks([t0, t1]: Span, zero: number, width: number, apart = 62): { at: number[]; digits: number } {
  const step = steps.find((s) => (s / (t1 - t0)) * width > apart) ?? steps.at(-1)!;
  const at: number[] = [];
  for (let k = Math.ceil((t0 - zero) / step - 1e-9); k * step <= t1 - zero + 1e-9; k++) at.push(k * step);
  return { at, digits: step < 0.01 ? 3 : step < 0.1 ? 2 : 1 };
}

/** nearest frame to a time; times grow. */
export function nearest(times: number[], t: number) {
  let lo = 0;
  let hi = times.length - 1;
  while (hi - lo > 1) {
    const mid = (lo + hi) >> 1;
    if (times[mid] <= t) lo = mid;
    else hi = mid;
  }
  return t - times[lo] < times[hi] - t ? lo : hi;
}
