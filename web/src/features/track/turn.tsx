import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import type { TrackAthlete, TrackCue, TrackField, TrackPack, TrackTry } from "../../api/client";
import { events, factsOf, type EventID } from "../../api/events";
import { Choice } from "../../ui/field";
import { Notice } from "../../ui/parts";
import { t } from "../../texts/texts";
import { fixed } from "../../ui/written";
import { holdFor, largest } from "../uploads/uploads";
import type { Reckoner } from "../workshop/reckon";
import type { Told } from "./api";
import { films } from "./films";
import { Look } from "./look";
import { write } from "./notes";

type Says = Partial<Record<TrackField, string>>;

/** Turn is one athlete's: the cue, the try at hand, the last one to look at, and those before. */
export function Turn({
  who,
  pack,
  all,
  indoors,
  reckoner,
  onNext,
}: {
  who: TrackAthlete;
  pack: TrackPack;
  all: Told;
  indoors: boolean;
  reckoner: Reckoner;
  onNext?: () => void;
}) {
  const [event, setEvent] = useState(who.events[0] ?? "");
  const cue = who.cues.find((c) => c.event === event);
  const [words, setWords] = useState(() => cue?.wordings[0]?.words ?? "");
  const [edited, setEdited] = useState<TrackTry | null>(null);
  const [says, setSays] = useState<Says>({});
  const [film, setFilm] = useState<File | null>(null);
  const [failed, setFailed] = useState("");
  const [agreed, setAgreed] = useState(false);
  const [busy, setBusy] = useState(false);
  const tries = all.of(who.id);
  const last = tries[tries.length - 1];
  const src = films.of(edited?.id ?? last?.id);
  const series = all.series.find((x) => x.athlete === who.id && x.event === event);
  const planned = who.sessions.find((s) => s.event === event)?.tries ?? 0;
  const set = (f: TrackField, v: string) => setSays({ ...says, [f]: v });
  const something = film || Object.values(says).some(Boolean);
  const keep = async () => {
    const n = { try: edited?.id ?? crypto.randomUUID(), athlete: who.id, event, day: pack.day };
    const was = edited?.says ?? {};
    // The film first: once the try is told of, its film is looked for.
    if (film) {
      setBusy(true);
      films.put(n.try, film);
      const held = await holdFor(n.try, film);
      setBusy(false);
      if (!held) setFailed(t("The browser has no room to keep this film: leave the page open until it is sent."));
    }
    try {
      if (!edited) write(n, "made", "", "");
      const now: Says = edited ? says : { ...says, ...(words && { words }), ...(indoors && { roof: "yes" }) };
      for (const [f, v] of Object.entries(now) as [TrackField, string][])
        if (v !== (was[f] ?? "")) write(n, f, v, was[f] ?? "");
    } catch {
      setFailed(
        t(
          "This phone has no room left. Write the mark down elsewhere, bring what is here to the team, and free some space.",
        ),
      );
      return;
    }
    setSays({});
    setFilm(null);
    setEdited(null);
    if (!edited) onNext?.();
  };
  const edit = (x: TrackTry) => {
    setEdited(x);
    setSays({ ...x.says });
    setFilm(null);
  };
  const foul = says.foul !== undefined && says.foul !== "";
  return (
    <Box data-testid="turn">
      <Box mb="8px">
        <Choice
          name="event"
          label={t("Event")}
          value={event}
          options={{ ...(event ? {} : { "": t("choose the event") }), ...offered(who.events) }}
          onChange={(e) => {
            setEvent(e);
            setWords(who.cues.find((c) => c.event === e)?.wordings[0]?.words ?? "");
          }}
        />
      </Box>
      {who.pain && (
        <Notice tone="clay" mb="8px">
          {t("Hurts: {pain}. Nothing full, nothing new; pain ends the session.", { pain: who.pain })}
        </Notice>
      )}
      {cue && <Cue key={cue.attempt_id} cue={cue} who={who.id} all={all} words={words} onWords={setWords} />}
      {series && <Standing s={series} />}
      <Flex justify="space-between" align="baseline" fontSize="12.5px" color="quiet" my="8px">
        <Text data-testid="count">
          {planned
            ? t("{count} of {planned} tries", { count: tries.length, planned })
            : tries.length === 1
              ? t("1 try")
              : t("{count} tries", { count: tries.length })}
          {cue && ` · ${t("{done} of some {needs}", { done: cue.done + tries.length, needs: cue.needs })}`}
        </Text>
        {last && <Rest since={last.at} aim={cue?.rest ?? 0} />}
      </Flex>
      <Box bg="panel" borderRadius="panel" p="12px" mb="10px">
        {edited && (
          <Flex justify="space-between" align="center" mb="8px">
            <Text fontSize="13px">
              {t("Try {n} is changed", { n: tries.findIndex((x) => x.id === edited.id) + 1 })}
            </Text>
            <Button size="sm" h="44px" variant="ghost" onClick={() => (setEdited(null), setSays({}))}>
              {t("Leave it")}
            </Button>
          </Flex>
        )}
        {!edited && (
          <Camera
            may={who.film || agreed}
            film={film}
            onFilm={setFilm}
            onAgreed={() => setAgreed(true)}
            onFailed={setFailed}
          />
        )}
        <Flex gap="8px" my="8px">
          <Input
            name="mark"
            aria-label={t("Mark")}
            h="52px"
            fontSize="22px"
            fontWeight="650"
            inputMode="decimal"
            maxLength={40}
            placeholder={t("mark")}
            value={says.mark ?? ""}
            onChange={(e) => set("mark", e.target.value)}
          />
          {factsOf(event).windy && (
            <Input
              name="wind"
              aria-label={t("Wind, m/s")}
              h="52px"
              w="92px"
              inputMode="text"
              placeholder={t("wind")}
              value={says.wind ?? ""}
              onChange={(e) => set("wind", e.target.value.replace(",", ".").replace("−", "-"))}
            />
          )}
          <Button
            h="52px"
            minW="60px"
            variant={foul ? "solid" : "outline"}
            aria-pressed={foul}
            aria-label={t("Foul")}
            onClick={() => set("foul", foul ? "" : "foul")}
          >
            ×
          </Button>
        </Flex>
        {foul && (
          <Flex gap="6px" wrap="wrap" mb="8px">
            {[...new Set([...who.foul_reasons, ...(factsOf(event).fouls ?? [])])].slice(0, 6).map((r) => (
              <Button
                key={r}
                h="44px"
                size="sm"
                variant={says.foul === r ? "solid" : "outline"}
                onClick={() => set("foul", r)}
              >
                {r}
              </Button>
            ))}
          </Flex>
        )}
        <Flex gap="6px" mb="8px">
          {(["kept", "lost"] as const).map((k) => (
            <Button
              key={k}
              h="56px"
              flex="1"
              fontSize="16px"
              variant={says.kept === k ? "solid" : "outline"}
              aria-pressed={says.kept === k}
              onClick={() => set("kept", says.kept === k ? "" : k)}
            >
              {k === "kept" ? t("Kept") : t("Lost")}
            </Button>
          ))}
        </Flex>
        <Flex gap="4px" mb="10px" role="radiogroup" aria-label={t("How it felt, 1 to 5")}>
          {["1", "2", "3", "4", "5"].map((n) => (
            <Button
              key={n}
              h="44px"
              flex="1"
              role="radio"
              aria-checked={says.felt === n}
              variant={says.felt === n ? "solid" : "outline"}
              onClick={() => set("felt", says.felt === n ? "" : n)}
            >
              {n === "1" ? t("bad 1") : n === "5" ? t("5 good") : n}
            </Button>
          ))}
        </Flex>
        <Button w="100%" h="56px" fontSize="17px" disabled={!something || !event || busy} onClick={() => void keep()}>
          {edited ? t("Keep the change") : onNext ? t("Keep, next athlete") : t("Keep, next try")}
        </Button>
        {failed && (
          <Notice tone="clay" mt="8px">
            {failed}
          </Notice>
        )}
      </Box>
      {src && <Look key={src} src={src} cue={(edited ?? last)?.says.words ?? ""} reckoner={reckoner} />}
      <Tries
        tries={tries}
        onEdit={edit}
        onGone={(x) => write({ try: x.id, athlete: x.athlete, event: x.event, day: x.day }, "made", "gone", "")}
      />
    </Box>
  );
}

