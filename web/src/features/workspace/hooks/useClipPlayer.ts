import { useEffect, useMemo, useRef } from "react";
import type { Clip } from "../../../api/client";
import { Player } from "../stage/player";

/** useClipPlayer is the cursor of a clip, in true time once the capture rate is known. */
export function useClipPlayer(clip: Clip | undefined): Player {
  const slow = clip?.capture_rate ? clip.file_rate / clip.capture_rate : 1;
  const cursor = useRef(0); // survives a new answer to the capture rate
  const player = useMemo(
    () => new Player((clip?.stamps ?? []).map((s) => (s / 90000) * slow)),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a clip that is read again has the same stamps
    [clip?.id, clip?.stamps.length, slow],
  );
  useEffect(() => {
    player.jump(cursor.current);
    const leave = player.subscribe(() => (cursor.current = player.get().frame));
    return () => {
      leave();
      player.pause();
    };
  }, [player]);
  return player;
}
