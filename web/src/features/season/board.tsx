import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Board as Seen, SquadMeasure, SquadSign } from "../../api/client";
import { events, type EventID } from "../../api/events";
import { Choice } from "../../ui/field";
import { Head, Notice } from "../../ui/parts";
import { goal, Num, show, verdictColour } from "../../ui/numbers";
import { DrillName } from "../drills/link";
import { day } from "../../ui/written";
import { t } from "../../texts/texts";
import { useBoard, useSquadMeasure } from "./api";

const tones: Record<SquadSign, string> = {
  paused: "clay",
  answer: "sky",
  failed: "clay",
  due: "amber",
  near: "moss",
  silent: "quiet",
};

/** first are the lines that are shown before somebody asks for all. */
const first = 6;

/** Board is a squad at a glance: who wants a look, what most have in common, one measure of everybody. */
export function Board() {
  const [whole, setWhole] = useState(false);
  const board = useBoard();
  if (board.error) return <Notice tone="clay">{board.error.message}</Notice>;
  if (!board.data) return null;
  const all = board.data.lines.filter((l) => l.signs.length > 0);
  const wants = whole ? all : all.slice(0, first);
  const group = board.data.causes.filter((c) => c.group);
  return (
    <Grid
      templateColumns={{ base: "minmax(0, 1fr)", lg: "minmax(0, 1fr) minmax(0, 1fr)" }}
      gap="12px"
      mb="16px"
      alignItems="start"
      data-testid="board"
    >
      <Box bg="panel" borderRadius="panel" p="12px 16px">
        <Head>{t("Wants a look")}</Head>
        {wants.length === 0 && <Text color="quiet">{t("Nobody: all is on its way.")}</Text>}
        {wants.map((l) => (
          <Flex key={l.id} gap="10px" py="4px" borderTop="1px solid" borderColor="seam" data-wants={l.name}>
            <Box w="130px" flexShrink={0}>
              <Link to={`/athlete/${l.id}`} className="above" style={{ fontWeight: 650 }}>
                {l.name}
              </Link>
            </Box>
            <Box flex="1" minW="0">
              {l.signs.map((s, i) => (
                <Text key={i} fontSize="12.5px" color={tones[s.sign]}>
                  {s.attempt ? (
                    <Link to={`/attempt/${s.attempt}`} className="tap">
                      {s.says}
                    </Link>
                  ) : (
                    s.says
                  )}
                </Text>
              ))}
            </Box>
          </Flex>
        ))}
        {all.length > first && (
          <Button size="xs" variant="ghost" mt="4px" onClick={() => setWhole(!whole)}>
            {whole ? t("Fewer") : t("All {count}", { count: all.length })}
          </Button>
        )}
      </Box>
      <Box display="grid" gap="12px" gridTemplateColumns="minmax(0, 1fr)">
        {group.map((c) => (
          <Together key={c.event + c.fault} c={c} />
        ))}
        <Measured board={board.data} />
      </Box>
    </Grid>
  );
}

/** Together is a first cause that several have: a session for all of them. */
const Together = ({ c }: { c: Seen["causes"][number] }) => (
  <Box bg="panel" borderRadius="panel" p="12px 16px" data-cause={c.fault}>
    <Head
      right={
        <Text fontSize="12px" color="quiet">
          {events[c.event as EventID]}
        </Text>
      }
    >
      {t("A session for several")}
    </Head>
    <Text fontSize="14px" fontWeight="650">
      {c.name}
    </Text>
    <Text fontSize="12.5px" color="quiet" mb="4px">
      {c.names.join(", ")}
    </Text>
    {c.words && (
      <Text color="clay" fontWeight="600" mb="4px">
        “{c.words}”
      </Text>
    )}
    {c.drills.slice(0, 2).map((d) => (
      <Text key={d.name} fontSize="12.5px">
        <DrillName name={d.name} />
        <Text as="span" color="quiet">
          {" "}
          {d.dose.says}
        </Text>
      </Text>
    ))}
  </Box>
);

/** Measured is one measure of everybody, each against the band of the own level and age. */
function Measured({ board }: { board: Seen }) {
  const [chosen, setChosen] = useState("");
  const usual = board.measures[0];
  const now = chosen || (usual ? `${usual.event} ${usual.checkpoint}` : "");
  const [event = "", checkpoint = ""] = now.split(" ");
  const measure = useSquadMeasure(event, checkpoint);
  if (!usual) return null;
  const options = Object.fromEntries(
    board.measures.map((m) => [
      `${m.event} ${m.checkpoint}`,
      `${events[m.event as EventID]}: ${m.name} (${m.athletes})`,
    ]),
  );
  return (
    <Box bg="panel" borderRadius="panel" p="12px 16px" data-testid="measure">
      <Head>{t("One measure of everybody")}</Head>
      <Box mb="8px">
        <Choice label={t("Measure")} value={now} options={options} onChange={setChosen} />
      </Box>
      {measure.error && <Notice tone="clay">{measure.error.message}</Notice>}
      {measure.data?.lines.map((l) => (
        <Value key={l.athlete_id} l={l} unit={measure.data.unit} />
      ))}
      <Text fontSize="11.5px" color="quiet" mt="6px">
        {t("Each against the band of the own level and age; others only of the same sex, level and build.")}
      </Text>
    </Box>
  );
}

const levels = { child: t("child"), beginner: t("beginner"), youth: t("youth"), grown: t("grown") };

function Value({ l, unit }: { l: SquadMeasure["lines"][number]; unit: string }) {
  const best = l.best && show(l.best.value, unit);
  return (
    <Box py="4px" borderTop="1px solid" borderColor="seam">
      <Flex gap="10px" align="baseline">
        <Box flex="1" minW="0">
          <Link to={`/attempt/${l.attempt_id}`} className="above" style={{ fontWeight: 650 }}>
            {l.name}
          </Link>
          <Text as="span" fontSize="11.5px" color="quiet">
            {" "}
            {levels[l.level]}, {day(l.done_on)}
          </Text>
        </Box>
        <Text color={verdictColour[l.verdict]}>
          <Num v={l.value} unit={unit} />
        </Text>
        <Text fontSize="11.5px" color="quiet" w="110px" textAlign="right">
          {goal({ band: l.band, unit } as never)}
        </Text>
      </Flex>
      {best && (
        <Text fontSize="11.5px" color="quiet">
          {l.best!.same
            ? t("own better one that day ({mark}): {value}, no real difference", {
                mark: l.best!.mark,
                value: best.value,
              })
            : t("own better one that day ({mark}): {value}", { mark: l.best!.mark, value: best.value })}
        </Text>
      )}
      {l.alike?.differs && (
        <Text fontSize="11.5px" color="amber">
          {t("unlike {n} others of the same kind", { n: l.alike.n })}
        </Text>
      )}
    </Box>
  );
}