/** offered are all events, those of the athlete first. */
const offered = (own: string[]) => ({
  ...Object.fromEntries(own.map((e) => [e, events[e as EventID]])),
  ...Object.fromEntries(Object.entries(events).filter(([e]) => !own.includes(e))),
});

/** Standing is how a competition stands, and how the next attempt is taken. */
function Standing({ s }: { s: Told["series"][number] }) {
  const take = {
    safe: t("a safe one"),
    usual: t("as practised"),
    all: t("all of it"),
    over: t("the end"),
  };
  return (
    <Box
      bg="panel"
      borderRadius="panel"
      p="10px 14px"
      mt="8px"
      borderLeft="4px solid"
      borderColor={s.next.take === "safe" ? "amber" : s.next.take === "all" ? "moss" : "seam"}
      data-testid="standing"
    >
      <Text fontSize="17px" fontWeight="700">
        {s.next.attempt ? t("Attempt {n}: {take}", { n: s.next.attempt, take: take[s.next.take] }) : take.over}
      </Text>
      <Text fontSize="12.5px" color="quiet">
        {s.next.says}
        {s.marks.valid > 0 && ` ${t("Best {best} {unit}.", { best: fixed(s.marks.best, 2), unit: s.marks.unit })}`}
        {s.marks.valid > 1 && ` ${t("Mean {mean}.", { mean: fixed(s.marks.mean, 2) })}`}
      </Text>
    </Box>
  );
}

