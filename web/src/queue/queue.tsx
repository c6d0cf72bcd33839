import { Box, Button, Flex, Image, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { useNavigate } from "react-router";
import type { QueueItem } from "../api/client";
import { type EventID, events } from "../api/events";
import { posterURL, useQueue, useSignOut, useAthletes } from "../api/queries";
import { turnTheme } from "../theme";
import { Key, Notice } from "../ui/parts";
import { AthleteForm, AttemptForm, Sheet } from "./forms";
import { send } from "./uploads";

const states = { new: "new", in_work: "in work", ready: "ready", sent: "sent" } as const;
type State = keyof typeof states;
const tone: Record<State, string> = { new: "amber", in_work: "sky", ready: "moss", sent: "quiet" };

const day = (iso: string) => new Date(iso + "T12:00").toLocaleDateString("en-GB", { day: "numeric", month: "short" });

/** Queue: what came in, what is next. */
export function Queue({ team }: { team: string }) {
  const queue = useQueue();
  const athletes = useAthletes();
  const signOut = useSignOut();
  const go = useNavigate();
  const queries = useQueryClient();
  const [only, setOnly] = useState<State | null>(null);
  const [adding, setAdding] = useState<File[] | null>(null);
  const [person, setPerson] = useState<string | null>(null);
  const [at, setAt] = useState(0);
  const [over, setOver] = useState<string | null>(null);
  const all = queue.data ?? [];
  // What wants the coach comes first; what was sent comes last.
  const list = useMemo(() => {
    const order = Object.keys(states);
    return all.filter((i) => !only || i.state === only).sort((a, b) => order.indexOf(a.state) - order.indexOf(b.state));
  }, [all, only]);

  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (adding || person || (e.target as HTMLElement).closest("input, textarea, select, [role=dialog]")) return;
      if (e.key === "ArrowDown") setAt((i) => Math.min(list.length - 1, i + 1));
      else if (e.key === "ArrowUp") setAt((i) => Math.max(0, i - 1));
      else if (e.key === "Enter" && list[at]) void go(`/attempt/${list[at].id}`);
      else if (e.key === "n") setAdding([]);
      else if (e.key === "m") void go("/models");
      else return;
      e.preventDefault();
    };
    addEventListener("keydown", key);
    return () => removeEventListener("keydown", key);
  });

  return (
    <Flex
      direction="column"
      minH="100%"
      maxW="1280px"
      mx="auto"
      px="20px"
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        if (e.dataTransfer.files.length) setAdding([...e.dataTransfer.files]);
      }}
    >
      <Flex h="58px" align="center" gap="10px">
        <img src="/mark.svg" width={26} height={26} alt="" />
        <Text fontSize="17px" fontWeight="700">
          Neokinema
        </Text>
        <Text color="quiet">{team}</Text>
        <Box flex="1" />
        <Button size="xs" variant="ghost" onClick={() => void go("/models")} title="Technique models (M)">
          models
        </Button>
        <Button size="xs" variant="ghost" onClick={turnTheme}>
          light or dark
        </Button>
        <Button size="xs" variant="ghost" onClick={() => signOut.mutate(undefined, { onSuccess: () => queries.clear() })}>
          sign out
        </Button>
        <Button onClick={() => setAdding([])} title="Add an attempt (N)">
          Add attempt
        </Button>
      </Flex>

      <Flex gap="6px" mb="12px" align="center">
        <Filter name="all" n={all.length} on={only === null} onClick={() => setOnly(null)} />
        {(Object.keys(states) as State[]).map((s) => (
          <Filter key={s} name={states[s]} n={all.filter((i) => i.state === s).length} tone={tone[s]} on={only === s} onClick={() => setOnly(only === s ? null : s)} />
        ))}
        <Box flex="1" />
        <Text fontSize="11.5px" color="quiet">
          <Key>↑</Key> <Key>↓</Key> choose, <Key>Enter</Key> open, <Key>N</Key> new; drop clips on a line or anywhere
        </Text>
      </Flex>

      {queue.error && (
        <Notice tone="clay" mb="10px">
          {queue.error.message}
        </Notice>
      )}
      {queue.data && all.length === 0 && (
        <Box bg="panel" borderRadius="panel" p="48px" textAlign="center">
          <Text fontSize="16px" fontWeight="600" mb="4px">
            No attempt yet
          </Text>
          <Text color="quiet" mb="16px">
            Drop a clip from your phone anywhere here, or add an attempt and send its clips later.
          </Text>
          <Button onClick={() => setAdding([])}>Add the first attempt</Button>
        </Box>
      )}
      <Box display="grid" gap="6px" pb="40px" role="list">
        {list.map((i, n) => (
          <Row
            key={i.id}
            i={i}
            on={n === at}
            over={over === i.id}
            onOver={(v) => setOver(v ? i.id : null)}
            onOpen={() => void go(`/attempt/${i.id}`)}
            onAthlete={() => setPerson(i.athlete_id)}
            onFiles={(f) => {
              setOver(null);
              send(i.id, f, () => void queries.invalidateQueries());
            }}
          />
        ))}
      </Box>

      <Sheet title="Add attempt" wide open={adding !== null} onClose={() => setAdding(null)}>
        {adding && (
          <AttemptForm
            files={adding}
            onDone={(id) => {
              setAdding(null);
              if (adding.length === 0) void go(`/attempt/${id}`);
            }}
          />
        )}
      </Sheet>
      <Sheet title="Athlete" open={person !== null} onClose={() => setPerson(null)}>
        {person && <AthleteForm athlete={athletes.data?.find((a) => a.id === person)} onDone={() => setPerson(null)} />}
      </Sheet>
    </Flex>
  );
}

