import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import type { EyeExercise, EyeJudgement, EyeSet } from "../../api/client";
import { events, type EventID } from "../../api/events";
import { Notice } from "../../ui/parts";
import { dayAndYear, fixed } from "../../ui/written";
import { t } from "../../texts/texts";
import { sheetOf, useAnswer } from "./api";
import { Player } from "./player";

/** slow is how many pictures a second are shown: fifty of the movement, so a quarter of its speed. */
const slow = 12;
/** hold is how many pictures long the last one stands before it begins again. */
const hold = 6;

/** joints in words. */
const joints: Record<string, string> = {
  knee: t("The knee in the ring"),
  hip: t("The hip in the ring, between trunk and thigh"),
  elbow: t("The elbow in the ring"),
};

/** Practice goes through a set, one exercise after the other. */
export function Practice({
  set,
  onDone,
  onLeave,
}: {
  set: EyeSet;
  onDone(list: EyeJudgement[]): void;
  onLeave(): void;
}) {
  const [at, setAt] = useState(0);
  const [list, setList] = useState<EyeJudgement[]>([]);
  const x = set.exercises[at];
  // The next one's pictures come while this one is looked at.
  useEffect(() => {
    for (const c of set.exercises[at + 1]?.clips ?? []) new Image().src = sheetOf(c.clip);
  }, [set, at]);
  return (
    <Box as="main" className="grows" minH="100%" maxW="1080px" mx="auto" px={{ base: "10px", md: "20px" }} pb="20px">
      <Flex minH="50px" align="center" gap="10px">
        <Button size="sm" variant="ghost" onClick={onLeave} title={t("Leave the set; what was answered counts (Esc)")}>
          {t("Leave")}
        </Button>
        <Flex flex="1" gap="3px" aria-hidden>
          {set.exercises.map((e, i) => (
            <Box
              key={e.id}
              flex="1"
              h="6px"
              borderRadius="3px"
              bg={i < list.length ? (list[i].correct ? "moss" : "clay") : i === at ? "chalk" : "seam"}
            />
          ))}
        </Flex>
        <Text fontSize="13px" color="quiet" data-testid="place">
          {t("{n} of {all}", { n: at + 1, all: set.exercises.length })}
        </Text>
      </Flex>
      <One
        key={x.id}
        x={x}
        onLeave={onLeave}
        onNext={(j) => {
          const all = [...list, j];
          setList(all);
          if (at + 1 < set.exercises.length) setAt(at + 1);
          else onDone(all);
        }}
      />
    </Box>
  );
}

