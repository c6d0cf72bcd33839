import { useEffect } from "react";
import type { Clip } from "../../../api/client";
import { write, type Place } from "../address";
import type { Player } from "../stage/player";
import type { State } from "../state";

/** rest is how long the cursor stands still before the address follows it, ms. */
const rest = 300;

/** placeOf is where the coach is now. */
export const placeOf = (
  clips: Clip[],
  clip: Clip | undefined,
  state: Pick<State, "panel" | "fault">,
  frame: number,
): Place => ({
  clip: clip && clips.indexOf(clip) + 1,
  frame,
  panel: state.panel,
  finding: state.fault || undefined,
});

/** useAddress keeps the address where the coach is. It does so beside the router, which need not
 * draw anything anew for it; and not when the address is another screen's already, whose parts
 * are still on their way. */
export function useAddress(
  attempt: string,
  clips: Clip[],
  clip: Clip | undefined,
  player: Player,
  { panel, fault }: State,
) {
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    const put = () => {
      if (location.pathname !== `/attempt/${attempt}`) return;
      const at = placeOf(clips, clip, { panel, fault }, player.get().frame);
      history.replaceState(history.state, "", location.pathname + write(at));
    };
    const follow = () => {
      clearTimeout(timer);
      if (!player.get().playing) timer = setTimeout(put, rest);
    };
    follow();
    const leave = player.subscribe(follow);
    return () => {
      leave();
      clearTimeout(timer);
    };
  }, [attempt, clips, clip, player, panel, fault]);
}
