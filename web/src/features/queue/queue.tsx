import { Box, Button, Flex, Image, Input, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useRefresh } from "../../api/topic";
import { useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { QueueItem } from "../../api/client";
import { type EventID, events } from "../../api/events";
import { posterURL } from "../../api/media";
import { useQueue } from "./api";
import { useSignOut } from "../account/api";
import { turnTheme } from "../../theme";
import { Key, Notice } from "../../ui/parts";
import { Folder } from "../uploads/folder";
import { AttemptForm } from "./attemptform";
import { Choice } from "../../ui/field";
import { Modal } from "../../ui/modal";
import { Glance } from "./glance";
import { keepView, keptView, ordered, orders, type View } from "./order";
import { send } from "../uploads/uploads";
import { day, today } from "../../ui/date";
import { useTitle } from "../../ui/title";

const states = { new: "new", in_work: "in work", ready: "ready", sent: "sent" } as const;
type State = keyof typeof states;
const tone: Record<State, string> = { new: "amber", in_work: "sky", ready: "moss", sent: "quiet" };

/** Queue: what came in, what is next. */
export function Queue({ team }: { team: string }) {
  const queue = useQueue();
  useTitle("Queue");
  const signOut = useSignOut();
  const go = useNavigate();
  const refresh = useRefresh();
  const queries = useQueryClient();
  const [view, setView] = useState(keptView);
  const [adding, setAdding] = useState<File[] | null>(null);
  const [folder, setFolder] = useState<File[] | null>(null);
  const [at, setAt] = useState(0);
  const [look, setLook] = useState(false);
  const [over, setOver] = useState<string | null>(null);
  const many = useRef<HTMLInputElement>(null);
  const search = useRef<HTMLInputElement>(null);
  const all = useMemo(() => queue.data ?? [], [queue.data]);
  const list = useMemo(() => ordered(all, view), [all, view]);
  const set = (c: Partial<View>) => {
    const v = { ...view, ...c };
    setView(v);
    keepView(v);
    setAt(0);
  };
  const spent = all.reduce((n, i) => n + (i.done_on === today() ? i.seconds : 0), 0);

  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (adding || folder || (e.target as HTMLElement).closest("input, textarea, select, [role=dialog]")) return;
      if (e.key === "ArrowDown") setAt((i) => Math.min(list.length - 1, i + 1));
      else if (e.key === "ArrowUp") setAt((i) => Math.max(0, i - 1));
      else if (e.key === "Enter" && list[at]) void go(`/attempt/${list[at].id}`);
      else if (e.key === " ") setLook(!look);
      else if (e.key === "l" && list[at]) void go(`/athlete/${list[at].athlete_id}`);
      else if (e.key === "f") many.current?.click();
      else if (e.key === "s") search.current?.focus();
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
        if (e.dataTransfer.files.length > 1) setFolder([...e.dataTransfer.files]);
        else if (e.dataTransfer.files.length) setAdding([...e.dataTransfer.files]);
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
        <Button size="xs" variant="ghost" onClick={() => void go("/team")} title="People, consent, export, deletion">
          team
        </Button>
        <Button size="xs" variant="ghost" onClick={turnTheme}>
          light or dark
        </Button>
        <Button
          size="xs"
          variant="ghost"
          onClick={() => signOut.mutate(undefined, { onSuccess: () => queries.clear() })}
        >
          sign out
        </Button>
        <Button variant="outline" onClick={() => many.current?.click()} title="Take a whole folder in (F)">
          Folder
        </Button>
        <input
          ref={many}
          type="file"
          multiple
          hidden
          data-testid="folder-files"
          // A folder, where the browser can choose one.
          {...({ webkitdirectory: "" } as object)}
          onChange={(e) => {
            if (e.target.files?.length) setFolder([...e.target.files]);
            e.target.value = "";
          }}
        />
        <Button onClick={() => setAdding([])} title="Add an attempt (N)">
          Add attempt
        </Button>
      </Flex>

      <Flex gap="6px" mb="12px" align="center">
        <Filter name="all" n={all.length} on={view.only === null} onClick={() => set({ only: null })} />
        {(Object.keys(states) as State[]).map((k) => (
          <Filter
            key={k}
            name={states[k]}
            n={all.filter((i) => i.state === k).length}
            tone={tone[k]}
            on={view.only === k}
            onClick={() => set({ only: view.only === k ? null : k })}
          />
        ))}
        <Input
          ref={search}
          name="find"
          size="sm"
          h="26px"
          w="150px"
          fontSize="12px"
          value={view.find}
          placeholder="search"
          onChange={(e) => set({ find: e.target.value })}
          onKeyDown={(e) => (e.key === "Escape" || e.key === "Enter") && e.currentTarget.blur()}
        />
        <Box w="140px">
          <Choice
            small
            name="only"
            value={view.event}
            options={{ "": "all events", ...events }}
            onChange={(v) => set({ event: v as EventID })}
          />
        </Box>
        <Box w="140px">
          <Choice small name="by" value={view.by} options={orders} onChange={(v) => set({ by: v as View["by"] })} />
        </Box>
        <Box flex="1" />
        {spent > 0 && (
          <Text fontSize="11.5px" color="quiet" title="Hand time on today's attempts; only you see it">
            {Math.round(spent / 60)} min of hand time
          </Text>
        )}
      </Flex>
      <Text fontSize="11.5px" color="quiet" mb="8px">
        <Key>↑</Key> <Key>↓</Key> choose, <Key>Space</Key> quick look, <Key>Enter</Key> open, <Key>L</Key> the athlete's
        log, <Key>N</Key> new, <Key>F</Key> folder, <Key>S</Key> search; drop clips on a line or anywhere
      </Text>
      {look && list[at] && (
        <Box
          mb="10px"
          position="sticky"
          top="8px"
          zIndex={5}
          boxShadow="0 8px 28px rgba(0,0,0,.4)"
          borderRadius="panel"
        >
          <Glance key={list[at].id} i={list[at]} />
        </Box>
      )}

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
            onAthlete={() => void go(`/athlete/${i.athlete_id}`)}
            onFiles={(f) => {
              setOver(null);
              send(i.id, f, () => refresh("queue", "workspace", "log"));
            }}
          />
        ))}
      </Box>

      <Modal title="Add attempt" wide open={adding !== null} onClose={() => setAdding(null)}>
        {adding && (
          <AttemptForm
            files={adding}
            onDone={(id) => {
              setAdding(null);
              if (adding.length === 0) void go(`/attempt/${id}`);
            }}
          />
        )}
      </Modal>
      <Modal title="Take a folder in" wide="screen" open={folder !== null} onClose={() => setFolder(null)}>
        {folder && <Folder files={folder} onDone={() => setFolder(null)} />}
      </Modal>
    </Flex>
  );
}

