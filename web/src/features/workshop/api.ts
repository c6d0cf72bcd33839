import { useQuery } from "@tanstack/react-query";
import { ask, client, type FieldSheet, type NewCalculation } from "../../api/client";
import { about, useChange } from "../../api/topic";

/** useKnown is what clips, log and card tell of an athlete, and what was kept. */
export const useKnown = (athlete: string | undefined, event: string, attempt: string) =>
  useQuery({
    queryKey: about("workshop", athlete ?? "", event, attempt),
    queryFn: () =>
      ask(
        client.GET("/athletes/{id}/workshop", {
          params: {
            path: { id: athlete! },
            query: { event: event || undefined, attempt: attempt || undefined },
          },
        }),
      ),
    enabled: !!athlete,
  });

export const useKeep = () =>
  useChange(
    ({ athlete, id, ...body }: NewCalculation & { athlete: string; id?: string }) =>
      id
        ? ask(client.PUT("/calculations/{id}", { params: { path: { id } }, body }))
        : ask(client.POST("/athletes/{id}/calculations", { params: { path: { id: athlete } }, body })),
    "workshop",
    "feedback",
  );

export const useDrop = () =>
  useChange(
    (id: string) => ask(client.DELETE("/calculations/{id}", { params: { path: { id } } })),
    "workshop",
    "feedback",
  );

/** fieldSheet fetches a plan as a file. */
export const fieldSheet = (kind: "pdf" | "svg", body: FieldSheet): Promise<Blob> =>
  ask(
    kind === "pdf"
      ? client.POST("/workshop/field.pdf", { body: body as never, parseAs: "blob" })
      : client.POST("/workshop/field.svg", { body: body as never, parseAs: "blob" }),
  ) as Promise<Blob>;
