import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Link as RouterLink, useNavigate } from "react-router";
import type { EyeJudgement, EyeKind, EyeSet } from "../../api/client";
import { events, type EventID } from "../../api/events";
import { Opening } from "../../ui/opening";
import { Head, Notice } from "../../ui/parts";
import { useTitle } from "../../ui/title";
import { fixed } from "../../ui/written";
import { t } from "../../texts/texts";
import { useBegin, useEye } from "./api";
import { Practice } from "./practice";
import { Agree } from "./sharing";
import { Worth } from "./worth";

/** What somebody chose last, in this browser. */
const remembered = "neo.eye.events";
const without = "neo.eye.without";

/** Eye trains the eye on athletes whose truth is known, and tells what it is worth; five at a time, of what was
 * sent to them, for athletes. */
export default function Eye({ five }: { five?: boolean }) {
  const eye = useEye();
  const begin = useBegin();
  const go = useNavigate();
  const [set, setSet] = useState<EyeSet | null>(null);
  const [waits, setWaits] = useState<EyeSet | null>(null);
  const [done, setDone] = useState<EyeJudgement[] | null>(null);
  const [chosen, setChosen] = useState<string[]>(
    () => JSON.parse(localStorage.getItem(remembered) ?? "[]") as string[],
  );
  const [own, setOwn] = useState(() => !localStorage.getItem(without));
  useTitle(t("Train the eye"));
  const start = (kinds: EyeKind[] = []) => {
    setDone(null);
    setWaits(null);
    begin.mutate(
      { events: chosen, kinds, n: 10, own },
      { onSuccess: (got) => (got.exercises.length ? setSet(got) : setWaits(got)) },
    );
  };
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (set || (e.target as HTMLElement).closest("input, textarea, select, button, a")) return;
      if (e.key === "Enter") start();
      else if (e.key === "Escape") void go("/");
      else return;
      e.preventDefault();
    };
    addEventListener("keydown", key);
    return () => removeEventListener("keydown", key);
  });
  if (!eye.data) return <Opening what={t("eye training")} error={eye.error} />;
  if (set)
    return (
      <Practice
        set={set}
        onLeave={() => setSet(null)}
        onDone={(list) => {
          setSet(null);
          setDone(list);
        }}
      />
    );
  const turn = (e: string) => {
    const next = chosen.includes(e) ? chosen.filter((x) => x !== e) : [...chosen, e];
    setChosen(next);
    localStorage.setItem(remembered, JSON.stringify(next));
  };
  return (
    <Box as="main" className="grows" minH="100%" maxW="1080px" mx="auto" px={{ base: "12px", md: "20px" }} pb="40px">
      <Flex minH="58px" align="center" gap="10px">
        <RouterLink to="/" title={t("Back to the queue (Esc)")} aria-label={t("Back to the queue")}>
          <img src="/mark.svg" width={26} height={26} alt="" />
        </RouterLink>
        <Text as="h1" fontSize="17px" fontWeight="700">
          {t("Train the eye")}
        </Text>
      </Flex>
      <Grid templateColumns={{ base: "minmax(0, 1fr)", lg: "400px minmax(0, 1fr)" }} gap="12px" alignItems="start">
        <Box bg="panel" borderRadius="panel" p="16px" data-testid="eye-start">
          {done && <Score list={done} />}
          <Text fontSize="15px" mb="12px">
            {five
              ? t(
                  "Five short clips of your event: is it there, which picture, how many degrees. What your cue is about is among them.",
                )
              : t(
                  "Ten short clips of athletes whose truth is known: is the fault there, which picture, how many degrees, what comes first. About four minutes.",
                )}
          </Text>
          <Flex hidden={five} wrap="wrap" gap="6px" mb="14px" role="group" aria-label={t("Events")}>
            {Object.entries(events).map(([id, name]) => (
              <Button
                key={id}
                size="sm"
                variant={chosen.includes(id) ? "solid" : "outline"}
                aria-pressed={chosen.includes(id)}
                onClick={() => turn(id)}
              >
                {name}
              </Button>
            ))}
          </Flex>
          {!five && (
            <label style={{ display: "flex", gap: 8, alignItems: "center", minHeight: 44, fontSize: 13.5 }}>
              <input
                type="checkbox"
                checked={own}
                onChange={(e) => {
                  setOwn(e.target.checked);
                  if (e.target.checked) localStorage.removeItem(without);
                  else localStorage.setItem(without, "1");
                }}
              />
              {t("One or two of our own clips that were worked out among them, after the first twenty answers")}
            </label>
          )}
          {waits && (
            <Notice mb="10px">
              {t("The clips for this are being drawn: {scenes} of {of} scenes are there. Try again in a minute.", {
                scenes: waits.scenes,
                of: waits.of,
              })}
            </Notice>
          )}
          {begin.error && (
            <Notice tone="amber" mb="10px">
              {begin.error.message}
            </Notice>
          )}
          <Button
            w="100%"
            h="52px"
            fontSize="16px"
            loading={begin.isPending}
            onClick={() => start()}
            data-testid="begin-set"
          >
            {five ? t("Begin") : t("Begin a set of ten")}
          </Button>
          <Text fontSize="12px" color="quiet" mt="8px">
            {five
              ? ""
              : chosen.length
                ? t("From {events}.", { events: chosen.map((e) => events[e as EventID]).join(", ") })
                : t("From all ten events.")}
            {eye.data.due > 0 && ` ${t("{due} things are due again.", { due: eye.data.due })}`}
          </Text>
          {five && <Agree />}
        </Box>
        <Worth eye={eye.data} />
      </Grid>
    </Box>
  );
}

/** Score is what came of a set. */
function Score({ list }: { list: EyeJudgement[] }) {
  const right = list.filter((j) => j.correct).length;
  return (
    <Box mb="14px" data-testid="score">
      <Head>{t("This set")}</Head>
      <Text fontSize="28px" fontWeight="700" lineHeight="1.1">
        {t("{right} of {all}", { right, all: list.length })}
      </Text>
      <Flex gap="4px" mt="6px">
        {list.map((j, i) => (
          <Box key={i} h="8px" flex="1" borderRadius="2px" bg={j.correct ? "moss" : "clay"} title={fixed(i + 1)} />
        ))}
      </Flex>
    </Box>
  );
}
