import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { ask, client, type Calls } from "../../api/client";
import { about, useChange, useRefresh } from "../../api/topic";

type Wish = Calls["begin_draft"]["wish"];

const open = (state?: string) => state === "waiting" || state === "drafting";

/** useServerDraft tells how the server's draft of a clip stands, and asks for the work
 * anew when it has come to its end. */
export function useServerDraft(clip: string) {
  const draft = useQuery({
    queryKey: about("draft", clip),
    queryFn: () => ask(client.GET("/clips/{id}/draft", { params: { path: { id: clip } } })),
    refetchInterval: (q) => (open(q.state.data?.state) ? 1000 : false),
    enabled: !!clip,
  });
  const refresh = useRefresh();
  const was = useRef({ clip, open: false });
  const now = open(draft.data?.state);
  useEffect(() => {
    if (was.current.clip === clip && was.current.open && !now) refresh("workspace", "queue");
    was.current = { clip, open: now };
  }, [clip, now, refresh]);
  return { data: draft.data, running: now };
}

export const useBeginDraft = () =>
  useChange(
    ({ clip, wish }: { clip: string; wish: Wish }) =>
      ask(client.POST("/clips/{id}/draft", { params: { path: { id: clip } }, body: wish })),
    "draft",
    "queue",
  );

export const useCancelDraft = () =>
  useChange(
    (clip: string) => ask(client.DELETE("/clips/{id}/draft", { params: { path: { id: clip } } })),
    "draft",
    "workspace",
    "queue",
  );
