import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import {
  ask,
  client,
  type Athlete,
  type ClipAnswers,
  type NewAthlete,
  type Directions,
  type ModelChange,
  type NewAttempt,
  type NewNote,
  type Order,
  type SessionEntry,
  type Training,
} from "./client";

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
    refetchInterval: (q) =>
      q.state.data?.clips.some((c) => c.state === "waiting" || c.state === "importing") ? 500 : false,
  });

export const useModels = () =>
  useQuery({ queryKey: ["models"], queryFn: () => ask(client.GET("/models")), staleTime: Infinity });

export const useChangeModel = () =>
  useDo(
    ({ id, body }: { id: string; body: ModelChange }) =>
      ask(client.POST("/models/{id}/versions", { params: { path: { id } }, body })),
    "models",
  );
export const useRejudge = () =>
  useDo((id: string) => ask(client.POST("/attempts/{id}/rejudge", { params: { path: { id } } })), "bench", "feedback");
export const useCheckModel = () => useDo((text: string) => ask(client.POST("/models/check", { body: { text } })));

export const useFeedback = (id: string) =>
  useQuery({
    queryKey: ["feedback", id],
    queryFn: () => ask(client.GET("/attempts/{id}/feedback", { params: { path: { id } } })),
    staleTime: 0,
  });

/** useDo wraps a change and refreshes what it touches. */
function useDo<I, O>(f: (i: I) => Promise<O>, ...touches: string[]) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: f,
    onSuccess: () => Promise.all(touches.map((t) => queries.invalidateQueries({ queryKey: [t] }))),
  });
}

export const useSetDirections = () =>
  useDo(
    (directions: Directions) => ask(client.PUT("/me/directions", { body: { directions } })),
    "me",
    "models",
    "bench",
    "feedback",
  );
export const useSignIn = () =>
  useDo((body: { email: string; password: string }) => ask(client.POST("/sign-in", { body })), "me");
export const useDemoSignIn = () => useDo(() => ask(client.POST("/demo-sign-in")), "me");
export const useBegin = () =>
  useDo(
    (body: { team: string; name: string; email: string; password: string }) => ask(client.POST("/teams", { body })),
    "me",
  );
export const useConfirm = () => useDo((token: string) => ask(client.POST("/teams/confirm", { body: { token } })), "me");
export const useForgot = () => useDo((email: string) => ask(client.POST("/forgot", { body: { email } })));
export const useReset = () =>
  useDo((body: { secret: string; password: string }) => ask(client.POST("/reset", { body })), "me");
export const useLetters = (on: boolean) =>
  useQuery({ queryKey: ["letters"], queryFn: () => ask(client.GET("/letters")), enabled: on, refetchInterval: 3000 });

export const useMembers = () => useQuery({ queryKey: ["members"], queryFn: () => ask(client.GET("/team/members")) });
export const useInvitations = (on: boolean) =>
  useQuery({ queryKey: ["invitations"], queryFn: () => ask(client.GET("/team/invitations")), enabled: on });
export const useRoom = () => useQuery({ queryKey: ["room"], queryFn: () => ask(client.GET("/team/room")) });
export const useAudit = (on: boolean) =>
  useQuery({ queryKey: ["audit"], queryFn: () => ask(client.GET("/team/audit")), enabled: on });
export const useSessions = () => useQuery({ queryKey: ["sessions"], queryFn: () => ask(client.GET("/me/sessions")) });
export const useInviteColleague = () =>
  useDo(
    (body: { email: string; role: "coach" | "assistant" }) => ask(client.POST("/team/invitations", { body })),
    "invitations",
    "audit",
  );
export const useDropInvitation = () =>
  useDo(
    (id: string) => ask(client.DELETE("/team/invitations/{id}", { params: { path: { id } } })),
    "invitations",
    "audit",
  );
export const useSetRole = () =>
  useDo(
    ({ id, role }: { id: string; role: "owner" | "coach" | "assistant" }) =>
      ask(client.PUT("/team/members/{id}", { params: { path: { id } }, body: { role } })),
    "members",
    "me",
    "audit",
  );
export const useRemoveMember = () =>
  useDo((id: string) => ask(client.DELETE("/team/members/{id}", { params: { path: { id } } })), "members", "audit");
export const useResetMember = () =>
  useDo((id: string) => ask(client.POST("/team/members/{id}/reset", { params: { path: { id } } })), "audit");
export const useChangePassword = () =>
  useDo((body: { old: string; new: string }) => ask(client.PUT("/me/password", { body })), "sessions", "audit");
export const useEndSession = () =>
  useDo((id: string) => ask(client.DELETE("/me/sessions/{id}", { params: { path: { id } } })), "sessions", "audit");
