import { useQuery } from "@tanstack/react-query";
import { ask, client, type ExportRequest } from "../../api/client";
import { about, useChange } from "../../api/topic";

export const useChapters = (id: string) =>
  useQuery({
    queryKey: about("talk", id),
    queryFn: () => ask(client.GET("/attempts/{id}/chapters", { params: { path: { id } } })),
  });

export const useTrim = () =>
  useChange(
    ({ id, ...body }: { id: string; name: string; starts: number; ends: number }) =>
      ask(client.PUT("/chapters/{id}", { params: { path: { id } }, body })),
    "talk",
  );

export const useDropChapter = () =>
  useChange((id: string) => ask(client.DELETE("/chapters/{id}", { params: { path: { id } } })), "talk");

export const useFilms = (id: string) =>
  useQuery({
    queryKey: about("films", id),
    queryFn: () => ask(client.GET("/attempts/{id}/films", { params: { path: { id } } })),
    refetchInterval: (q) => (q.state.data?.some((f) => f.state === "waiting" || f.state === "drawing") ? 700 : false),
  });

export const useDrawFilm = () =>
  useChange(
    ({ id, ...body }: ExportRequest & { id: string }) =>
      ask(client.POST("/attempts/{id}/films", { params: { path: { id } }, body })),
    "films",
  );

export const useDropFilm = () =>
  useChange((id: string) => ask(client.DELETE("/films/{id}", { params: { path: { id } } })), "films");

export const voiceURL = (chapter: string) => `/api/chapters/${chapter}/voice.webm`;

export const filmURL = (film: string) => `/api/films/${film}/film.mp4`;
