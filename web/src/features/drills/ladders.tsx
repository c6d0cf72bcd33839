import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type LadderStanding } from "../../api/client";
import { about, useChange } from "../../api/topic";
import { Head, Notice } from "../../ui/parts";
import { day } from "../../ui/written";
import { t } from "../../texts/texts";
import { DrillName } from "./link";

const key = (id: string) => about("ladders", id);

/** Ladders are ways from one technique to the next at an event, with where the athlete stands. */
export function Ladders({ id, event }: { id: string; event: string }) {
  const ladders = useQuery({
    queryKey: key(id),
    queryFn: () => ask(client.GET("/athletes/{id}/ladders", { params: { path: { id } } })),
  });
  const list = ladders.data?.filter((l) => l.event === event) ?? [];
  return list.map((l) => <Ladder key={l.id} id={id} l={l} />);
}

function Ladder({ id, l }: { id: string; l: LadderStanding }) {
  const queries = useQueryClient();
  const [open, setOpen] = useState(l.rung >= 0);
  const climb = useChange(async (rung: number) => {
    const got = await ask(
      client.PUT("/athletes/{id}/ladders", { params: { path: { id } }, body: { ladder: l.id, rung } }),
    );
    queries.setQueryData(key(id), got);
  });
  return (
    <Box bg="panel" borderRadius="panel" p="12px 16px" mb="16px" data-ladder={l.id}>
      <Flex align="baseline" gap="10px">
        <Box flex="1">
          <Head>{l.name}</Head>
        </Box>
        <Button size="xs" variant="ghost" aria-expanded={open} onClick={() => setOpen(!open)}>
          {l.rung >= 0
            ? t("rung {n} of {of}, since {day}", { n: l.rung + 1, of: l.rungs.length, day: day(l.since) })
            : t("{of} rungs", { of: l.rungs.length })}
        </Button>
      </Flex>
      {l.advice && <Notice mb="6px">{l.advice}</Notice>}
      {climb.error && (
        <Notice tone="clay" mb="6px">
          {climb.error.message}
        </Notice>
      )}
      {open && (
        <>
          <Text fontSize="12px" color="quiet" mb="6px">
            {l.about}
          </Text>
          <Box as="ol">
            {l.rungs.map((r, i) => (
              <Flex
                as="li"
                key={r.name}
                gap="4px 10px"
                align="center"
                wrap="wrap"
                borderTop="1px solid"
                borderColor="seam"
                py="5px"
                data-rung={i}
                aria-current={i === l.rung ? "step" : undefined}
              >
                <Box w="4px" alignSelf="stretch" borderRadius="2px" bg={i <= l.rung ? "clay" : "seam"} />
                <Box flex="1 1 220px" minW="0">
                  <Text fontSize="13px" fontWeight={i === l.rung ? "700" : "400"}>
                    {r.name}
                  </Text>
                  <Text fontSize="12px" color="quiet">
                    {r.criterion}
                  </Text>
                </Box>
                <Flex gap="10px" align="center" ms="auto">
                  {l.read[i].of > 0 && (
                    <Text fontSize="12px" color={l.read[i].met === l.read[i].of ? "moss" : "quiet"}>
                      {t("met in {met} of {of}", { met: l.read[i].met, of: l.read[i].of })}
                    </Text>
                  )}
                  <DrillName name={r.drill} says={t("drill")} />
                  <Button
                    size="xs"
                    variant={i === l.rung ? "solid" : "outline"}
                    aria-label={
                      i === l.rung
                        ? t("Here: {rung}; press to take the ladder away", { rung: r.name })
                        : t("Here: {rung}", { rung: r.name })
                    }
                    onClick={() => climb.mutate(i === l.rung ? -1 : i)}
                  >
                    {t("Here")}
                  </Button>
                </Flex>
              </Flex>
            ))}
          </Box>
        </>
      )}
    </Box>
  );
}
