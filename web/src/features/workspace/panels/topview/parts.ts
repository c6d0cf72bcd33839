import type { Calls, Report } from "../../../../api/client";
import type { Player } from "../../stage/player";

// What the drawings of a throw share. All numbers come from the core.

export type Above = NonNullable<Calls["top_view_answer"]["top_view"]>;
export type Turn = NonNullable<Report["throw"]>["turns"][number];
export type Say = (az: number) => string;

export const none = -1e8; // what is not known is far below
export const known = (v: number | undefined): v is number => v !== undefined && v > none;
export const cm = 100;

/** spiral is where the ball is drawn at the k-th frame: outwards as the throw goes on. */
export const spiral = (above: Above, first: number, end: number, k: number) => {
  const radius = 46 + (124 * (k - first)) / Math.max(1, end - first);
  const [x, y] = to(above.ball.az[k], above.left);
  return [x * radius, y * radius] as const;
};

/** to is the way on the screen to an azimuth: 0 is below, the throw goes up. */
export const to = (az: number, left: boolean) => {
  const a = (az * Math.PI) / 180;
  return [(left ? -1 : 1) * Math.sin(a), Math.cos(a)] as const;
};

export type Turning = Pick<NonNullable<Report["throw"]>, "lifts" | "catches" | "pull_body_weights" | "hardest_turn">;
export type Parts = { above: Above; turns: Turn[]; turning?: Turning; say: Say; player: Player };
