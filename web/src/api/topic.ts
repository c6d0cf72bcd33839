import { useCallback } from "react";
import { useMutation, useQueryClient } from "@tanstack/react-query";

/** Topic is what an answer of the server is about: the first part of its key. A change
 * names the topics that it makes old. */
export type Topic =
  | "athletes"
  | "audit"
  | "circle"
  | "companions"
  | "workspace"
  | "deletions"
  | "draft"
  | "drills"
  | "eye"
  | "feedback"
  | "films"
  | "ghost"
  | "glance"
  | "invitations"
  | "invitee"
  | "ladders"
  | "letters"
  | "library"
  | "log"
  | "me"
  | "members"
  | "mine"
  | "models"
  | "phrases"
  | "queue"
  | "room"
  | "season"
  | "sessions"
  | "shared"
  | "shares"
  | "talk"
  | "track"
  | "workshop";

/** about is the key of what is asked for. */
export const about = (topic: Topic, ...of: string[]) => [topic, ...of];

/** useChange wraps a change and asks anew for the topics that it touches. */
export function useChange<I, O>(f: (i: I) => Promise<O>, ...touches: Topic[]) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: f,
    onSuccess: () => Promise.all(touches.map((t) => queries.invalidateQueries({ queryKey: about(t) }))),
  });
}

/** andThen goes on after a change that worked, even when its screen is gone by then: what is given
 * to mutate itself is dropped with the screen, and the change may be what takes it away. What went
 * wrong stays with the change, which shows it. */
export const andThen = <O>(change: Promise<O>, next: (made: O) => void) => void change.then(next, () => undefined);

/** useRefresh asks anew for topics that changed in another way: an upload that ended. */
export function useRefresh() {
  const queries = useQueryClient();
  return useCallback(
    (...touches: Topic[]) => void touches.forEach((t) => void queries.invalidateQueries({ queryKey: about(t) })),
    [queries],
  );
}
