import { useEffect, useEffectEvent, useMemo, type Dispatch } from "react";
import type { Report, Track } from "../../../api/client";
import type { Player } from "../stage/player";
import type { Ask } from "../stage/tools";
import type { Action, Mode } from "../state";
import { at as pointOf } from "../work/tracks";

/** usePlacing gives what guided placing asks for next: the first landmark of the first
 * flagged position that is neither placed nor skipped. It ends placing when there is none. */
export function usePlacing(
  mode: Mode,
  report: Report | undefined,
  points: Record<string, Track>,
  player: Player,
  dispatch: Dispatch<Action>,
): Ask | null {
  const asks = useMemo<Ask[]>(
    () =>
      // Where the tool found the position its joints are drafted; the guide asks for what
      // the coach flagged.
      (report?.positions ?? []).flatMap((p) =>
        p.frame === undefined || p.source !== "coach"
          ? []
          : p.needs.map((n, i) => ({
              landmark: n.landmark,
              label: n.label,
              position: p.id,
              frame: p.frame!,
              nth: i + 1,
              of: p.needs.length,
            })),
      ),
    [report],
  );
  const placing = mode.is === "placing";
  const asked = useMemo(() => {
    if (mode.is !== "placing") return null;
    return (
      asks.find((a) => !pointOf(points[a.landmark], a.frame) && !mode.skipped.includes(a.position + a.landmark)) ?? null
    );
  }, [mode, asks, points]);
  const follow = useEffectEvent(() => {
    if (asked) {
      player.pause();
      player.jump(asked.frame);
      dispatch({ type: "position", id: asked.position });
    } else if (placing && report) dispatch({ type: "place" });
  });
  useEffect(() => follow(), [asked?.frame, asked?.landmark, placing]);
  return asked;
}
