import { Box, Button, Flex, Grid, Input, Link, Text } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { Link as RouterLink, useNavigate, useSearchParams } from "react-router";
import type { LibraryDrill, OwnDrill } from "../../api/client";
import { events, type EventID } from "../../api/events";
import { frameURL } from "../../api/media";
import { andThen } from "../../api/topic";
import { Choice } from "../../ui/field";
import { Modal } from "../../ui/modal";
import { Opening } from "../../ui/opening";
import { Head, Notice } from "../../ui/parts";
import { useTitle } from "../../ui/title";
import { dayAndYear } from "../../ui/written";
import { usePageKeys } from "../../ui/page_keys";
import { t } from "../../texts/texts";
import { useDeleteDrill, useDrills, useOwnDrills } from "./api";
import { Moving } from "./figure";
import { levels, places } from "./levels";
import { Loop } from "./loop";
import { OwnForm } from "./own";

type Any = LibraryDrill | OwnDrill;

const isOwn = (d: Any): d is OwnDrill => "athlete" in d;

const filmed = (d: Any): d is OwnDrill & { clip: string } => isOwn(d) && !!d.clip;

/** Drills is the library with what the team keeps beside it: searched by what it is for, event, place, what
 * there is, and level. */
export default function Drills({ keeps }: { keeps: boolean }) {
  const drills = useDrills();
  const own = useOwnDrills();
  const go = useNavigate();
  const [search, setSearch] = useSearchParams();
  const field = useRef<HTMLInputElement>(null);
  useTitle(t("Drills"));
  const ask = (name: string) => search.get(name) ?? "";
  const set = (name: string, v: string) => {
    const next = new URLSearchParams(search);
    if (v) next.set(name, v);
    else next.delete(name);
    setSearch(next, { replace: true });
  };
  usePageKeys({ s: () => field.current?.focus(), Escape: () => void go("/") });
  if (!drills.data) return <Opening what={t("the drills")} error={drills.error} />;
  const words = ask("q").toLowerCase().split(/\s+/).filter(Boolean);
  const every: Any[] = [...(own.data ?? []), ...drills.data];
  const needs = [...new Set(every.flatMap((d) => d.needs))].sort();
  const list = every.filter(
    (d) =>
      (ask("whose") !== "own" || isOwn(d)) &&
      (!ask("place") || d.place.includes(ask("place") as (typeof d.place)[number])) &&
      (!ask("event") || d.events.includes(ask("event"))) &&
      (!ask("needs") || (ask("needs") === "nothing" ? d.needs.length === 0 : d.needs.includes(ask("needs")))) &&
      (!ask("level") || d.level === ask("level")) &&
      words.every((w) => [d.name, d.feel, ...d.for.map((f) => f.name)].join(" ").toLowerCase().includes(w)),
  );
  const open = every.find((d) => d.id === ask("drill") || d.name === ask("drill"));
  const changes = own.data?.find((d) => d.id === ask("change"));
  const clip = ask("clip");
  const fills = keeps && (search.has("new") || !!clip || !!changes);
  const closeForm = (id = "") => {
    const next = new URLSearchParams(search);
    for (const k of ["new", "clip", "change"]) next.delete(k);
    if (id) next.set("drill", id);
    setSearch(next, { replace: true });
  };
  return (
    <Box as="main" className="grows" minH="100%" maxW="1280px" mx="auto" px={{ base: "12px", md: "20px" }} pb="40px">
      <Flex minH="58px" py="6px" align="center" gap="10px" wrap="wrap">
        <RouterLink to="/" title={t("Back to the queue (Esc)")} aria-label={t("Back to the queue")}>
          <img src="/mark.svg" width={26} height={26} alt="" />
        </RouterLink>
        <Text as="h1" fontSize="17px" fontWeight="700">
          {t("Drills")}
        </Text>
        <Input
          ref={field}
          name="q"
          flex="1 1 220px"
          maxW="380px"
          aria-label={t("Search")}
          placeholder={t("what goes wrong, or what is done (S)")}
          value={ask("q")}
          onChange={(e) => set("q", e.target.value)}
        />
        <Box w="150px">
          <Choice
            name="event"
            label={t("Event")}
            value={ask("event")}
            options={{ "": t("all events"), ...events }}
            onChange={(v) => set("event", v)}
          />
        </Box>
        <Box w="140px">
          <Choice
            name="place"
            label={t("Where")}
            value={ask("place")}
            options={{
              "": t("anywhere"),
              ...Object.fromEntries([...new Set(every.flatMap((d) => d.place))].map((p) => [p, places[p]])),
            }}
            onChange={(v) => set("place", v)}
          />
        </Box>
        <Box w="160px">
          <Choice
            name="needs"
            label={t("What there is")}
            value={ask("needs")}
            options={{
              "": t("whatever it needs"),
              nothing: t("nothing more"),
              ...Object.fromEntries(needs.map((n) => [n, n])),
            }}
            onChange={(v) => set("needs", v)}
          />
        </Box>
        <Box w="150px">
          <Choice
            name="level"
            label={t("From when on")}
            value={ask("level")}
            options={{ "": t("all levels"), ...levels }}
            onChange={(v) => set("level", v)}
          />
        </Box>
        {own.data && own.data.length > 0 && (
          <Button
            size="sm"
            variant={ask("whose") ? "solid" : "outline"}
            aria-pressed={!!ask("whose")}
            onClick={() => set("whose", ask("whose") ? "" : "own")}
          >
            {t("Our own")}
          </Button>
        )}
        <Text color="quiet" fontSize="12.5px" data-testid="found">
          {list.length === 1 ? t("1 drill") : t("{count} drills", { count: list.length })}
        </Text>
        {keeps && (
          <Button size="sm" ms={{ md: "auto" }} data-testid="new-drill" onClick={() => set("new", "1")}>
            {t("New drill")}
          </Button>
        )}
      </Flex>
      {ask("drill") && !open && !own.isPending && (
        <Notice mb="10px">
          {t("“{name}” is in no library: somebody has written it down in own words.", { name: ask("drill") })}
        </Notice>
      )}
      {list.length === 0 && (
        <Box bg="panel" borderRadius="panel" p="40px" textAlign="center">
          <Text mb="12px">{t("No drill fits all of that.")}</Text>
          <Button variant="outline" onClick={() => setSearch({}, { replace: true })}>
            {t("Show all of them")}
          </Button>
        </Box>
      )}
      <Grid templateColumns="repeat(auto-fill, minmax(min(100%, 230px), 1fr))" gap="10px" data-testid="drills">
        {list.map((d) => (
          <Box
            as="button"
            key={d.id}
            textAlign="left"
            display="flex"
            flexDirection="column"
            justifyContent="flex-start"
            alignItems="stretch"
            bg="panel"
            borderRadius="panel"
            p="8px"
            cursor="pointer"
            data-drill={d.id}
            onClick={() => set("drill", d.id)}
          >
            {d.moves ? (
              <Moving id={d.id} name={d.name} />
            ) : filmed(d) ? (
              <img
                src={frameURL(d.clip, Math.round((d.first + d.last) / 2), 400)}
                alt={d.name}
                loading="lazy"
                style={{ aspectRatio: "4 / 3", objectFit: "cover", borderRadius: 8, width: "100%" }}
              />
            ) : (
              <Flex
                bg="ground"
                borderRadius="8px"
                align="center"
                justify="center"
                color="quiet"
                fontSize="12px"
                style={{ aspectRatio: "4 / 3" }}
              >
                {t("no figure yet")}
              </Flex>
            )}
            <Text fontSize="13.5px" fontWeight="650" mt="6px" lineHeight="1.25">
              {d.name}
            </Text>
            <Text fontSize="12px" color="quiet" lineHeight="1.3">
              {d.says}
            </Text>
            <Text fontSize="11.5px" color="quiet" lineHeight="1.3">
              {[isOwn(d) ? t("our own") : "", ...d.events.map((e) => events[e as EventID])].filter(Boolean).join(", ")}
            </Text>
          </Box>
        ))}
      </Grid>
      <Modal title={open?.name ?? ""} wide open={!!open} onClose={() => set("drill", "")}>
        {open && (
          <Card
            d={open}
            all={every}
            onOpen={(id) => set("drill", id)}
            onChange={keeps && isOwn(open) ? () => setSearch({ change: open.id }, { replace: true }) : undefined}
            onGone={() => set("drill", "")}
          />
        )}
      </Modal>
      <Modal
        title={changes ? t("Change the drill") : t("A drill of our own")}
        wide
        guarded
        open={fills}
        onClose={() => closeForm()}
      >
        {fills && (
          <OwnForm
            key={changes?.id ?? clip}
            was={changes}
            event={ask("event")}
            clip={clip}
            onDone={(d) => closeForm(d.id)}
          />
        )}
      </Modal>
    </Box>
  );
}

