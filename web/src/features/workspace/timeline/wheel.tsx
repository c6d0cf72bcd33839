import { useRef } from "react";
import { t } from "../../../texts/texts";
import { usePlayer, type Player } from "../stage/player";

/** One frame, in px under the thumb. */
const notch = 12;

/** Wheel steps frame by frame under a thumb, also while the stage is zoomed and a swipe there moves
 * the picture. To the right goes on, as on the stage. Only a touch screen shows it. */
export function Wheel({ player }: { player: Player }) {
  const frame = usePlayer(player, (s) => s.frame);
  const held = useRef<{ x: number; frame: number } | null>(null);
  return (
    <div
      className="wheel"
      role="slider"
      tabIndex={0}
      aria-label={t("Frame")}
      aria-valuemin={0}
      aria-valuemax={player.last}
      aria-valuenow={frame}
      style={{ backgroundPositionX: `calc(50% + ${frame * notch}px)` }}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        player.pause();
        held.current = { x: e.clientX, frame: player.get().frame };
      }}
      onPointerMove={(e) => {
        const h = held.current;
        if (h) player.jump(h.frame + (e.clientX - h.x) / notch);
      }}
      onPointerUp={() => (held.current = null)}
      onPointerCancel={() => (held.current = null)}
    />
  );
}
