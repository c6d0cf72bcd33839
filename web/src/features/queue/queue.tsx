import { Box, Button, Flex, Heading, Input, Menu, Portal, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { lazy, Suspense, useEffect, useEffectEvent, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { Me, QueueItem } from "../../api/client";
import { type EventID, events } from "../../api/events";
import { andThen, useRefresh } from "../../api/topic";
import { useTheme } from "../../theme";
import { Choice } from "../../ui/field";
import { Modal } from "../../ui/modal";
import { Opening } from "../../ui/opening";
import { Key, Notice, Dot } from "../../ui/parts";
import { useTitle } from "../../ui/title";
import { useTakeAway } from "../../ui/undo";
import { underWindow } from "../../ui/page_keys";
import { useSignOut } from "../account/api";
import { send } from "../uploads/uploads";
import { useDeleteAttempt, useQueue } from "./api";
import { keepView, keptView, orders, type View } from "./order";
import { Row, rowHeight, states, tone, type State } from "./row";
import { t } from "../../texts/texts";
import { pressed } from "../../settings/keys";

const chosenKey = "neo.queue.chosen";

// What is not seen at first comes when it is asked for.
const AttemptForm = lazy(() => import("./attemptform").then((m) => ({ default: m.AttemptForm })));
const ChangeAttempt = lazy(() => import("./attemptform").then((m) => ({ default: m.ChangeAttempt })));
const Folder = lazy(() => import("../uploads/folder").then((m) => ({ default: m.Folder })));
const Empty = lazy(() => import("./empty").then((m) => ({ default: m.Empty })));
const Glance = lazy(() => import("./glance").then((m) => ({ default: m.Glance })));
const wait = <Opening what={t("the page")} back={null} inside />;

/** Queue: what came in, what is next. */
export function Queue({ team, filling }: { team: string; filling?: Me["filling"] }) {
  const [view, setView] = useState(keptView);
  const queue = useQueue(view);
  useTitle(t("Queue"));
  const signOut = useSignOut();
  const theme = useTheme();
  const go = useNavigate();
  const refresh = useRefresh();
  const queries = useQueryClient();
  const remove = useDeleteAttempt();
  const [adding, setAdding] = useState<File[] | null>(null);
  const [folder, setFolder] = useState<File[] | null>(null);
  const [changing, setChanging] = useState<string | null>(null);
  const { gone, take } = useTakeAway();
  const [chosen, setChosen] = useState(() => sessionStorage.getItem(chosenKey) ?? "");
  const [look, setLook] = useState(false);
  const [over, setOver] = useState<string | null>(null);
  const many = useRef<HTMLInputElement>(null);
  const search = useRef<HTMLInputElement>(null);
  const pages = queue.data?.pages;
  const list = useMemo(() => (pages ?? []).flatMap((p) => p.lines).filter((i) => !gone.has(i.id)), [pages, gone]);
  const first = pages?.[0];
  const all = Object.values(first?.states ?? {}).reduce((n, k) => n + k, 0);
  const narrowed = view.only !== null || view.event !== "" || view.find.trim() !== "";
  const at = Math.max(
    0,
    list.findIndex((i) => i.id === chosen),
  );
  const set = (c: Partial<View>) => {
    const v = { ...view, ...c };
    setView(v);
    keepView(v);
  };
  const leave = () => andThen(signOut.mutateAsync(undefined), () => queries.clear());
  const choose = (id: string) => {
    setChosen(id);
    sessionStorage.setItem(chosenKey, id);
  };

  const holder = useRef<HTMLDivElement>(null);
  const [top, setTop] = useState(0);
  useLayoutEffect(() => setTop(holder.current?.offsetTop ?? 0), [look, first, narrowed]);
  const rows = useWindowVirtualizer({
    count: list.length,
    estimateSize: () => rowHeight,
    overscan: 6,
    scrollMargin: top,
    getItemKey: (n) => list[n].id,
  });
  const shown = rows.getVirtualItems();
  const last = shown.at(-1)?.index ?? 0;
  const { fetchNextPage, hasNextPage, isFetchingNextPage } = queue;
  useEffect(() => {
    if (hasNextPage && !isFetchingNextPage && last >= list.length - 12) void fetchNextPage();
  }, [last, list.length, hasNextPage, isFetchingNextPage, fetchNextPage]);

  // The row that was chosen has the focus and is in sight.
  const wanted = useRef<string | null>(null);
  useEffect(() => {
    const row = wanted.current && document.querySelector<HTMLElement>(`[data-open="${wanted.current}"]`);
    if (!row) return;
    row.focus({ preventScroll: true });
    wanted.current = null;
  });
  const step = (by: number) => {
    const n = Math.max(0, Math.min(list.length - 1, at + by));
    if (!list[n]) return;
    wanted.current = list[n].id;
    choose(list[n].id);
    rows.scrollToIndex(n, { align: "auto" });
  };
  const takeAway = (i: QueueItem) => {
    const says = t("{athlete}, {mark}: removed with {which}.", {
      athlete: i.athlete,
      mark: i.mark || (events[i.event as EventID] ?? i.event),
      which: i.clips === 1 ? t("its clip") : t("its {clips} clips", { clips: i.clips }),
    });
    take(i.id, says, (done) => remove.mutate(i.id, { onSettled: done }));
  };

  const key = useEffectEvent((e: KeyboardEvent) => {
    const t = e.target as HTMLElement;
    if (e.ctrlKey || e.metaKey || e.altKey || adding || folder || changing || underWindow()) return;
    if (t.closest("input, textarea, select, [role=menu]")) return;
    // What has the focus keeps its own keys.
    const own = t.closest("button, a") && !t.closest("[data-open]");
    const act: Record<string, () => void> = {
      l: () => list[at] && void go(`/athlete/${list[at].athlete_id}`),
      f: () => many.current?.click(),
      s: () => search.current?.focus(),
      n: () => setAdding([]),
      m: () => void go("/models"),
      w: () => void go("/workshop"),
      b: () => void go("/squad"),
      t: () => void go("/track"),
      e: () => void go("/eye"),
      d: () => void go("/drills"),
    };
    if (!own)
      Object.assign(act, {
        ArrowDown: () => step(1),
        ArrowUp: () => step(-1),
        Home: () => step(-list.length),
        End: () => step(list.length),
        Enter: () => list[at] && void go(`/attempt/${list[at].id}`),
        " ": () => setLook(!look),
      });
    const known = act[pressed(e)];
    if (!known) return;
    e.preventDefault();
    known();
  });
  useEffect(() => {
    const down = (e: KeyboardEvent) => key(e);
    addEventListener("keydown", down);
    return () => removeEventListener("keydown", down);
  }, []);

  return (
    <Flex
      direction="column"
      minH="100%"
      maxW="1280px"
      mx="auto"
      px={{ base: "12px", md: "20px" }}
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        if (e.dataTransfer.files.length > 1) setFolder([...e.dataTransfer.files]);
        else if (e.dataTransfer.files.length) setAdding([...e.dataTransfer.files]);
      }}
    >
      <Flex as="header" minH="58px" py="8px" align="center" gap="10px" wrap="wrap">
        <img src="/mark.svg" width={26} height={26} alt="" />
        <Heading as="h1" fontSize="17px" fontWeight="700">
          {t("Neokinema")}
        </Heading>
        <Text color="quiet" truncate maxW="40vw">
          {team}
        </Text>
        <Box flex="1" />
        <Flex as="nav" gap="2px" display={{ base: "none", md: "flex" }} aria-label={t("Places")}>
          <Button size="xs" variant="ghost" onClick={() => void go("/track")} title={t("A session on the phone (T)")}>
            {t("At the track")}
          </Button>
          <Button
            size="xs"
            variant="ghost"
            onClick={() => void go("/squad")}
            title={t("Everybody’s week and seasons (B)")}
          >
            {t("Squad")}
          </Button>
          <Button
            size="xs"
            variant="ghost"
            onClick={() => void go("/workshop")}
            title={t("Run-ups, flights and what-ifs (W)")}
          >
            {t("Workshop")}
          </Button>
          <Button
            size="xs"
            variant="ghost"
            onClick={() => void go("/eye")}
            title={t("Learn to see, on athletes whose truth is known (E)")}
          >
            {t("Eye")}
          </Button>
          <Button
            size="xs"
            variant="ghost"
            onClick={() => void go("/drills")}
            title={t("What to do about a fault, with figures that move (D)")}
          >
            {t("Drills")}
          </Button>
          <Button size="xs" variant="ghost" onClick={() => void go("/models")} title={t("Technique models (M)")}>
            {t("Models")}
          </Button>
          <Button
            size="xs"
            variant="ghost"
            onClick={() => void go("/team")}
            title={t("People, consent, export, deletion")}
          >
            {t("Team")}
          </Button>
          <Button
            size="xs"
            variant="ghost"
            onClick={() => void go("/settings")}
            title={t("Language, units, looks, keys")}
          >
            {t("Settings")}
          </Button>
          <Button size="xs" variant="ghost" onClick={theme.turn}>
            {theme.to === "dark" ? t("Dark mode") : t("Light mode")}
          </Button>
          <Button size="xs" variant="ghost" onClick={leave}>
            {t("Sign out")}
          </Button>
        </Flex>
        <Menu.Root lazyMount unmountOnExit>
          <Menu.Trigger asChild>
            <Button variant="ghost" display={{ base: "inline-flex", md: "none" }} h="44px">
              {t("Menu")}
            </Button>
          </Menu.Trigger>
          <Portal>
            <Menu.Positioner>
              <Menu.Content bg="raised" fontSize="15px">
                <Menu.Item value="track" h="44px" onClick={() => void go("/track")}>
                  {t("At the track")}
                </Menu.Item>
                <Menu.Item value="squad" h="44px" onClick={() => void go("/squad")}>
                  {t("Squad")}
                </Menu.Item>
                <Menu.Item value="workshop" h="44px" onClick={() => void go("/workshop")}>
                  {t("Workshop")}
                </Menu.Item>
                <Menu.Item value="eye" h="44px" onClick={() => void go("/eye")}>
                  {t("Train the eye")}
                </Menu.Item>
                <Menu.Item value="drills" h="44px" onClick={() => void go("/drills")}>
                  {t("Drills")}
                </Menu.Item>
                <Menu.Item value="models" h="44px" onClick={() => void go("/models")}>
                  {t("Models")}
                </Menu.Item>
                <Menu.Item value="team" h="44px" onClick={() => void go("/team")}>
                  {t("Team")}
                </Menu.Item>
                <Menu.Item value="folder" h="44px" onClick={() => many.current?.click()}>
                  {t("Import a folder")}
                </Menu.Item>
                <Menu.Item value="settings" h="44px" onClick={() => void go("/settings")}>
                  {t("Settings")}
                </Menu.Item>
                <Menu.Item value="theme" h="44px" onClick={theme.turn}>
                  {theme.to === "dark" ? t("Dark mode") : t("Light mode")}
                </Menu.Item>
                <Menu.Item value="out" h="44px" onClick={leave}>
                  {t("Sign out")}
                </Menu.Item>
              </Menu.Content>
            </Menu.Positioner>
          </Portal>
        </Menu.Root>
        <Button
          display={{ base: "none", md: "inline-flex" }}
          variant="outline"
          onClick={() => many.current?.click()}
          title={t("Import a whole folder (F)")}
        >
          {t("Folder")}
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
        <Button h={{ base: "44px", md: "32px" }} onClick={() => setAdding([])} title={t("Add an attempt (N)")}>
          {t("Add attempt")}
        </Button>
      </Flex>

      <Box as="main" flex="1">
        <Flex gap="6px" mb="12px" align="center" wrap="wrap" role="search" aria-label={t("Narrow the queue")}>
          <Filter name="all" n={all} on={view.only === null} onClick={() => set({ only: null })} />
          {(Object.keys(states) as State[]).map((k) => (
            <Filter
              key={k}
              name={states[k]}
              n={first?.states[k] ?? 0}
              tone={tone[k]}
              on={view.only === k}
              onClick={() => set({ only: view.only === k ? null : k })}
            />
          ))}
          <Input
            ref={search}
            name="find"
            aria-label={t("Search the queue")}
            size="sm"
            h="26px"
            w={{ base: "100%", md: "150px" }}
            border="1px solid"
            borderColor="seam"
            bg="raised"
            fontSize="12px"
            value={view.find}
            placeholder={t("search")}
            onChange={(e) => set({ find: e.target.value })}
            onKeyDown={(e) => (e.key === "Escape" || e.key === "Enter") && e.currentTarget.blur()}
          />
          <Box w="140px">
            <Choice
              small
              name="only"
              label={t("Event")}
              value={view.event}
              options={{ "": t("all events"), ...events }}
              onChange={(v) => set({ event: v as EventID })}
            />
          </Box>
          <Box w="140px">
            <Choice
              small
              name="by"
              label={t("Order")}
              value={view.by}
              options={orders}
              onChange={(v) => set({ by: v as View["by"] })}
            />
          </Box>
          <Box flex="1" />
          {(first?.spent ?? 0) > 0 && (
            <Text fontSize="11.5px" color="quiet" title={t("Hand time on today's attempts; only you see it")}>
              {t("{spent} min of hand time", { spent: Math.round(first!.spent / 60) })}
            </Text>
          )}
        </Flex>
        {all > 0 && (
          <Text fontSize="11.5px" color="quiet" mb="8px" display={{ base: "none", md: "block" }}>
            <Key>↑</Key> <Key>↓</Key> {t("choose,")} <Key>{t("Space")}</Key> {t("quick look,")} <Key>{t("Enter")}</Key>{" "}
            {t("open,")} <Key>L</Key> {t("the athlete's log,")} <Key>N</Key> {t("new,")} <Key>F</Key> {t("folder,")}{" "}
            <Key>S</Key> {t("search; drop clips on a line or anywhere")}
          </Text>
        )}
        {look && list[at] && (
          <Box
            mb="10px"
            position="sticky"
            top="8px"
            zIndex={5}
            boxShadow="0 8px 28px rgba(0,0,0,.4)"
            borderRadius="panel"
          >
            <Suspense fallback={wait}>
              <Glance key={list[at].id} i={list[at]} />
            </Suspense>
          </Box>
        )}

        {(queue.error ?? remove.error) && (
          <Notice tone="clay" mb="10px">
            {(queue.error ?? remove.error)!.message}
          </Notice>
        )}
        {filling && (
          <Notice tone="moss" mb="10px" align="center" data-testid="filling">
            <Text flex="1">
              {t(
                "The club of the demo comes in: {done} of {of} attempts, the newest first. What is here can be opened.",
                filling,
              )}
            </Text>
            <progress
              value={filling.done}
              max={filling.of}
              aria-label={t("How far the club is")}
              style={{ accentColor: "var(--chakra-colors-moss)" }}
            />
          </Notice>
        )}
        {!pages && !queue.error && <Opening what={t("the queue")} back={null} inside />}
        {first && all === 0 && !narrowed && !filling && (
          <Suspense fallback={wait}>
            <Empty onAdd={() => setAdding([])} />
          </Suspense>
        )}
        {first && list.length === 0 && (narrowed || all > 0) && (
          <Text color="quiet" p="30px" textAlign="center">
            {t("Nothing fits.")}{" "}
            <Button size="xs" variant="outline" onClick={() => set({ only: null, event: "", find: "" })}>
              {t("Show all")}
            </Button>
          </Text>
        )}
        <Box
          ref={holder}
          position="relative"
          role="list"
          aria-label={t("Attempts")}
          h={`${rows.getTotalSize()}px`}
          mb="40px"
        >
          {shown.map((v) => (
            <Box
              key={v.key}
              position="absolute"
              left="0"
              right="0"
              top="0"
              transform={`translateY(${v.start - top}px)`}
              role="presentation"
            >
              <Row
                i={list[v.index]}
                on={v.index === at}
                over={over === list[v.index].id}
                onOver={setOver}
                onChoose={choose}
                onChange={setChanging}
                onRemove={takeAway}
                onFiles={(id, f) => {
                  setOver(null);
                  send(id, f, () => refresh("queue", "workspace", "log"));
                }}
              />
            </Box>
          ))}
        </Box>
      </Box>

      <Modal title={t("Add attempt")} wide guarded open={adding !== null} onClose={() => setAdding(null)}>
        {adding && (
          <Suspense fallback={wait}>
            <AttemptForm
              files={adding}
              onDone={(id) => {
                setAdding(null);
                if (adding.length === 0) void go(`/attempt/${id}`);
              }}
            />
          </Suspense>
        )}
      </Modal>
      <Modal title={t("Change attempt")} wide guarded open={changing !== null} onClose={() => setChanging(null)}>
        {changing && (
          <Suspense fallback={wait}>
            <ChangeAttempt id={changing} onDone={() => setChanging(null)} />
          </Suspense>
        )}
      </Modal>
      <Modal title={t("Import a folder")} wide="screen" open={folder !== null} onClose={() => setFolder(null)}>
        {folder && (
          <Suspense fallback={wait}>
            <Folder files={folder} onDone={() => setFolder(null)} />
          </Suspense>
        )}
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
    h={{ base: "44px", md: "26px" }}
    variant="outline"
    bg={on ? "raised" : undefined}
    borderColor={on ? "chalk" : "seam"}
    onClick={onClick}
    aria-pressed={on}
    data-filter={name}
    data-n={n}
  >
    {tone && <Dot tone={tone} />}
    {name}
    <Text as="span" color="quiet">
      {n}
    </Text>
  </Button>
);
