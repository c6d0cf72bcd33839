import { useQuery } from "@tanstack/react-query";
import { ask, client } from "../../api/client";
import { about, useChange } from "../../api/topic";

export const useLibrary = () => useQuery({ queryKey: about("library"), queryFn: () => ask(client.GET("/library")) });

export const useSetReference = () =>
  useChange(
    ({ id, name }: { id: string; name: string }) =>
      ask(client.PUT("/attempts/{id}/reference", { params: { path: { id } }, body: { name } })),
    "library",
  );
