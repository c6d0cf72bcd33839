import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { ask, client, type TrackPack, type TrackTry } from "../../api/client";
import { factsOf } from "../../api/events";
import { about } from "../../api/topic";
import type { Reckoner } from "../workshop/reckon";
import { ours, useWaiting } from "./notes";

export const useTrack = () =>
  useQuery({ queryKey: about("track"), queryFn: () => ask(client.GET("/track")), refetchInterval: 60_000 });

export type Told = ReturnType<Reckoner["join"]> & { of(athlete: string): TrackTry[] };

/** useTold is what the notes of all phones tell, those of this one that nobody else has yet among them;
 * on the day of a competition how it stands, too. */
export function useTold(pack: TrackPack, reckoner: Reckoner, meet: boolean): Told {
  const version = useWaiting();
  return useMemo(() => {
    const own = ours();
    const at = (athlete: string, events: string[]) =>
      new Set([...events, ...[...pack.notes, ...own].filter((n) => n.athlete === athlete).map((n) => n.event)]);
    const known = new Set(pack.notes.map((n) => n.id));
    const j = reckoner.join(
      [...pack.notes, ...own.filter((n) => !known.has(n.id) && n.day === pack.day)],
      meet
        ? pack.people.flatMap((p) =>
            [...at(p.id, p.events)]
              .filter((e) => factsOf(e).series)
              .map((event) => {
                const { valid, fouls } = p.records.find((r) => r.event === event) ?? { valid: 0, fouls: 0 };
                return { athlete: p.id, event, before: { valid, fouls } };
              }),
          )
        : [],
    );
    const there = j.tries.filter((t) => t.says.made !== "gone");
    return { ...j, tries: there, of: (athlete: string) => there.filter((t) => t.athlete === athlete) };
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [pack, reckoner, version, meet]);
}
