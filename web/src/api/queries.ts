import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { ask, client, type Athlete, type ClipAnswers, type NewAthlete, type Directions, type ModelChange, type NewAttempt } from "./client";

// Keys and fetchers, together per thing.

export const useMe = () => useQuery({ queryKey: ["me"], queryFn: () => ask(client.GET("/me")) });

export const useQueue = () =>
  useQuery({
    queryKey: ["queue"],
    queryFn: () => ask(client.GET("/queue")),
    refetchInterval: (q) => (q.state.data?.some((i) => i.busy > 0) ? 700 : 15000),
  });

export const useAthletes = () => useQuery({ queryKey: ["athletes"], queryFn: () => ask(client.GET("/athletes")) });

export const useSheet = (id: string) =>
  useQuery({
    queryKey: ["bench", id],
    queryFn: () => ask(client.GET("/attempts/{id}/bench", { params: { path: { id } } })),
    refetchInterval: (q) => (q.state.data?.clips.some((c) => c.state === "waiting" || c.state === "importing") ? 500 : false),
  });

export const useModels = () => useQuery({ queryKey: ["models"], queryFn: () => ask(client.GET("/models")), staleTime: Infinity });

export const useChangeModel = () => useDo(({ id, body }: { id: string; body: ModelChange }) => ask(client.POST("/models/{id}/versions", { params: { path: { id } }, body })), "models");
export const useRejudge = () => useDo((id: string) => ask(client.POST("/attempts/{id}/rejudge", { params: { path: { id } } })), "bench", "feedback");
export const useCheckModel = () => useDo((text: string) => ask(client.POST("/models/check", { body: { text } })));

export const useFeedback = (id: string) =>
  useQuery({ queryKey: ["feedback", id], queryFn: () => ask(client.GET("/attempts/{id}/feedback", { params: { path: { id } } })), staleTime: 0 });

/** useDo wraps a change and refreshes what it touches. */
function useDo<I, O>(f: (i: I) => Promise<O>, ...touches: string[]) {
  const queries = useQueryClient();
  return useMutation({ mutationFn: f, onSuccess: () => Promise.all(touches.map((t) => queries.invalidateQueries({ queryKey: [t] }))) });
}

export const useSetDirections = () => useDo((directions: Directions) => ask(client.PUT("/me/directions", { body: { directions } })), "me", "models", "bench", "feedback");
export const useSignIn = () => useDo((body: { email: string; password: string }) => ask(client.POST("/sign-in", { body })), "me");
export const useDemoSignIn = () => useDo(() => ask(client.POST("/demo-sign-in")), "me");
export const useBegin = () => useDo((body: { team: string; name: string; email: string; password: string }) => ask(client.POST("/teams", { body })), "me");
export const useSignOut = () => useDo(() => ask(client.POST("/sign-out")), "me");

export const useSaveAthlete = () =>
  useDo(({ id, ...body }: NewAthlete & { id?: string }): Promise<Athlete> => (id ? ask(client.PUT("/athletes/{id}", { params: { path: { id } }, body })) : ask(client.POST("/athletes", { body }))), "athletes", "queue", "bench");
export const useAddAttempt = () => useDo((body: NewAttempt) => ask(client.POST("/attempts", { body })), "queue");
export const useChangeAttempt = () => useDo(({ id, body }: { id: string; body: NewAttempt }) => ask(client.PUT("/attempts/{id}", { params: { path: { id } }, body })), "queue", "bench");
export const useSetState = () =>
  useDo(({ id, state }: { id: string; state: "new" | "in_work" | "ready" | "sent" }) => ask(client.PUT("/attempts/{id}/state", { params: { path: { id } }, body: { state } })), "queue", "bench", "feedback");
export const useDeleteAttempt = () => useDo((id: string) => ask(client.DELETE("/attempts/{id}", { params: { path: { id } } })), "queue");
export const useAnswerClip = () => useDo(({ id, body }: { id: string; body: ClipAnswers }) => ask(client.PUT("/clips/{id}", { params: { path: { id } }, body })), "bench", "queue");
export const useClipAction = () =>
  useDo(
    ({ id, what }: { id: string; what: "cancel" | "retry" | "delete" }) =>
      what === "delete"
        ? ask(client.DELETE("/clips/{id}", { params: { path: { id } } }))
        : what === "cancel"
          ? ask(client.POST("/clips/{id}/cancel", { params: { path: { id } } }))
          : ask(client.POST("/clips/{id}/retry", { params: { path: { id } } })),
    "bench",
    "queue",
  );

export const modelSourceURL = (id: string) => `/api/models/${id}.yaml`;
export const frameURL = (clip: string, frame: number, width = 0) => `/api/clips/${clip}/frames/${frame}?width=${width}`;
export const posterURL = (clip: string, seed = "") => `/api/clips/${clip}/poster.jpg?${seed}`;
export const proxyURL = (clip: string) => `/api/clips/${clip}/proxy.mp4`;