const Filter = ({
  name,
  n,
  tone,
  on,
  onClick,
}: {
  name: string;
  n: number;
  tone?: string;
  on: boolean;
  onClick(): void;
}) => (
  <Button
    size="xs"
    variant="outline"
    bg={on ? "raised" : undefined}
    borderColor={on ? "chalk" : "seam"}
    onClick={onClick}
  >
    {tone && <Box w="8px" h="8px" borderRadius="full" bg={tone} />}
    {name}
    <Text as="span" color="quiet">
      {n}
    </Text>
  </Button>
);

function Row({
  i,
  on,
  over,
  onOver,
  onOpen,
  onAthlete,
  onFiles,
}: {
  i: QueueItem;
  on: boolean;
  over: boolean;
  onOver(v: boolean): void;
  onOpen(): void;
  onAthlete(): void;
  onFiles(f: File[]): void;
}) {
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
      outlineColor={over ? "clay" : "quiet"}
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
        {i.poster && (
          <Image
            src={posterURL(i.poster, i.poster_seed)}
            alt=""
            w="128px"
            h="72px"
            objectFit="cover"
            objectPosition="30% 70%"
          />
        )}
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
          {(events[i.event as EventID] ?? i.event).toLowerCase()} · log
        </Button>
      </Box>
      <Box w="170px">
        <Text textDecoration={i.foul ? "line-through" : undefined}>
          {i.mark || (i.foul ? `x ${i.foul}` : "no mark")}
        </Text>
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
      <Text fontSize="11.5px" w="96px" textAlign="right" color={i.answer ? "moss" : "quiet"} truncate title={i.answer}>
        {i.answer
          ? `“${i.answer}”`
          : i.seen
            ? "seen"
            : i.found
              ? `${i.found} ${i.found > 1 ? "findings" : "finding"}`
              : ""}
      </Text>
      <Text fontSize="12px" w="100px" textAlign="right" color={i.troubled ? "amber" : "quiet"}>
        {i.busy
          ? "preparing …"
          : i.drafting < 1
            ? `drafting ${Math.round(100 * i.drafting)} %`
            : i.troubled
              ? "wants an answer"
              : i.clips === 0
                ? "no clip yet"
                : i.clips === 1
                  ? "1 clip"
                  : `${i.clips} clips`}
      </Text>
      <Flex w="78px" align="center" gap="6px">
        <Box w="8px" h="8px" borderRadius="full" bg={tone[i.state]} />
        <Text fontSize="12px">{states[i.state]}</Text>
      </Flex>
    </Flex>
  );
}
