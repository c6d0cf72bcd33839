import { useQuery } from "@tanstack/react-query";
import { ask, client, type NewAttempt } from "../../api/client";
import { about, useChange } from "../../api/topic";

export const useQueue = () =>
  useQuery({
    queryKey: about("queue"),
    queryFn: () => ask(client.GET("/queue")),
    refetchInterval: (q) =>
      q.state.data?.some((i) => i.busy > 0) ? 700 : q.state.data?.some((i) => i.drafting < 1) ? 3000 : 15000,
  });

export const useAddAttempt = () => useChange((body: NewAttempt) => ask(client.POST("/attempts", { body })), "queue");

export const useChangeAttempt = () =>
  useChange(
    ({ id, body }: { id: string; body: NewAttempt }) =>
      ask(client.PUT("/attempts/{id}", { params: { path: { id } }, body })),
    "queue",
    "workspace",
  );

export const useSetState = () =>
  useChange(
    ({ id, state }: { id: string; state: "new" | "in_work" | "ready" | "sent" }) =>
      ask(client.PUT("/attempts/{id}/state", { params: { path: { id } }, body: { state } })),
    "queue",
    "workspace",
    "feedback",
  );

export const useDeleteAttempt = () =>
  useChange((id: string) => ask(client.DELETE("/attempts/{id}", { params: { path: { id } } })), "queue");

export const useGlance = (id: string) =>
  useQuery({
    queryKey: about("glance", id),
    queryFn: () => ask(client.GET("/attempts/{id}/glance", { params: { path: { id } } })),
    enabled: !!id,
    staleTime: 60_000,
  });

export const spendTime = (id: string, seconds: number) =>
  ask(client.PUT("/attempts/{id}/time", { params: { path: { id } }, body: { seconds } }));