export const useSignOutElsewhere = () => useDo(() => ask(client.POST("/sign-out-elsewhere")), "sessions", "audit");
export const useDeleteMe = () => useDo((password: string) => ask(client.POST("/me/delete", { body: { password } })));
export const useDeleteTeam = () =>
  useDo((body: { password: string; team: string }) => ask(client.POST("/team/delete", { body })));

export const useSignOut = () => useDo(() => ask(client.POST("/sign-out")), "me");

export const useSaveAthlete = () =>
  useDo(
    ({ id, ...body }: NewAthlete & { id?: string }): Promise<Athlete> =>
      id
        ? ask(client.PUT("/athletes/{id}", { params: { path: { id } }, body }))
        : ask(client.POST("/athletes", { body })),
    "athletes",
    "queue",
    "bench",
    "log",
  );
export const useAddAttempt = () => useDo((body: NewAttempt) => ask(client.POST("/attempts", { body })), "queue");
export const useChangeAttempt = () =>
  useDo(
    ({ id, body }: { id: string; body: NewAttempt }) =>
      ask(client.PUT("/attempts/{id}", { params: { path: { id } }, body })),
    "queue",
    "bench",
  );
export const useSetState = () =>
  useDo(
    ({ id, state }: { id: string; state: "new" | "in_work" | "ready" | "sent" }) =>
      ask(client.PUT("/attempts/{id}/state", { params: { path: { id } }, body: { state } })),
    "queue",
    "bench",
    "feedback",
  );
export const useDeleteAttempt = () =>
  useDo((id: string) => ask(client.DELETE("/attempts/{id}", { params: { path: { id } } })), "queue");
export const useAnswerClip = () =>
  useDo(
    ({ id, body }: { id: string; body: ClipAnswers }) =>
      ask(client.PUT("/clips/{id}", { params: { path: { id } }, body })),
    "bench",
    "queue",
  );
export const useClipAction = () =>
  useDo(
    ({ id, what }: { id: string; what: "cancel" | "retry" | "delete" }): Promise<unknown> =>
      what === "delete"
        ? ask(client.DELETE("/clips/{id}", { params: { path: { id } } }))
        : what === "cancel"
          ? ask(client.POST("/clips/{id}/cancel", { params: { path: { id } } }))
          : ask(client.POST("/clips/{id}/retry", { params: { path: { id } } })),
    "bench",
    "queue",
  );

export const useLog = (id: string) =>
  useQuery({
    queryKey: ["log", id],
    queryFn: () => ask(client.GET("/athletes/{id}/log", { params: { path: { id } } })),
    enabled: !!id,
  });
export const useGlance = (id: string) =>
  useQuery({
    queryKey: ["glance", id],
    queryFn: () => ask(client.GET("/attempts/{id}/glance", { params: { path: { id } } })),
    enabled: !!id,
    staleTime: 60_000,
  });
export const useLibrary = () => useQuery({ queryKey: ["library"], queryFn: () => ask(client.GET("/library")) });
export const usePhrases = () =>
  useQuery({ queryKey: ["phrases"], queryFn: () => ask(client.GET("/phrases")), staleTime: 60_000 });
export const useShares = (id: string) =>
  useQuery({
    queryKey: ["shares", id],
    queryFn: () => ask(client.GET("/attempts/{id}/shares", { params: { path: { id } } })),
  });
export const useDeletions = (on: boolean) =>
  useQuery({ queryKey: ["deletions"], queryFn: () => ask(client.GET("/deletions")), enabled: on });
export const useMine = (on: boolean) =>
  useQuery({ queryKey: ["mine"], queryFn: () => ask(client.GET("/mine")), enabled: on });
export const useShared = (key: string) =>
  useQuery({
    queryKey: ["shared", key],
    queryFn: () => ask(client.GET("/shared/{key}", { params: { path: { key } } })),
    staleTime: Infinity,
    retry: false,
  });

export const useChapters = (id: string) =>
  useQuery({
    queryKey: ["talk", id],
    queryFn: () => ask(client.GET("/attempts/{id}/chapters", { params: { path: { id } } })),
  });
export const useSharedTalk = (key: string) =>
  useQuery({
    queryKey: ["shared", key, "talk"],
    queryFn: () => ask(client.GET("/shared/{key}/talk", { params: { path: { key } } })),
    staleTime: Infinity,
    retry: false,
  });
export const useTrim = () =>
  useDo(
    ({ id, ...body }: { id: string; name: string; starts: number; ends: number }) =>
      ask(client.PUT("/chapters/{id}", { params: { path: { id } }, body })),
    "talk",
  );
export const useDropChapter = () =>
  useDo((id: string) => ask(client.DELETE("/chapters/{id}", { params: { path: { id } } })), "talk");
