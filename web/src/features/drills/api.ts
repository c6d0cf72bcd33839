import { useQuery } from "@tanstack/react-query";
import { ask, client, type NewOwnDrill } from "../../api/client";
import { about, useChange } from "../../api/topic";

export const useDrills = () =>
  useQuery({ queryKey: about("drills"), queryFn: () => ask(client.GET("/drills")), staleTime: Infinity });

export const useFigure = (id: string, wanted: boolean) =>
  useQuery({
    queryKey: about("drills", "figure", id),
    queryFn: () => ask(client.GET("/drills/{drill}/figure", { params: { path: { drill: id } } })),
    enabled: wanted,
    staleTime: Infinity,
  });

export const useOwnDrills = () =>
  useQuery({ queryKey: about("drills", "own"), queryFn: () => ask(client.GET("/own-drills")) });

/** useKeepDrill adds a drill of the team's own, or changes the one with an id. */
export const useKeepDrill = () =>
  useChange(
    ({ id, body }: { id?: string; body: NewOwnDrill }) =>
      ask(
        id ? client.PUT("/own-drills/{id}", { params: { path: { id } }, body }) : client.POST("/own-drills", { body }),
      ),
    "drills",
  );

export const useDeleteDrill = () =>
  useChange((id: string) => ask(client.DELETE("/own-drills/{id}", { params: { path: { id } } })), "drills");

/** useClipSheet is what is known of one clip. */
export const useClipSheet = (id: string) =>
  useQuery({
    queryKey: about("workspace", "clip", id),
    queryFn: () => ask(client.GET("/clips/{id}", { params: { path: { id } } })),
    enabled: !!id,
  });
