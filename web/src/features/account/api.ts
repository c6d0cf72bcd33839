import { queryOptions, useQuery } from "@tanstack/react-query";
import { ask, client, type Directions } from "../../api/client";
import { forget, keepFor } from "../../api/keep";
import { about, useChange } from "../../api/topic";

export const meQuery = queryOptions({
  queryKey: about("me"),
  queryFn: async () => {
    const me = await ask(client.GET("/me"));
    if (me.user) await keepFor(me.user.id);
    return me;
  },
});

export const useMe = () => useQuery({ ...meQuery, refetchInterval: (q) => (q.state.data?.filling ? 2000 : false) });

export const useSetDirections = () =>
  useChange(
    (directions: Directions) => ask(client.PUT("/me/directions", { body: { directions } })),
    "me",
    "models",
    "workspace",
    "feedback",
  );

export const useSignIn = () =>
  useChange((body: { email: string; password: string }) => ask(client.POST("/sign-in", { body })), "me");

export const useDemoSignIn = () => useChange(() => ask(client.POST("/demo-sign-in")), "me");

export const useBegin = () =>
  useChange(
    (body: { team: string; name: string; email: string; password: string }) => ask(client.POST("/teams", { body })),
    "me",
  );

export const useConfirm = () =>
  useChange((token: string) => ask(client.POST("/teams/confirm", { body: { token } })), "me");

export const useForgot = () => useChange((email: string) => ask(client.POST("/forgot", { body: { email } })));

export const useReset = () =>
  useChange((body: { secret: string; password: string }) => ask(client.POST("/reset", { body })), "me");

export const useLetters = (on: boolean) =>
  useQuery({
    queryKey: about("letters"),
    queryFn: () => ask(client.GET("/letters")),
    enabled: on,
    refetchInterval: 3000,
  });

export const useSignOut = () =>
  useChange(async () => {
    await ask(client.POST("/sign-out"));
    await forget();
  }, "me");

export const useInvitee = (invitation: string) =>
  useQuery({
    queryKey: about("invitee", invitation),
    queryFn: () => ask(client.POST("/join/look", { body: { invitation } })),
    staleTime: Infinity,
    retry: false,
  });

export const useJoin = () =>
  useChange(
    (body: { invitation: string; name?: string; email: string; password: string }) =>
      ask(client.POST("/join", { body })),
    "me",
  );