/** Cue is what is thought of, in the words that work best so far; other words are a press away. */
function Cue({
  cue,
  who,
  all,
  words,
  onWords,
}: {
  cue: TrackCue;
  who: string;
  all: Told;
  words: string;
  onWords(w: string): void;
}) {
  const [open, setOpen] = useState(false);
  const [own, setOwn] = useState("");
  const s = all.streaks.find((x) => x.athlete === who && x.words === words);
  const verdict = {
    early: t("too early to say"),
    stays: t("it stays: go on"),
    change: t("say it in other words"),
    open: t("neither yet"),
  };
  return (
    <Box bg="panel" borderRadius="panel" p="12px 14px" data-testid="cue">
      <Text fontSize="21px" lineHeight="1.2" fontWeight="700" color="clay" data-testid="words">
        {words}
      </Text>
      <Flex justify="space-between" align="center" gap="8px" mt="4px">
        <Text fontSize="12.5px" color={s?.verdict === "change" ? "amber" : "quiet"} data-testid="streak">
          {s ? `${t("kept {kept} of {of} today", { kept: s.kept, of: s.of })}, ${verdict[s.verdict]}` : cue.drill}
        </Text>
        <Button size="sm" h="44px" variant="ghost" aria-expanded={open} onClick={() => setOpen(!open)}>
          {t("Other words")}
        </Button>
      </Flex>
      {open && (
        <Box mt="6px">
          {cue.wordings.map((w) => (
            <Button
              key={w.words}
              w="100%"
              h="auto"
              minH="44px"
              py="6px"
              mb="4px"
              justifyContent="space-between"
              whiteSpace="normal"
              textAlign="left"
              variant={w.words === words ? "subtle" : "outline"}
              onClick={() => {
                onWords(w.words);
                setOpen(false);
              }}
            >
              <span>{w.words}</span>
              <Text as="span" color="quiet" fontSize="12px" whiteSpace="nowrap">
                {w.of
                  ? t("{kept} of {of}", { kept: w.kept, of: w.of })
                  : w.all_of
                    ? t("team {kept} of {of}", { kept: w.all_kept, of: w.all_of })
                    : t("not tried")}
              </Text>
            </Button>
          ))}
          <Flex gap="6px">
            <Input
              name="own"
              h="44px"
              value={own}
              maxLength={300}
              placeholder={t("your own words")}
              onChange={(e) => setOwn(e.target.value)}
            />
            <Button
              h="44px"
              variant="outline"
              disabled={!own.trim()}
              onClick={() => {
                onWords(own.trim());
                setOpen(false);
              }}
            >
              {t("Say")}
            </Button>
          </Flex>
        </Box>
      )}
    </Box>
  );
}