const Filter = ({ name, n, tone, on, onClick }: { name: string; n: number; tone?: string; on: boolean; onClick(): void }) => (
  <Button size="xs" variant="outline" bg={on ? "raised" : undefined} borderColor={on ? "chalk" : "seam"} onClick={onClick}>
    {tone && <Box w="8px" h="8px" borderRadius="full" bg={tone} />}
    {name}
    <Text as="span" color="quiet">
      {n}
    </Text>
  </Button>
);

function Row({ i, on, over, onOver, onOpen, onAthlete, onFiles }: { i: QueueItem; on: boolean; over: boolean; onOver(v: boolean): void; onOpen(): void; onAthlete(): void; onFiles(f: File[]): void }) {
  return (
    <Flex
      role="listitem"
      data-attempt={i.id}
      data-state={i.state}
      bg="panel"
      borderRadius="panel"
      align="center"
      gap="14px"
      pr="14px"
      h="72px"
      cursor="pointer"
      overflow="hidden"
      outline={over ? "2px dashed" : on ? "1.5px solid" : undefined}
      outlineColor={over ? "clay" : "seam"}
      _hover={{ bg: "raised" }}
      onClick={onOpen}
      onDragOver={(e) => {
        e.preventDefault();
        onOver(true);
      }}
      onDragLeave={() => onOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        e.stopPropagation();
        onFiles([...e.dataTransfer.files]);
      }}
    >
      <Box w="128px" h="72px" bg="pit" flexShrink={0}>
        {i.poster && <Image src={posterURL(i.poster, i.poster_seed)} alt="" w="128px" h="72px" objectFit="cover" objectPosition="30% 70%" />}
      </Box>
      <Box w="190px">
        <Text fontWeight="650" fontSize="14px" truncate>
          {i.athlete}
        </Text>
        <Button
          size="xs"
          variant="ghost"
          px="0"
          h="18px"
          fontSize="11.5px"
          onClick={(e) => {
            e.stopPropagation();
            onAthlete();
          }}
        >
          {(events[i.event as EventID] ?? i.event).toLowerCase()}
        </Button>
      </Box>
      <Box w="170px">
        <Text>{i.mark || "no mark"}</Text>
        <Text fontSize="11.5px" color="quiet" truncate>
          {day(i.done_on)}
          {i.session && `, ${i.session}`}
        </Text>
      </Box>
      <Box flex="1" minW="0">
        {i.cue ? (
          <Text truncate>“{i.cue}”</Text>
        ) : i.last_cue ? (
          <Text truncate color="quiet">
            last told: “{i.last_cue}”
          </Text>
        ) : (
          <Text color="quiet" fontSize="12px">
            no cue yet
          </Text>
        )}
      </Box>
      <Text fontSize="12px" w="110px" textAlign="right" color={i.troubled ? "amber" : "quiet"}>
        {i.busy ? "preparing …" : i.troubled ? "wants an answer" : i.clips === 0 ? "no clip yet" : i.clips === 1 ? "1 clip" : `${i.clips} clips`}
      </Text>
      <Flex w="78px" align="center" gap="6px">
        <Box w="8px" h="8px" borderRadius="full" bg={tone[i.state]} />
        <Text fontSize="12px">{states[i.state]}</Text>
      </Flex>
    </Flex>
  );
}
