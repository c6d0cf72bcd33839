import { useQuery } from "@tanstack/react-query";
import { ask, client, type EyeAnswered, type EyeKind } from "../../api/client";
import { about, useChange } from "../../api/topic";

export const useEye = () => useQuery({ queryKey: about("eye"), queryFn: () => ask(client.GET("/eye")) });

export const useBegin = () =>
  useChange((body: { events: string[]; kinds: EyeKind[]; n: number }) => ask(client.POST("/eye/sets", { body })));

export const useAnswer = () => useChange((body: EyeAnswered) => ask(client.POST("/eye/answers", { body })), "eye");

/** sheetOf is where a clip's pictures are. */
export const sheetOf = (clip: string) => `/api/eye/clips/${clip}`;