/** Films are asked for again while one is being drawn. */
export const useFilms = (id: string) =>
  useQuery({
    queryKey: ["films", id],
    queryFn: () => ask(client.GET("/attempts/{id}/films", { params: { path: { id } } })),
    refetchInterval: (q) => (q.state.data?.some((f) => f.state === "waiting" || f.state === "drawing") ? 700 : false),
  });
export const useDrawFilm = () =>
  useDo(
    ({ id, ...body }: Order & { id: string }) =>
      ask(client.POST("/attempts/{id}/films", { params: { path: { id } }, body })),
    "films",
  );
export const useDropFilm = () =>
  useDo((id: string) => ask(client.DELETE("/films/{id}", { params: { path: { id } } })), "films");
export const voiceURL = (chapter: string) => `/api/chapters/${chapter}/voice.webm`;
export const filmURL = (film: string) => `/api/films/${film}/film.mp4`;

export const useEnterSession = () =>
  useDo((body: SessionEntry) => ask(client.POST("/sessions", { body })), "log", "queue");
export const useImportMarks = () =>
  useDo((text: string) => ask(client.POST("/marks", { body: { text } })), "log", "queue");
export const usePlanFolder = () =>
  useDo((files: { name: string; modified?: string }[]) => ask(client.POST("/folder", { body: { files } })));
export const useSetCourse = () =>
  useDo(
    ({ id, ...body }: Training & { id: string }) =>
      ask(client.PUT("/attempts/{id}/course", { params: { path: { id } }, body })),
    "log",
  );
export const useSetEye = () =>
  useDo(
    ({ id, eye }: { id: string; eye: "" | "taken" | "not taken" | "overdone" }) =>
      ask(client.PUT("/attempts/{id}/eye", { params: { path: { id } }, body: { eye } })),
    "log",
  );
export const useAddNote = () =>
  useDo(
    ({ athlete, ...body }: NewNote & { athlete: string }) =>
      ask(client.POST("/athletes/{id}/notes", { params: { path: { id: athlete } }, body })),
    "log",
  );
export const useChangeNote = () =>
  useDo(
    ({ id, ...body }: NewNote & { id: string }) => ask(client.PUT("/notes/{id}", { params: { path: { id } }, body })),
    "log",
  );
export const useDeleteNote = () =>
  useDo((id: string) => ask(client.DELETE("/notes/{id}", { params: { path: { id } } })), "log");
export const useSetReference = () =>
  useDo(
    ({ id, name }: { id: string; name: string }) =>
      ask(client.PUT("/attempts/{id}/reference", { params: { path: { id } }, body: { name } })),
    "library",
  );
export const useKeepPhrase = () =>
  useDo((body: { says: string; keep: boolean }) => ask(client.PUT("/phrases", { body })), "phrases");
export const useShare = () =>
  useDo(
    ({ id, days }: { id: string; days: number }) =>
      ask(client.POST("/attempts/{id}/shares", { params: { path: { id } }, body: { days } })),
    "shares",
  );
export const useWithdraw = () =>
  useDo((id: string) => ask(client.DELETE("/shares/{id}", { params: { path: { id } } })), "shares");
export const useInvite = () =>
  useDo((id: string) => ask(client.POST("/athletes/{id}/invitations", { params: { path: { id } } })));
export const useDeleteAthlete = () =>
  useDo(
    (id: string) => ask(client.DELETE("/athletes/{id}", { params: { path: { id } } })),
    "queue",
    "athletes",
    "deletions",
  );
export const useInvitee = (invitation: string) =>
  useQuery({
    queryKey: ["invitee", invitation],
    queryFn: () => ask(client.POST("/join/look", { body: { invitation } })),
    staleTime: Infinity,
    retry: false,
  });
export const useJoin = () =>
  useDo(
    (body: { invitation: string; name?: string; email: string; password: string }) =>
      ask(client.POST("/join", { body })),
    "me",
  );
export const useAnswerShared = () =>
  useDo(({ key, text }: { key: string; text: string }) =>
    ask(client.PUT("/shared/{key}/answer", { params: { path: { key } }, body: { text } })),
  );
export const useNextShared = () =>
  useDo((key: string) => ask(client.POST("/shared/{key}/next", { params: { path: { key } } })));
/** useImportTeam takes a whole archive into an empty team. */
export const useImportTeam = () =>
  useDo(
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
export const spendTime = (id: string, seconds: number) =>
  ask(client.PUT("/attempts/{id}/time", { params: { path: { id } }, body: { seconds } }));

export const modelSourceURL = (id: string) => `/api/models/${id}.yaml`;
export const frameURL = (clip: string, frame: number, width = 0) => `/api/clips/${clip}/frames/${frame}?width=${width}`;
export const posterURL = (clip: string, seed = "") => `/api/clips/${clip}/poster.jpg?${seed}`;
export const proxyURL = (clip: string) => `/api/clips/${clip}/proxy.mp4`;