/** One exercise: looked at, answered, and looked at again beside what is right. */
function One({ x, onNext, onLeave }: { x: EyeExercise; onNext(j: EyeJudgement): void; onLeave(): void }) {
  const still = x.kind === "angle";
  const long = Math.max(...x.clips.map((c) => c.frames));
  const [frame, setFrame] = useState(still ? x.frame : 0);
  const [plays, setPlays] = useState(!still && !matchMedia("(prefers-reduced-motion: reduce)").matches);
  const [degrees, setDegrees] = useState(120);
  const [ready, setReady] = useState(false);
  const [id] = useState(() => crypto.randomUUID());
  const [began, setBegan] = useState(0);
  const answer = useAnswer();
  const j = answer.data;
  useEffect(() => {
    if (!plays || !ready) return;
    const timer = setInterval(() => setFrame((f) => (f + 1 >= long + hold ? 0 : f + 1)), 1000 / slow);
    return () => clearInterval(timer);
  }, [plays, long, ready]);
  const shown = Math.min(frame, long - 1);
  const step = (by: number) => {
    setPlays(false);
    setFrame(Math.max(0, Math.min(long - 1, shown + by)));
  };
  const say = (said: string) => {
    if (answer.isPending || j) return;
    answer.mutate(
      { id, exercise: x.id, said, took_ms: Math.min(3_600_000, Math.max(0, Math.round(performance.now() - began))) },
      {
        onSuccess: (got) => {
          setPlays(false);
          if (got.at >= 0) setFrame(got.at);
        },
      },
    );
  };
  const submit = () => {
    if (j) onNext(j);
    else if (x.kind === "moment") say(String(shown));
    else if (x.kind === "angle") say(String(degrees));
  };
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      const on = e.target as HTMLElement;
      if (on.closest("input, textarea, select") && e.key !== "Enter") return;
      const n = Number(e.key);
      if (e.key === "ArrowLeft") step(-1);
      else if (e.key === "ArrowRight") step(1);
      else if (e.key === " " && !on.closest("button")) setPlays(!plays);
      else if (e.key === "Enter" && !on.closest("button")) submit();
      else if (x.kind === "angle" && !j && e.key === "ArrowUp") setDegrees(Math.min(180, degrees + 5));
      else if (x.kind === "angle" && !j && e.key === "ArrowDown") setDegrees(Math.max(0, degrees - 5));
      else if (n >= 1 && n <= x.choices.length && !j) say(x.choices[n - 1].id);
      else if (e.key === "Escape") onLeave();
      else return;
      e.preventDefault();
    };
    addEventListener("keydown", key);
    return () => removeEventListener("keydown", key);
  });
  const about = x.kind === "angle" ? (joints[x.about] ?? x.about) : x.about;
  return (
    <Box data-testid="exercise" data-kind={x.kind} data-answered={!!j}>
      <Text fontSize="12.5px" color="quiet">
        {events[x.event as EventID]}
      </Text>
      <Text as="h1" fontSize={{ base: "19px", md: "22px" }} fontWeight="700" lineHeight="1.2" mb="2px">
        {about}
      </Text>
      <Text color="quiet" mb="8px">
        {x.asks}
      </Text>
      <Flex
        gap="8px"
        justify="center"
        direction={{ base: "column", sm: "row" }}
        align={{ base: "stretch", sm: "start" }}
      >
        {x.clips.map((c, i) => (
          <Player
            key={c.clip}
            clip={c}
            frame={shown}
            label={x.clips.length > 1 ? (i ? t("the second") : t("the first")) : j?.twin ? t("this one") : ""}
            tone={j && x.clips.length === 1 ? (j.correct ? "moss" : "clay") : undefined}
            onReady={() => {
              setReady(true);
              if (!began) setBegan(performance.now());
            }}
          >
            {x.ring && shown === x.frame && (
              <circle cx={x.ring[0]} cy={x.ring[1]} r="13" fill="none" stroke="#ffb35c" strokeWidth="2" />
            )}
            {j && x.kind === "angle" && shown === j.at && <Lines j={j} />}
            {j && x.clips.length === 1 && shown === j.at && <Rings marks={j.marks} />}
          </Player>
        ))}
        {j?.twin && x.clips.length === 1 && (
          <Player clip={j.twin} frame={j.beside[shown] ?? 0} label={j.with ? t("with it") : t("without it")}>
            {shown === j.at && <Rings marks={j.others} />}
          </Player>
        )}
      </Flex>
      <Flex gap="6px" align="center" my="8px">
        <Button h="44px" minW="52px" variant="outline" aria-label={t("One picture back")} onClick={() => step(-1)}>
          ◂
        </Button>
        <Button h="44px" minW="84px" variant="outline" onClick={() => setPlays(!plays)} data-testid="play">
          {plays ? t("Stop") : t("Play")}
        </Button>
        <Button h="44px" minW="52px" variant="outline" aria-label={t("One picture on")} onClick={() => step(1)}>
          ▸
        </Button>
        <input
          type="range"
          min={0}
          max={long - 1}
          value={shown}
          aria-label={t("Picture")}
          style={{ flex: 1, minWidth: 0, height: 44 }}
          onChange={(e) => {
            setPlays(false);
            setFrame(Number(e.target.value));
          }}
        />
        <Text fontSize="12.5px" color="quiet" w="52px" textAlign="right" data-testid="picture">
          {shown + 1}/{long}
        </Text>
      </Flex>
      {answer.error && (
        <Notice tone="clay" mb="8px">
          {answer.error.message}
        </Notice>
      )}
      {j ? (
        <Told x={x} j={j} onNext={() => onNext(j)} />
      ) : (
        <Flex gap="8px" wrap="wrap" data-testid="answers">
          {x.choices.map((c, i) => (
            <Button
              key={c.id}
              flex="1 1 200px"
              h="auto"
              minH="56px"
              py="8px"
              fontSize="16px"
              whiteSpace="normal"
              variant="outline"
              data-choice={c.id}
              disabled={answer.isPending}
              onClick={() => say(c.id)}
            >
              {c.says}
              <Text as="span" fontSize="11px" color="quiet" display={{ base: "none", md: "inline" }}>
                {i + 1}
              </Text>
            </Button>
          ))}
          {x.kind === "moment" && (
            <Button
              w="100%"
              h="56px"
              fontSize="16px"
              onClick={submit}
              data-testid="this-one"
              loading={answer.isPending}
            >
              {t("It is picture {n}", { n: shown + 1 })}
            </Button>
          )}
          {x.kind === "angle" && (
            <>
              <Button h="56px" minW="64px" variant="outline" onClick={() => setDegrees(Math.max(0, degrees - 5))}>
                {t("−5°")}
              </Button>
              <Input
                type="number"
                inputMode="numeric"
                min={0}
                max={180}
                h="56px"
                w="110px"
                fontSize="22px"
                textAlign="center"
                aria-label={t("Degrees")}
                name="degrees"
                value={degrees}
                onChange={(e) => setDegrees(Math.max(0, Math.min(180, Number(e.target.value))))}
              />
              <Button h="56px" minW="64px" variant="outline" onClick={() => setDegrees(Math.min(180, degrees + 5))}>
                {t("+5°")}
              </Button>
              <Button
                flex="1 1 160px"
                h="56px"
                fontSize="16px"
                onClick={submit}
                data-testid="say"
                loading={answer.isPending}
              >
                {t("Say {n}°", { n: degrees })}
              </Button>
            </>
          )}
        </Flex>
      )}
    </Box>
  );
}

