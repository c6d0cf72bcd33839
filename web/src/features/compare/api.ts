import { useMutation, useQuery } from "@tanstack/react-query";
import { ask, client, type Agreement, type Workspace } from "../../api/client";
import { about, useChange } from "../../api/topic";

export const useLibrary = () => useQuery({ queryKey: about("library"), queryFn: () => ask(client.GET("/library")) });

export const useSetReference = () =>
  useChange(
    ({ id, name }: { id: string; name: string }) =>
      ask(client.PUT("/attempts/{id}/reference", { params: { path: { id } }, body: { name } })),
    "library",
  );

/** useAgainst holds a file of points against a clip. */
export const useAgainst = (id: string) =>
  useMutation({
    mutationFn: ({ file, first }: { file: File; first: number }) =>
      ask(
        client.POST("/clips/{id}/against", {
          params: { path: { id }, query: { first } },
          body: file as unknown as string,
          bodySerializer: (b) => b,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      ),
  });

/** useTakeOver puts points from elsewhere into a clip as a draft; where they have none what is
 * there stays, and so does what a hand has placed. */
export const useTakeOver = (sheet: Workspace) =>
  useChange(
    ({ clip, points }: { clip: string; points: Agreement["points"] }) =>
      ask(
        client.POST("/attempts/{id}/edits", {
          params: { path: { id: sheet.attempt.id } },
          body: {
            base: sheet.work.revision,
            merge_with_previous: false,
            edits: Object.entries(points).map(([key, t]) => ({
              kind: "track" as const,
              clip,
              key,
              value: { ...t, source: t!.source.replaceAll(".", "_") },
            })),
          },
        }),
      ),
    "workspace",
    "feedback",
  );
