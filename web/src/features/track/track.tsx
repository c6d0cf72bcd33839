import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useEffect, useEffectEvent, useState } from "react";
import { Link } from "react-router";
import type { TrackAthlete, TrackPack } from "../../api/client";
import { useRefresh } from "../../api/topic";
import { Modal } from "../../ui/modal";
import { useOnline } from "../../ui/online";
import { Opening } from "../../ui/opening";
import { Head, Notice } from "../../ui/parts";
import { recall, remember } from "../../ui/recall";
import { useTitle } from "../../ui/title";
import { weekday } from "../../ui/written";
import { t } from "../../texts/texts";
import { useReckoner, type Reckoner } from "../workshop/reckon";
import { useTold, useTrack } from "./api";
import { End } from "./end";
import { films } from "./films";
import { heard, join, told, useWaiting, waiting } from "./notes";
import { Turn } from "./turn";
import { fieldNames } from "./words";

/** roof remembers whether a day is indoors. */
const roof = (day: string) => `neo.track.roof.${day}`;
/** meets remembers whether a day is a competition. */
const meets = (day: string) => `neo.track.meet.${day}`;
const here = (day: string) => `neo.track.here.${day}`;

/** Track is a session on the phone: who is here, film, mark, kept or lost, and a look at the last try.
 * It needs no network once it was opened; what is written joins the team's when there is one. */
export default function Track() {
  const track = useTrack();
  const { reckoner, failed } = useReckoner();
  useTitle(t("At the track"));
  if (failed) return <Opening what={t("the track")} error={new Error(failed)} />;
  if (!track.data || !reckoner) return <Opening what={t("the track")} error={track.error} />;
  return <Session key={track.data.day} pack={track.data} reckoner={reckoner} />;
}

function Session({ pack, reckoner }: { pack: TrackPack; reckoner: Reckoner }) {
  const refresh = useRefresh();
  const online = useOnline();
  const version = useWaiting();
  const [present, setPresent] = useState<string[]>(() => recall(here(pack.day), []));
  const [begun, setBegun] = useState(present.length > 0);
  const [at, setAt] = useState(present[0] ?? "");
  const [ending, setEnding] = useState(false);
  const [indoors, setIndoors] = useState(() => recall(roof(pack.day), false));
  useEffect(() => remember(roof(pack.day), indoors), [pack.day, indoors]);
  const [meet, setMeet] = useState(() =>
    recall(
      meets(pack.day),
      pack.people.some((p) => p.sessions.some((s) => s.kind === "compete")),
    ),
  );
  useEffect(() => remember(meets(pack.day), meet), [pack.day, meet]);
  const all = useTold(pack, reckoner, meet);
  const unsent = waiting().length;
  const sync = useEffectEvent(() => void join(() => refresh("track", "log", "queue", "season")));
  useEffect(() => sync(), [version]);
  // A network that comes back is not always told.
  useEffect(() => {
    if (!unsent) return;
    const timer = setInterval(() => sync(), 15_000);
    return () => clearInterval(timer);
  }, [unsent]);
  const [, redraw] = useState(0);
  useEffect(() => {
    void films.recall();
    return films.subscribe(() => redraw((n) => n + 1));
  }, []);
  useEffect(() => remember(here(pack.day), begun ? present : []), [pack.day, present, begun]);
  if (!begun)
    return (
      <Start
        pack={pack}
        present={present}
        onPresent={setPresent}
        indoors={indoors}
        onIndoors={() => setIndoors(!indoors)}
        meet={meet}
        onMeet={() => setMeet(!meet)}
        onBegin={() => {
          setBegun(true);
          setAt(present[0]);
        }}
      />
    );
  const people = pack.people.filter((p) => present.includes(p.id));
  const now = people.find((p) => p.id === at) ?? people[0];
  const next = () => setAt(people[(people.indexOf(now) + 1) % people.length].id);
  return (
    <Box as="main" className="grows" maxW="560px" mx="auto" px="12px" pb="90px" data-testid="track">
      <Flex minH="52px" align="center" gap="10px">
        <Link to="/" aria-label={t("Back to the queue")}>
          <img src="/mark.svg" width={26} height={26} alt="" />
        </Link>
        <Text as="h1" fontSize="16px" fontWeight="700" flex="1">
          {weekday(pack.day)}
        </Text>
        <Text fontSize="12px" color={unsent ? "amber" : "moss"} data-testid="sent" data-waiting={unsent}>
          {unsent
            ? online
              ? t("{count} on their way", { count: unsent })
              : t("{count} kept on this phone", { count: unsent })
            : t("the team has all of it")}
        </Text>
        <Button size="sm" variant="outline" h="44px" onClick={() => setEnding(true)}>
          {t("End")}
        </Button>
      </Flex>
      <Telling pack={pack} />
      <Flex gap="6px" overflowX="auto" pb="8px" role="group" aria-label={t("Who is here")}>
        {people.map((p) => (
          <Button
            key={p.id}
            h="48px"
            flexShrink={0}
            variant={p === now ? "solid" : "outline"}
            aria-current={p === now || undefined}
            onClick={() => setAt(p.id)}
          >
            {p.name.split(" ")[0]}
            <Text as="span" opacity={0.7}>
              {all.of(p.id).length}
            </Text>
          </Button>
        ))}
        <Button h="48px" flexShrink={0} variant="ghost" onClick={() => setBegun(false)}>
          {t("Who is here")}
        </Button>
      </Flex>
      {now && (
        <Turn
          key={now.id}
          who={now}
          pack={pack}
          all={all}
          indoors={indoors}
          reckoner={reckoner}
          onNext={people.length > 1 ? next : undefined}
        />
      )}
      <Modal title={t("The end of the session")} open={ending} onClose={() => setEnding(false)}>
        <End
          pack={pack}
          people={people}
          all={all}
          onDone={() => {
            setEnding(false);
            remember(here(pack.day), []);
            setBegun(false);
            setPresent([]);
          }}
        />
      </Modal>
    </Box>
  );
}

