import { queryOptions, useQuery } from "@tanstack/react-query";
import { ask, client, type Clip, type ClipAnswers } from "../../api/client";
import { about, useChange } from "../../api/topic";

export const workspaceQuery = (id: string) =>
  queryOptions({
    queryKey: about("workspace", id),
    queryFn: () => ask(client.GET("/attempts/{id}/workspace", { params: { path: { id } } })),
  });

export const useWorkspace = (id: string) =>
  useQuery({
    ...workspaceQuery(id),
    refetchInterval: (q) =>
      q.state.data?.clips.some((c) => c.state === "waiting" || c.state === "importing") ? 500 : false,
  });

/** useCompanions are what the other clips of an attempt tell a clip; asked for anew when another
 * clip is opened, since what one tells does not hang on work in the one that is told. */
export const useCompanions = (attempt: string, clip: string, several: boolean) =>
  useQuery({
    queryKey: about("companions", attempt, clip),
    queryFn: () => ask(client.GET("/attempts/{id}/companions", { params: { path: { id: attempt } } })),
    enabled: several,
    staleTime: 0,
    select: (all) => all[clip],
  });

/** useCircle is the throwing circle that a clip shows, looked for while it is asked for. */
export const useCircle = (clip: Clip | undefined, wanted: boolean) =>
  useQuery({
    queryKey: about("circle", clip?.id ?? "", clip?.view ?? "", String(clip?.direction)),
    queryFn: () => ask(client.GET("/clips/{id}/circle", { params: { path: { id: clip?.id ?? "" } } })),
    enabled: wanted && clip !== undefined,
    staleTime: Infinity,
  });

export const useRejudge = () =>
  useChange(
    (id: string) => ask(client.POST("/attempts/{id}/rejudge", { params: { path: { id } } })),
    "workspace",
    "feedback",
  );

export const useAnswerClip = () =>
  useChange(
    ({ id, body }: { id: string; body: ClipAnswers }) =>
      ask(client.PUT("/clips/{id}", { params: { path: { id } }, body })),
    "workspace",
    "queue",
  );

export const useClipAction = () =>
  useChange(
    ({ id, what }: { id: string; what: "cancel" | "retry" | "delete" }): Promise<unknown> =>
      what === "delete"
        ? ask(client.DELETE("/clips/{id}", { params: { path: { id } } }))
        : what === "cancel"
          ? ask(client.POST("/clips/{id}/cancel", { params: { path: { id } } }))
          : ask(client.POST("/clips/{id}/retry", { params: { path: { id } } })),
    "workspace",
    "queue",
  );

export const usePhrases = () =>
  useQuery({ queryKey: about("phrases"), queryFn: () => ask(client.GET("/phrases")), staleTime: 60_000 });

export const useKeepPhrase = () =>
  useChange((body: { says: string; keep: boolean }) => ask(client.PUT("/phrases", { body })), "phrases");
