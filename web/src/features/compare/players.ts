import { useEffect, useMemo } from "react";
import { type Clip } from "../../api/client";
import { Player } from "../workspace/stage/player";

const times = (c: Clip) => c.stamps.map((s) => (s / 90000) * (c.capture_rate ? c.file_rate / c.capture_rate : 1));

/** useFollow makes a player stand where the first one's frame belongs; where it has no
 * frame it waits at its end. */
export function useFollow(one: Player, two: Player, match: number[]) {
  useEffect(() => {
    const follow = () => {
      const f = one.get().frame;
      const g = match[f] ?? -1;
      if (g >= 0) two.jump(g);
      else if (match.length) two.jump(f < match.findIndex((x) => x >= 0) ? 0 : two.last);
    };
    follow();
    return one.subscribe(follow);
  }, [one, two, match]);
}

/** usePlayerOf gives the player of a clip; read again, the clip keeps it. */
export function usePlayerOf(clip: Clip) {
  // eslint-disable-next-line react-hooks/exhaustive-deps -- its stamps and rate are those of the id
  return useMemo(() => new Player(times(clip)), [clip.id]);
}
