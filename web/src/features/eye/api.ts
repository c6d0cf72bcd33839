import { useSettings } from "../../settings/settings";
import { useQuery } from "@tanstack/react-query";
import { ask, client, type EyeAnswered, type EyeKind } from "../../api/client";
import { about, useChange } from "../../api/topic";

export const useEye = () => useQuery({ queryKey: about("eye"), queryFn: () => ask(client.GET("/eye")) });

export const useBegin = () =>
  useChange((body: { events: string[]; kinds: EyeKind[]; n: number; own: boolean }) =>
    ask(client.POST("/eye/sets", { body })),
  );

export const useAnswer = () => useChange((body: EyeAnswered) => ask(client.POST("/eye/answers", { body })), "eye");

export const useSharing = (wanted: boolean) =>
  useQuery({ queryKey: about("eye", "sharing"), queryFn: () => ask(client.GET("/eye/sharing")), enabled: wanted });

export const useAgree = () =>
  useChange((agreed: boolean) => ask(client.PUT("/eye/sharing", { body: { agreed } })), "eye");

export const useAthleteEye = (id: string) =>
  useQuery({
    queryKey: about("eye", "of", id),
    queryFn: () => ask(client.GET("/athletes/{id}/eye", { params: { path: { id } } })),
  });

export const useAskForEye = (id: string) =>
  useChange(
    (asked: boolean) => ask(client.PUT("/athletes/{id}/eye", { params: { path: { id } }, body: { asked } })),
    "eye",
  );

/** sheetOf is where a clip's pictures are. */
export const sheetOf = (clip: string) => `/api/eye/clips/${clip}`;

/** useTrust gives an answer by eye the share of such answers that are right, at an event where that was
 * measured and while the setting is on. "No, it is not as it should be" says that a fault is there. */
export function useTrust(event: string) {
  const { eye: counts } = useSettings();
  const eye = useQuery({ queryKey: about("eye"), queryFn: () => ask(client.GET("/eye")), enabled: counts });
  const at = counts ? eye.data?.trust.find((x) => x.event === event) : undefined;
  return {
    at,
    of: (answer: "yes" | "partly" | "no") =>
      at && answer !== "partly" ? { sure: answer === "no" ? at.there : at.not } : {},
  };
}
