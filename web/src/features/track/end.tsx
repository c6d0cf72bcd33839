import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { TrackAthlete, TrackPack } from "../../api/client";
import { Choice } from "../../ui/field";
import { t } from "../../texts/texts";
import type { Told } from "./api";
import { finish } from "./notes";

const efforts = Object.fromEntries([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10].map((n) => [`${n}`, `${n}`]));

/** End keeps what the session was for each, as done: tries are counted, effort is asked. */
export function End({
  pack,
  people,
  all,
  onDone,
}: {
  pack: TrackPack;
  people: TrackAthlete[];
  all: Told;
  onDone(): void;
}) {
  const did = people.filter((p) => all.of(p.id).length > 0);
  const [effort, setEffort] = useState<Record<string, string>>(() =>
    Object.fromEntries(did.map((p) => [p.id, `${Math.round(p.sessions[0]?.effort ?? 5)}`])),
  );
  const [minutes, setMinutes] = useState(() => {
    const times = did.flatMap((p) => all.of(p.id).map((x) => x.at));
    return times.length ? Math.max(15, Math.round((Math.max(...times) - Math.min(...times)) / 60_000) + 20) : 60;
  });
  const keep = () => {
    for (const p of did) {
      const tries = all.of(p.id);
      const s = p.sessions.find((x) => x.event === tries[0].event);
      const cue = p.cues.find((c) => c.event === tries[0].event);
      finish({
        id: crypto.randomUUID(),
        athlete: p.id,
        done_on: pack.day,
        event: tries[0].event,
        kind: s?.kind ?? "technique",
        tries: tries.length,
        full: Math.min(tries.length, tries.filter((x) => x.says.mark || x.says.foul).length),
        implements: "",
        effort: Number(effort[p.id]),
        minutes,
        felt: "",
        ...(cue ? { attempt_id: cue.attempt_id } : {}),
      });
    }
    onDone();
  };
  return (
    <Box data-testid="end">
      <Text color="quiet" fontSize="12.5px" mb="10px">
        {t("How hard was it, 0 to 10? It is kept as done, beside the plan.")}
      </Text>
      {did.length === 0 && <Text mb="10px">{t("Nobody has a try yet, so there is nothing to keep.")}</Text>}
      {did.map((p) => (
        <Flex key={p.id} align="center" gap="10px" mb="6px">
          <Text flex="1">
            {p.name}
            <Text as="span" color="quiet">
              {" "}
              {t("{count} tries", { count: all.of(p.id).length })}
            </Text>
          </Text>
          <Box w="84px">
            <Choice
              label={t("How hard it was for {name}", { name: p.name })}
              value={effort[p.id]}
              options={efforts}
              onChange={(v) => setEffort({ ...effort, [p.id]: v })}
            />
          </Box>
        </Flex>
      ))}
      <Flex align="center" gap="8px" my="10px">
        <Button
          h="44px"
          variant="outline"
          aria-label={t("Five minutes less")}
          onClick={() => setMinutes(Math.max(5, minutes - 5))}
        >
          −
        </Button>
        <Text minW="70px" textAlign="center">
          {t("{count} min", { count: minutes })}
        </Text>
        <Button h="44px" variant="outline" aria-label={t("Five minutes more")} onClick={() => setMinutes(minutes + 5)}>
          +
        </Button>
      </Flex>
      <Button w="100%" h="48px" onClick={keep}>
        {t("End the session")}
      </Button>
    </Box>
  );
}
