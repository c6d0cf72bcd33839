import { Box, Button, Flex, Grid, Input, Link, Text } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { Link as RouterLink, useNavigate, useSearchParams } from "react-router";
import type { LibraryDrill } from "../../api/client";
import { events, type EventID } from "../../api/events";
import { Choice } from "../../ui/field";
import { Modal } from "../../ui/modal";
import { Opening } from "../../ui/opening";
import { Head } from "../../ui/parts";
import { useTitle } from "../../ui/title";
import { t } from "../../texts/texts";
import { useDrills } from "./api";
import { Moving } from "./figure";

const levels = { new: t("first season"), learning: t("a year of training"), trained: t("trained") };

/** Drills is the library: searched by what it is for, event, place, what there is, and level. */
export default function Drills() {
  const drills = useDrills();
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
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if ((e.target as HTMLElement).closest("input, textarea, select, [role=dialog]")) return;
      if (e.key === "s") field.current?.focus();
      else if (e.key === "Escape") void go("/");
      else return;
      e.preventDefault();
    };
    addEventListener("keydown", key);
    return () => removeEventListener("keydown", key);
  }, [go]);
  if (!drills.data) return <Opening what={t("the drills")} error={drills.error} />;
  const words = ask("q").toLowerCase().split(/\s+/).filter(Boolean);
  const needs = [...new Set(drills.data.flatMap((d) => d.needs))].sort();
  const list = drills.data.filter(
    (d) =>
      (!ask("event") || d.events.includes(ask("event"))) &&
      (!ask("needs") || (ask("needs") === "nothing" ? d.needs.length === 0 : d.needs.includes(ask("needs")))) &&
      (!ask("level") || d.level === ask("level")) &&
      words.every((w) => [d.name, d.feel, ...d.for.map((f) => f.name)].join(" ").toLowerCase().includes(w)),
  );
  const open = drills.data.find((d) => d.id === ask("drill"));
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
        <Text color="quiet" fontSize="12.5px" data-testid="found">
          {list.length === 1 ? t("1 drill") : t("{count} drills", { count: list.length })}
        </Text>
      </Flex>
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
            ) : (
              <Flex
                bg="pit"
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
              {d.events.map((e) => events[e as EventID]).join(", ")}
            </Text>
          </Box>
        ))}
      </Grid>
      <Modal title={open?.name ?? ""} wide open={!!open} onClose={() => set("drill", "")}>
        {open && <Card d={open} all={drills.data} onOpen={(id) => set("drill", id)} />}
      </Modal>
    </Box>
  );
}

/** Card is all that is said of a drill. */
function Card({ d, all, onOpen }: { d: LibraryDrill; all: LibraryDrill[]; onOpen(id: string): void }) {
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
      <Flex justify="space-between" align="baseline" gap="10px" my="10px" wrap="wrap">
        <Text fontSize="17px" fontWeight="700" color="clay">
          {d.says}
        </Text>
        <Link
          href={`/api/drills/${d.id}/card.pdf`}
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
          <Head>{t("Ladder")}</Head>
          <Box as="ol" pl="18px" mb="8px" listStyleType="decimal">
            {d.ladder.map((r) => (
              <li key={r}>{r}</li>
            ))}
          </Box>
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
