import { useQuery } from "@tanstack/react-query";
import {
  ask,
  client,
  type Athlete,
  type NewAthlete,
  type NewNote,
  type SessionEntry,
  type Followup,
} from "../../api/client";
import { about, useChange } from "../../api/topic";

export const useAthletes = () => useQuery({ queryKey: about("athletes"), queryFn: () => ask(client.GET("/athletes")) });

export const useSaveAthlete = () =>
  useChange(
    ({ id, ...body }: NewAthlete & { id?: string }): Promise<Athlete> =>
      id
        ? ask(client.PUT("/athletes/{id}", { params: { path: { id } }, body }))
        : ask(client.POST("/athletes", { body })),
    "athletes",
    "queue",
    "workspace",
    "log",
  );

export const useLog = (id: string) =>
  useQuery({
    queryKey: about("log", id),
    queryFn: () => ask(client.GET("/athletes/{id}/log", { params: { path: { id } } })),
    enabled: !!id,
  });

export const useEnterSession = () =>
  useChange((body: SessionEntry) => ask(client.POST("/sessions", { body })), "log", "queue");

export const useImportMarks = () =>
  useChange((text: string) => ask(client.POST("/marks", { body: { text } })), "log", "queue");

export const useSetFollowup = () =>
  useChange(
    ({ id, ...body }: Followup & { id: string }) =>
      ask(client.PUT("/attempts/{id}/followup", { params: { path: { id } }, body })),
    "log",
  );

export const useSetOutcome = () =>
  useChange(
    ({ id, outcome }: { id: string; outcome: "" | "taken" | "not_taken" | "overdone" }) =>
      ask(client.PUT("/attempts/{id}/outcome", { params: { path: { id } }, body: { outcome } })),
    "log",
  );

export const useAddNote = () =>
  useChange(
    ({ athlete, ...body }: NewNote & { athlete: string }) =>
      ask(client.POST("/athletes/{id}/notes", { params: { path: { id: athlete } }, body })),
    "log",
  );

export const useChangeNote = () =>
  useChange(
    ({ id, ...body }: NewNote & { id: string }) => ask(client.PUT("/notes/{id}", { params: { path: { id } }, body })),
    "log",
  );

export const useDeleteNote = () =>
  useChange((id: string) => ask(client.DELETE("/notes/{id}", { params: { path: { id } } })), "log");

export const useInvite = () =>
  useChange((id: string) => ask(client.POST("/athletes/{id}/invitations", { params: { path: { id } } })));

export const useDeleteAthlete = () =>
  useChange(
    (id: string) => ask(client.DELETE("/athletes/{id}", { params: { path: { id } } })),
    "queue",
    "athletes",
    "deletions",
  );
