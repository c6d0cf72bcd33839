import { useQuery } from "@tanstack/react-query";
import { ask, client } from "../../api/client";
import { about, useChange } from "../../api/topic";

export const useShares = (id: string) =>
  useQuery({
    queryKey: about("shares", id),
    queryFn: () => ask(client.GET("/attempts/{id}/shares", { params: { path: { id } } })),
  });

export const useMine = (on: boolean) =>
  useQuery({ queryKey: about("mine"), queryFn: () => ask(client.GET("/mine")), enabled: on });

export const useShared = (key: string) =>
  useQuery({
    queryKey: about("shared", key),
    queryFn: () => ask(client.GET("/shared/{key}", { params: { path: { key } } })),
    staleTime: Infinity,
    retry: false,
  });

export const useSharedTalk = (key: string) =>
  useQuery({
    queryKey: about("shared", key, "talk"),
    queryFn: () => ask(client.GET("/shared/{key}/talk", { params: { path: { key } } })),
    staleTime: Infinity,
    retry: false,
  });

export const useShare = () =>
  useChange(
    ({ id, days }: { id: string; days: number }) =>
      ask(client.POST("/attempts/{id}/shares", { params: { path: { id } }, body: { days } })),
    "shares",
  );

export const useWithdraw = () =>
  useChange((id: string) => ask(client.DELETE("/shares/{id}", { params: { path: { id } } })), "shares");

export const useAnswerShared = () =>
  useChange(({ key, text }: { key: string; text: string }) =>
    ask(client.PUT("/shared/{key}/answer", { params: { path: { key } }, body: { text } })),
  );

export const useNextShared = () =>
  useChange((key: string) => ask(client.POST("/shared/{key}/next", { params: { path: { key } } })));
