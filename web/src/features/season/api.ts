import { useQuery, useQueryClient } from "@tanstack/react-query";
import { ask, client, type NewTraining, type Outline, type SeasonView } from "../../api/client";
import { about, useChange } from "../../api/topic";

const key = (id: string) => about("season", "of", id);

export const useSeason = (id: string) =>
  useQuery({
    queryKey: key(id),
    queryFn: () => ask(client.GET("/athletes/{id}/season", { params: { path: { id } } })),
  });

/** useSaveSeason keeps an outline; what follows from it comes back with the answer. */
export function useSaveSeason(id: string) {
  const queries = useQueryClient();
  return useChange(async (body: { revision: number; outline: Outline }) => {
    const v = await ask(client.PUT("/athletes/{id}/season", { params: { path: { id } }, body }));
    queries.setQueryData<SeasonView>(key(id), v);
    return v;
  });
}

export function useUndoSeason(id: string) {
  const queries = useQueryClient();
  return useChange(async (revision: number) => {
    const v = await ask(client.POST("/athletes/{id}/season/undo", { params: { path: { id } }, body: { revision } }));
    queries.setQueryData<SeasonView>(key(id), v);
    return v;
  });
}

export const useFollow = (id: string) =>
  useChange(() => ask(client.POST("/athletes/{id}/calendar", { params: { path: { id } } })), "season");

export const useUnfollow = (id: string) =>
  useChange(() => ask(client.DELETE("/athletes/{id}/calendar", { params: { path: { id } } })), "season");

export const useSetRule = () =>
  useChange(
    ({ id, ...body }: { id: string; value: number; reason: string }) =>
      ask(client.PUT("/season/rules/{id}", { params: { path: { id } }, body })),
    "season",
  );

export const useSquad = (day: string) =>
  useQuery({
    queryKey: about("season", "squad", day),
    queryFn: () => ask(client.GET("/squad/week", { params: { query: { day } } })),
    placeholderData: (before) => before,
  });

export const usePutTraining = () =>
  useChange(
    ({ athlete, id, ...body }: NewTraining & { athlete: string; id: string }) =>
      ask(client.PUT("/athletes/{id}/trainings/{training}", { params: { path: { id: athlete, training: id } }, body })),
    "season",
  );

export const useDropTraining = () =>
  useChange((id: string) => ask(client.DELETE("/trainings/{id}", { params: { path: { id } } })), "season");

export const useBoard = () =>
  useQuery({ queryKey: about("season", "board"), queryFn: () => ask(client.GET("/squad/board")) });

export const useSquadMeasure = (event: string, checkpoint: string) =>
  useQuery({
    queryKey: about("season", "measure", event, checkpoint),
    queryFn: () => ask(client.GET("/squad/measure", { params: { query: { event, checkpoint } } })),
    enabled: !!event && !!checkpoint,
  });

export const useSeries = (id: string, event: string, wanted: string, attempts: number) =>
  useQuery({
    queryKey: about("season", "series", id, event, wanted, String(attempts)),
    queryFn: () =>
      ask(client.GET("/athletes/{id}/series", { params: { path: { id }, query: { event, wanted, attempts } } })),
    placeholderData: (before) => before,
  });
