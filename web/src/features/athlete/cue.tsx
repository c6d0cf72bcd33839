import { Box, Button, Flex, Link, Text } from "@chakra-ui/react";
import type { CueLog, Followup } from "../../api/client";
import { useSetFollowup, useSetOutcome } from "./api";
import { show } from "../../ui/numbers";
import { Notice } from "../../ui/parts";
import { DrillName } from "../drills/link";
import { later, today, weekday as day, written, fixed } from "../../ui/written";
import { t } from "../../texts/texts";
import { word } from "../../texts/words";

const stateWords: Record<Followup["state"], string> = {
  training: t("in training"),
  done: t("done"),
  replaced: t("replaced"),
  paused: t("paused"),
};
const outcomes = ["taken", "not_taken", "overdone"] as const;
const tone: Record<string, string> = { taken: "moss", not_taken: "quiet", overdone: "amber", away: "clay" };

const stages: Record<CueLog["circle"][number]["stage"], (n: number) => string> = {
  goal: () => t("cue given"),
  strength: (n) => t("lifted {n}×", { n }),
  drilled: (n) => (n === 1 ? t("drilled once") : t("{n} tries of drills", { n })),
  whole: (n) => (n === 1 ? t("a full attempt") : t("{n} full attempts", { n })),
  observed: (n) => (n === 1 ? t("looked at again") : t("looked at {n} times", { n })),
};

/** Circle shows what of the circle of improvement was done. */
function Circle({ circle }: { circle: CueLog["circle"] }) {
  return (
    <Box my="6px" data-testid="circle">
      <Text fontSize="11px" color="quiet" mb="3px">
        {t("What was done about it")}
      </Text>
      <Flex gap="4px" align="start">
        {circle.map((g) => (
          <Box key={g.stage} flex="1" minW="0" maxW="110px" data-stage={g.stage}>
            <Box h="4px" borderRadius="2px" bg="clay" />
            <Text fontSize="10.5px" mt="2px" lineHeight="1.25">
              {stages[g.stage](g.n)}
            </Text>
            <Text fontSize="10px" color="quiet" lineHeight="1.25">
              {day(g.on)}
            </Text>
          </Box>
        ))}
      </Flex>
    </Box>
  );
}

