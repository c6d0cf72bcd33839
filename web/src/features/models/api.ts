import { useQuery } from "@tanstack/react-query";
import { ask, client, type ModelChange } from "../../api/client";
import { about, useChange } from "../../api/topic";

export const useModels = () =>
  useQuery({ queryKey: about("models"), queryFn: () => ask(client.GET("/models")), staleTime: Infinity });

export const useChangeModel = () =>
  useChange(
    ({ id, body }: { id: string; body: ModelChange }) =>
      ask(client.POST("/models/{id}/versions", { params: { path: { id } }, body })),
    "models",
  );

export const useCheckModel = () => useChange((text: string) => ask(client.POST("/models/check", { body: { text } })));

export const modelSourceURL = (id: string) => `/api/models/${id}.yaml`;