/** Told is what was right, and where to look next time. */
function Told({ x, j, onNext }: { x: EyeExercise; j: EyeJudgement; onNext(): void }) {
  const off =
    x.kind === "angle"
      ? t("You were {n}° off.", { n: fixed(Math.abs(j.off)) })
      : x.kind === "moment"
        ? Math.abs(j.off) === 0
          ? t("To the picture.")
          : t("You were {n} pictures off.", { n: fixed(Math.abs(j.off)) })
        : "";
  return (
    <Flex
      gap="12px"
      align={{ base: "stretch", md: "center" }}
      direction={{ base: "column", md: "row" }}
      bg="panel"
      borderRadius="panel"
      borderLeft="4px solid"
      borderColor={j.correct ? "moss" : "clay"}
      p="10px 14px"
      data-testid="told"
      data-correct={j.correct}
      role="status"
    >
      <Box flex="1">
        <Text fontWeight="700">
          {j.correct ? t("Right.") : t("Not so.")}{" "}
          <Text as="span" fontWeight="400">
            {[off, j.truth].filter(Boolean).join(" ")}
          </Text>
        </Text>
        {(x.kind !== "angle" || x.own) && (
          <Text fontSize="13px" color="quiet">
            {j.watch}
          </Text>
        )}
        {x.own && (
          <Text fontSize="12px" color="quiet" mt="2px">
            {t("{from}, {day}: measured in your own clip. It trains, and does not count for what your eye is worth.", {
              from: j.from,
              day: dayAndYear(j.done_on),
            })}
          </Text>
        )}
      </Box>
      <Button h="52px" minW="140px" autoFocus onClick={onNext} data-testid="next">
        {t("Next")}
      </Button>
    </Flex>
  );
}

const Rings = ({ marks }: { marks: EyeJudgement["marks"] }) => (
  <>
    {marks.map((m) => (
      <circle key={m.id} cx={m.x} cy={m.y} r="9" fill="none" stroke="#ffb35c" strokeWidth="2" />
    ))}
  </>
);

const Lines = ({ j }: { j: EyeJudgement }) => (
  <>
    <polyline points={j.lines.map((p) => p.join(",")).join(" ")} fill="none" stroke="#ffb35c" strokeWidth="2.5" />
    {j.lines.map((p, i) => (
      <circle key={i} cx={p[0]} cy={p[1]} r="3.5" fill="#ffb35c" />
    ))}
  </>
);