/** Camera takes a film with the phone's own camera, at what it can. */
function Camera({
  may,
  film,
  onFilm,
  onAgreed,
  onFailed,
}: {
  may: boolean;
  film: File | null;
  onFilm(f: File | null): void;
  onAgreed(): void;
  onFailed(says: string): void;
}) {
  const input = useRef<HTMLInputElement>(null);
  if (!may)
    return (
      <Notice>
        <Box flex="1">
          {t(
            "No guardian’s consent is noted: marks can be written, films not. The consent belongs into the athlete’s details.",
          )}
        </Box>
        <Button size="sm" h="44px" variant="outline" onClick={onAgreed}>
          {t("A guardian agreed today")}
        </Button>
      </Notice>
    );
  return (
    <>
      <Button
        w="100%"
        h="56px"
        fontSize="17px"
        variant={film ? "subtle" : "outline"}
        onClick={() => input.current?.click()}
      >
        {film ? t("✓ Filmed; film again") : t("● Film")}
      </Button>
      <input
        ref={input}
        type="file"
        accept="video/*"
        capture="environment"
        hidden
        data-testid="film"
        onChange={(e) => {
          const f = e.target.files?.[0];
          e.target.value = "";
          if (!f) return;
          if (f.size === 0 || f.size > largest)
            onFailed(t("This film is empty, or larger than 2 GB. Film only the try."));
          else onFilm(f);
        }}
      />
      {!film && (
        <Text fontSize="11.5px" color="quiet" mt="4px">
          {t("Set the camera to slow motion: 120 or 240 pictures a second.")}
        </Text>
      )}
    </>
  );
}

/** Rest counts since the last try, against the rest that the drill asks for. */
function Rest({ since, aim }: { since: number; aim: number }) {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, []);
  const s = Math.max(0, Math.floor((now - since) / 1000));
  const clock = (n: number) => `${Math.floor(n / 60)}:${String(n % 60).padStart(2, "0")}`;
  return (
    <Text data-testid="rest" fontSize="15px" fontWeight="600" color={aim && s >= aim ? "moss" : "chalk"}>
      {aim ? t("rest {now} of {aim}", { now: clock(s), aim: clock(aim) }) : t("rest {now}", { now: clock(s) })}
    </Text>
  );
}

function Tries({ tries, onEdit, onGone }: { tries: TrackTry[]; onEdit(t: TrackTry): void; onGone(t: TrackTry): void }) {
  if (tries.length === 0) return null;
  return (
    <Box mt="10px" data-testid="tries">
      {[...tries].reverse().map((x, i) => (
        <Flex key={x.id} align="center" gap="6px" borderTop="1px solid" borderColor="seam">
          <Button
            flex="1"
            h="48px"
            variant="ghost"
            justifyContent="flex-start"
            gap="12px"
            data-try={tries.length - i}
            onClick={() => onEdit(x)}
          >
            <Text as="span" color="quiet" w="22px" textAlign="left">
              {tries.length - i}
            </Text>
            <Text as="span" fontWeight="650" textDecoration={x.says.foul ? "line-through" : undefined}>
              {x.says.mark || (x.says.foul ? t("x") : "–")}
            </Text>
            <Text as="span" color="quiet" fontSize="12.5px" truncate>
              {[
                x.says.foul !== "foul" && x.says.foul,
                x.says.kept === "kept" ? t("kept") : x.says.kept === "lost" ? t("lost") : "",
                x.says.felt && t("felt {n}", { n: x.says.felt }),
                films.of(x.id) && t("film"),
              ]
                .filter(Boolean)
                .join(" · ")}
            </Text>
          </Button>
          <Button
            h="44px"
            minW="44px"
            variant="ghost"
            aria-label={t("Take try {n} out", { n: tries.length - i })}
            onClick={() => onGone(x)}
          >
            ×
          </Button>
        </Flex>
      ))}
    </Box>
  );
}