/** Telling says what joining brought to light: nothing is lost without a word. */
function Telling({ pack }: { pack: TrackPack }) {
  useWaiting();
  const { conflicts, refused } = told();
  if (conflicts.length + refused.length === 0) return null;
  const name = (id: string) => pack.people.find((p) => p.id === id)?.name ?? "";
  return (
    <Notice mb="8px" data-testid="told">
      <Box flex="1">
        {conflicts.map((c, i) => (
          <Text key={`c${i}`}>
            {t("{who}, {what}: “{stands}” stands; somebody else wrote “{other}”.", {
              who: name(c.athlete),
              what: fieldNames[c.field],
              stands: c.stands || "–",
              other: c.other || "–",
            })}
          </Text>
        ))}
        {refused.map((r, i) => (
          <Text key={`r${i}`}>
            {t("{who}, {what} “{value}” was not taken: {why}", {
              who: name(r.note.athlete),
              what: fieldNames[r.note.field],
              value: r.note.value || "–",
              why: r.why,
            })}
          </Text>
        ))}
      </Box>
      <Button size="xs" variant="outline" onClick={heard}>
        {t("Seen")}
      </Button>
    </Notice>
  );
}

/** Start is before the first try: is it safe, and who is here. */
function Start({
  pack,
  present,
  onPresent,
  indoors,
  onIndoors,
  meet,
  onMeet,
  onBegin,
}: {
  pack: TrackPack;
  present: string[];
  onPresent(list: string[]): void;
  indoors: boolean;
  onIndoors(): void;
  meet: boolean;
  onMeet(): void;
  onBegin(): void;
}) {
  const [safe, setSafe] = useState(false);
  const turn = (id: string) => onPresent(present.includes(id) ? present.filter((x) => x !== id) : [...present, id]);
  const planned = pack.people.filter((p) => p.sessions.length > 0);
  const others = pack.people.filter((p) => p.sessions.length === 0);
  return (
    <Box as="main" className="grows" maxW="560px" mx="auto" px="12px" pb="90px" data-testid="start">
      <Flex minH="58px" align="center" gap="10px">
        <Link to="/" aria-label={t("Back to the queue")}>
          <img src="/mark.svg" width={26} height={26} alt="" />
        </Link>
        <Text as="h1" fontSize="17px" fontWeight="700">
          {t("At the track, {day}", { day: weekday(pack.day) })}
        </Text>
      </Flex>
      <Box bg="panel" borderRadius="panel" p="12px 14px" mb="12px">
        <Head>{t("Before the first try")}</Head>
        {pack.safety.map((s) => (
          <Text key={s} fontSize="13.5px" mb="6px">
            {s}
          </Text>
        ))}
        <Text fontSize="12px" color="quiet" mb="8px">
          {t("Rules of federation and ground come first.")}
        </Text>
        <Button
          w="100%"
          h="48px"
          variant={safe ? "subtle" : "outline"}
          data-testid="safe"
          aria-pressed={safe}
          onClick={() => setSafe(!safe)}
        >
          {safe ? t("✓ Looked at") : t("I have looked")}
        </Button>
      </Box>
      <Flex gap="8px" mb="12px">
        <Button h="48px" flex="1" variant={indoors ? "solid" : "outline"} aria-pressed={indoors} onClick={onIndoors}>
          {t("Indoors today")}
        </Button>
        <Button
          h="48px"
          flex="1"
          variant={meet ? "solid" : "outline"}
          aria-pressed={meet}
          data-testid="meet"
          onClick={onMeet}
        >
          {t("A competition")}
        </Button>
      </Flex>
      <Head>{t("Who is here")}</Head>
      {[
        { title: t("planned today"), list: planned },
        { title: t("others"), list: others },
      ].map(
        (g) =>
          g.list.length > 0 && (
            <Box key={g.title} mb="10px">
              <Text fontSize="12px" color="quiet" mb="4px">
                {g.title}
              </Text>
              <Flex gap="6px" wrap="wrap">
                {g.list.map((p) => (
                  <Person key={p.id} p={p} on={present.includes(p.id)} onTurn={() => turn(p.id)} />
                ))}
              </Flex>
            </Box>
          ),
      )}
      <Button
        w="100%"
        h="56px"
        fontSize="17px"
        mt="8px"
        data-testid="begin"
        disabled={!safe || present.length === 0}
        onClick={onBegin}
      >
        {present.length ? t("Begin with {count}", { count: present.length }) : t("Begin")}
      </Button>
      {!safe && present.length > 0 && (
        <Text fontSize="12px" color="quiet" mt="6px">
          {t("First look whether it is safe.")}
        </Text>
      )}
    </Box>
  );
}

const Person = ({ p, on, onTurn }: { p: TrackAthlete; on: boolean; onTurn(): void }) => (
  <Button h="48px" variant={on ? "solid" : "outline"} aria-pressed={on} onClick={onTurn} data-person={p.name}>
    {p.name}
    {p.pain && (
      <Text as="span" color={on ? undefined : "clay"} fontSize="12px">
        {t("hurts")}
      </Text>
    )}
  </Button>
);