/** Cue is one main cue with its course. */
export function Cue({ c, paused, onOpen }: { c: CueLog; paused: string; onOpen(id: string): void }) {
  const course = useSetFollowup();
  const eye = useSetOutcome();
  const put = (t: Partial<Followup>) => course.mutate({ id: c.attempt_id, ...c.followup, ...t });
  const before = c.before && show(c.before, c.unit);
  const week = c.plan.filter((p) => later(c.followup.starts, p.day + 7) > today()).slice(0, c.followup.sessions);
  return (
    <Box
      bg="panel"
      borderRadius="panel"
      p="12px 14px"
      data-cue={c.attempt_id}
      data-open={c.open}
      opacity={c.open ? 1 : 0.72}
    >
      <Flex align="baseline" gap="8px">
        <Text flex="1" fontSize="15px" fontWeight="650">
          “{c.advice.words}”
        </Text>
        <Text fontSize="11.5px" color={c.again.due ? "amber" : "quiet"}>
          {c.again.due ? t("time to look again") : stateWords[c.followup.state]}
        </Text>
      </Flex>
      <Text fontSize="11.5px" color="quiet">
        {t("given")}{" "}
        <Link as="button" color="inherit" textDecoration="underline" onClick={() => onOpen(c.attempt_id)}>
          {day(c.done_on)}
        </Link>
        {t(", look again from {recheck} · {target}", {
          recheck: day(c.followup.recheck),
          target: c.target.toLowerCase(),
        })}
        {before && t(" then {value} {unit} {half}", { value: before.value, unit: before.unit, half: before.half })}
      </Text>
      {c.open && c.again.wanted > 0 && c.again.done > 0 && (
        <Text fontSize="11.5px" color="quiet" data-testid="repetitions-done">
          {c.again.done < c.again.wanted
            ? t("{done} of some {wanted} repetitions done", { done: c.again.done, wanted: c.again.wanted })
            : t("{done} repetitions done, some {wanted} were planned until then", {
                done: c.again.done,
                wanted: c.again.wanted,
              })}
          {c.again.waits && t(": too few for the look to tell anything; do some more first")}
        </Text>
      )}
      {c.open && <Circle circle={c.circle} />}
      {c.since.map((f) => (
        <Flex key={f.attempt_id} align="center" gap="8px" fontSize="12px" py="2px" wrap="wrap">
          <Link as="button" color="inherit" onClick={() => onOpen(f.attempt_id)} w="86px">
            {day(f.done_on)}
          </Link>
          {f.effect ? (
            <Text flex="1">
              <Text as="span" color={tone[f.effect.verdict]} fontWeight="650">
                {word(f.effect.verdict)}
              </Text>{" "}
              <Text
                as="span"
                color="quiet"
                whiteSpace="nowrap"
                title={t("chance alone makes {smallest}", {
                  smallest: fixed(f.effect.smallest, f.effect.smallest < 1 ? 2 : 0),
                })}
              >
                {written((f.effect.change > 0 ? "+" : "") + f.effect.change.toFixed(f.effect.smallest < 1 ? 2 : 0))}
                {c.unit === "°" ? "°" : ` ${c.unit}`}
              </Text>
            </Text>
          ) : (
            <Text flex="1" color="quiet">
              {t("not measured")}
            </Text>
          )}
          {outcomes.map((e) => (
            <Button
              key={e}
              size="xs"
              h="20px"
              px="7px"
              variant="outline"
              bg={f.outcome === e ? "raised" : undefined}
              color={f.outcome === e ? "chalk" : "quiet"}
              onClick={() => eye.mutate({ id: f.attempt_id, outcome: f.outcome === e ? "" : e })}
            >
              {word(e)}
            </Button>
          ))}
        </Flex>
      ))}
      {c.open && paused && (
        <Notice tone="clay" my="6px">
          {t("Paused: {paused}. Pain means stop. Go on when it is gone and a physician or physiotherapist agrees.", {
            paused,
          })}
        </Notice>
      )}
      {c.open && !paused && week.length > 0 && (
        <Box mt="6px">
          <Text fontSize="12px">
            <b>
              <DrillName name={c.advice.drill.name} />
            </b>{" "}
            <Text as="span" color="quiet">
              {t("week {week} of {weeks}", { week: week[0].week, weeks: c.followup.weeks })}
            </Text>
          </Text>
          {week.map((p) => (
            <Text key={p.day} fontSize="12px">
              {day(later(c.followup.starts, p.day))}: {p.dose}
            </Text>
          ))}
        </Box>
      )}
      {c.open && (
        <Flex gap="6px" mt="8px" align="center" wrap="wrap">
          <Button
            size="xs"
            variant="outline"
            disabled={course.isPending}
            onClick={() => put({ sessions: (c.followup.sessions % 4) + 1 })}
            title={t("Sessions a week")}
          >
            {t("{sessions} a week", { sessions: c.followup.sessions })}
          </Button>
          <Button
            size="xs"
            variant="outline"
            disabled={course.isPending}
            onClick={() =>
              put({
                weeks: (c.followup.weeks % 12) + 1,
                recheck: later(c.followup.starts, 7 * ((c.followup.weeks % 12) + 1)),
              })
            }
            title={t("Weeks until it is looked at again")}
          >
            {c.followup.weeks} {c.followup.weeks === 1 ? t("week") : t("weeks")}
          </Button>
          {!paused && (
            <Link href={`/api/attempts/${c.attempt_id}/plan.ics`} download color="quiet" fontSize="12px">
              {t("calendar")}
            </Link>
          )}
          <Box flex="1" />
          <Button
            size="xs"
            variant="ghost"
            onClick={() => put({ state: c.followup.state === "paused" ? "training" : "paused" })}
            disabled={!!paused}
          >
            {c.followup.state === "paused" ? t("Go on") : t("Pause")}
          </Button>
          <Button size="xs" variant="ghost" onClick={() => put({ state: "replaced" })}>
            {t("Replace")}
          </Button>
          <Button size="xs" variant="outline" onClick={() => put({ state: "done" })}>
            {t("Done")}
          </Button>
        </Flex>
      )}
      {(course.error ?? eye.error) && <Notice tone="clay">{(course.error ?? eye.error)!.message}</Notice>}
    </Box>
  );
}
