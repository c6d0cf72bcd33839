import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useEffectEvent, useMemo } from "react";
import { useSearchParams } from "react-router";
import { Recorder, type Stage } from "../../voiceover/recorder";
import { useChapters } from "../../voiceover/api";
import { t } from "../../../texts/texts";

/** useTalk records what the coach says and shows. Each finding that is opened meanwhile
 * begins a chapter; opening is the fault and its name, or nothing. */
export function useTalk(
  attempt: string,
  ready: boolean,
  opening: { fault: string; name: string } | undefined,
  look: () => Stage | null,
) {
  const queries = useQueryClient();
  const chapters = useChapters(attempt);
  const [search, setSearch] = useSearchParams();
  const again = chapters.data?.find((c) => c.id === search.get("again"));
  const recorder = useMemo(
    () => new Recorder(attempt, () => void queries.invalidateQueries({ queryKey: ["talk"] })),
    [attempt, queries],
  );
  useEffect(() => {
    recorder.look = look;
  });
  useEffect(() => () => recorder.close(), [recorder]);
  const toggle = () => {
    if (recorder.get().phase === "talking")
      return void recorder.stop().then(() => search.has("again") && setSearch({}, { replace: true }));
    if (!ready) return;
    if (again) void recorder.start(again.name, again.finding, again.id);
    else if (opening) void recorder.start(opening.name, opening.fault);
    else
      void recorder.start(
        chapters.data?.length ? t("Part {count}", { count: chapters.data.length + 1 }) : t("The whole"),
      );
  };
  const toChapter = useEffectEvent(() => {
    if (opening && !again) recorder.chapter(opening.name, opening.fault);
  });
  useEffect(() => toChapter(), [opening?.fault]);
  return { recorder, toggle, said: chapters.data?.length ?? 0, again: again?.name };
}
