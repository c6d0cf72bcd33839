import { useBeginDraft, useServerDraft } from "../../drafting/api";
import { useOpenClip } from "../context";
import { t } from "../../../texts/texts";

/** share of the picture's height that a click takes for the athlete where nobody is drafted. */
const usual = 0.5;

/** useClickAthlete lets the coach click who is meant, and drafts the clip anew for that one;
 * says is told what became of it. */
export function useClickAthlete(says: (trouble: string) => void) {
  const { clip, clipWork: work, edit, kept, player, tool } = useOpenClip();
  const begin = useBeginDraft();
  const server = useServerDraft(clip.id);
  return () =>
    tool({
      kind: "spot",
      says: t("Click the athlete"),
      done: (x, y) => {
        tool(null);
        const frame = player.get().frame;
        const side = work.box ? Math.max(work.box.width, work.box.height) : usual * clip.height;
        edit({
          kind: "box",
          clip: clip.id,
          key: "subject",
          value: { frame, x: x - side / 2, y: y - side / 2, width: side, height: side },
        });
        if (server.data?.away !== "") return says(t("Now draft it again in Track: this browser does it."));
        void kept()
          .then(() =>
            begin.mutateAsync({ clip: clip.id, wish: { from: 0, to: clip.stamps.length - 1, step: 1, anew: true } }),
          )
          .catch((e: unknown) => says((e as Error).message));
      },
    });
}
