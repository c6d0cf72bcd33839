import { useQuery } from "@tanstack/react-query";
import { ask, client } from "../../api/client";
import { about, useChange } from "../../api/topic";

export const useMembers = () =>
  useQuery({ queryKey: about("members"), queryFn: () => ask(client.GET("/team/members")) });

export const useInvitations = (on: boolean) =>
  useQuery({ queryKey: about("invitations"), queryFn: () => ask(client.GET("/team/invitations")), enabled: on });

export const useRoom = () => useQuery({ queryKey: about("room"), queryFn: () => ask(client.GET("/team/room")) });

export const useAudit = (on: boolean) =>
  useQuery({ queryKey: about("audit"), queryFn: () => ask(client.GET("/team/audit")), enabled: on });

export const useSessions = () =>
  useQuery({ queryKey: about("sessions"), queryFn: () => ask(client.GET("/me/sessions")) });

export const useInviteColleague = () =>
  useChange(
    (body: { email: string; role: "coach" | "assistant" }) => ask(client.POST("/team/invitations", { body })),
    "invitations",
    "audit",
  );

export const useDropInvitation = () =>
  useChange(
    (id: string) => ask(client.DELETE("/team/invitations/{id}", { params: { path: { id } } })),
    "invitations",
    "audit",
  );

export const useSetRole = () =>
  useChange(
    ({ id, role }: { id: string; role: "owner" | "coach" | "assistant" }) =>
      ask(client.PUT("/team/members/{id}", { params: { path: { id } }, body: { role } })),
    "members",
    "me",
    "audit",
  );

export const useRemoveMember = () =>
  useChange((id: string) => ask(client.DELETE("/team/members/{id}", { params: { path: { id } } })), "members", "audit");

export const useResetMember = () =>
  useChange((id: string) => ask(client.POST("/team/members/{id}/reset", { params: { path: { id } } })), "audit");

export const useChangePassword = () =>
  useChange((body: { old: string; new: string }) => ask(client.PUT("/me/password", { body })), "sessions", "audit");

export const useEndSession = () =>
  useChange((id: string) => ask(client.DELETE("/me/sessions/{id}", { params: { path: { id } } })), "sessions", "audit");

export const useSignOutElsewhere = () => useChange(() => ask(client.POST("/sign-out-elsewhere")), "sessions", "audit");

export const useDeleteMe = () =>
  useChange((password: string) => ask(client.POST("/me/delete", { body: { password } })));

export const useDeleteTeam = () =>
  useChange((body: { password: string; team: string }) => ask(client.POST("/team/delete", { body })));

export const useDeletions = (on: boolean) =>
  useQuery({ queryKey: about("deletions"), queryFn: () => ask(client.GET("/deletions")), enabled: on });

export const useImportTeam = () =>
  useChange(
    async (file: File) => {
      const call = fetch("/api/team/import", {
        method: "POST",
        headers: { "Content-Type": "application/zip" },
        body: file,
      });
      return ask<{ athletes: number; attempts: number; clips: number; left_out: number }>(
        call.then(async (response) => {
          const body = (await response.json().catch(() => undefined)) as {
            athletes: number;
            attempts: number;
            clips: number;
            left_out: number;
          };
          return response.ok ? { data: body, response } : { error: body, response };
        }),
      );
    },
    "queue",
    "athletes",
    "models",
    "library",
    "phrases",
  );