/** Card is all that is said of a drill. */
function Card({
  d,
  all,
  onOpen,
  onChange,
  onGone,
}: {
  d: Any;
  all: Any[];
  onOpen(id: string): void;
  onChange?(): void;
  onGone(): void;
}) {
  const remove = useDeleteDrill();
  const [sure, setSure] = useState(false);
  const line = (what: string, says: string) =>
    says && (
      <Box mb="8px">
        <Text fontSize="11.5px" color="quiet">
          {what}
        </Text>
        <Text>{says}</Text>
      </Box>
    );
  return (
    <Box data-testid="drill">
      {d.moves && <Moving key={d.id} id={d.id} name={d.name} big />}
      {filmed(d) && <Loop key={d.id} d={d} />}
      {filmed(d) && (
        <Text fontSize="12px" color="quiet" mt="4px">
          {t("{athlete}, {day}", { athlete: d.athlete, day: dayAndYear(d.done_on) })}
        </Text>
      )}
      <Flex justify="space-between" align="baseline" gap="10px" my="10px" wrap="wrap">
        <Text fontSize="17px" fontWeight="700" color="clay">
          {d.says}
        </Text>
        <Link
          href={isOwn(d) ? `/api/own-drills/${d.id}/card.pdf` : `/api/drills/${d.id}/card.pdf`}
          target="_blank"
          fontSize="13px"
          textDecoration="underline"
          minH="44px"
          display="inline-flex"
          alignItems="center"
        >
          {t("Card to print")}
        </Link>
      </Flex>
      <Grid templateColumns={{ base: "minmax(0, 1fr)", md: "1fr 1fr" }} gap="4px 20px" fontSize="13.5px">
        <Box>
          {line(t("You should feel"), d.feel)}
          {line(t("Often instead"), d.mistake)}
          {line(t("Go on when"), d.go_on)}
          {line(t("Stop when"), d.stop)}
        </Box>
        <Box>
          {d.ladder.length > 0 && (
            <>
              <Head>{t("Ladder")}</Head>
              <Box as="ol" pl="18px" mb="8px" listStyleType="decimal">
                {d.ladder.map((r) => (
                  <li key={r}>{r}</li>
                ))}
              </Box>
            </>
          )}
          {line(t("Where"), d.place.map((p) => places[p]).join(", "))}
          {line(t("From when on"), levels[d.level])}
          {line(t("You need"), d.needs.join(", "))}
        </Box>
      </Grid>
      <Head>{t("For")}</Head>
      <Flex gap="6px" wrap="wrap" mb="10px">
        {[...new Map(d.for.map((f) => [f.name, f])).values()].map((f) => (
          <Box key={f.event + f.fault} bg="raised" borderRadius="6px" px="8px" py="3px" fontSize="12.5px">
            {f.name}
            <Text as="span" color="quiet">
              {" "}
              {events[f.event as EventID]}
            </Text>
          </Box>
        ))}
      </Flex>
      {onChange && (
        <Flex gap="8px" mb="10px">
          <Button size="sm" variant="outline" onClick={onChange}>
            {t("Change")}
          </Button>
          <Button
            size="sm"
            variant="ghost"
            color="clay"
            loading={remove.isPending}
            onClick={() => (sure ? andThen(remove.mutateAsync(d.id), onGone) : setSure(true))}
          >
            {sure ? t("Delete for good") : t("Delete ...")}
          </Button>
        </Flex>
      )}
      {remove.error && (
        <Notice tone="clay" mb="10px">
          {remove.error.message}
        </Notice>
      )}
      {d.not_with.length > 0 && (
        <>
          <Head>{t("Not together with")}</Head>
          <Flex gap="6px" wrap="wrap">
            {d.not_with.map((n) => (
              <Button
                key={n}
                size="xs"
                variant="outline"
                h="auto"
                minH="32px"
                whiteSpace="normal"
                onClick={() => onOpen(all.find((x) => x.name === n)?.id ?? d.id)}
              >
                {n}
              </Button>
            ))}
          </Flex>
        </>
      )}
    </Box>
  );
}
