import { Box, Button, CloseButton, Flex, Text } from "@chakra-ui/react";
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import type { Place, Question, QuestionAnswer } from "../../api/client";
import { settings } from "../../settings/settings";
import { fixed } from "../../ui/written";
import { word } from "../../texts/words";
import { t } from "../../texts/texts";
import { Drawn } from "./drawing";

/** OnTheField is a plan in large figures, one mark after the other, for one hand at the track. */
export function OnTheField({ q, answer, onClose }: { q: Question; answer: QuestionAnswer; onClose(): void }) {
  const all = answer.places ?? [];
  const [every, setEvery] = useState(false);
  const [at, setAt] = useState(0);
  const shown = all.map((p, n) => ({ p, n })).filter(({ p }) => every || p.mark || all.length < 5);
  const here = shown[Math.min(at, shown.length - 1)];
  const ref = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    const watch = new ResizeObserver(([e]) => setWidth(e.contentRect.width));
    watch.observe(ref.current!);
    return () => watch.disconnect();
  }, []);
  const go = (by: number) => setAt((a) => Math.min(shown.length - 1, Math.max(0, Math.min(a, shown.length - 1) + by)));
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (e.key === "Escape") onClose();
      else if (e.key === "ArrowRight" || e.key === "ArrowDown") go(1);
      else if (e.key === "ArrowLeft" || e.key === "ArrowUp") go(-1);
      else return;
      e.preventDefault();
      e.stopPropagation();
    };
    addEventListener("keydown", key, true);
    return () => removeEventListener("keydown", key, true);
  });
  if (!here) return null;
  return (
    <Flex
      direction="column"
      position="fixed"
      inset="0"
      h="100dvh"
      zIndex="10"
      bg="ground"
      p="12px"
      overflowY="auto"
      role="dialog"
      aria-label={t("{name} at the track", { name: q.name })}
      data-testid="field"
    >
      <Flex align="center" mb="8px" gap="8px">
        <Text fontWeight="700" fontSize="16px" flex="1">
          {q.name}
        </Text>
        {all.some((p) => !p.mark) && all.length >= 5 && (
          <Button size="xs" variant="outline" aria-pressed={every} onClick={() => (setEvery(!every), setAt(0))}>
            {every ? t("Marks only") : t("Every foot")}
          </Button>
        )}
        <CloseButton size="sm" aria-label={t("Close")} onClick={onClose} />
      </Flex>
      <Box flex="1" minH="0" ref={ref} overflow="hidden">
        {answer.drawing && width > 0 && (
          <Drawn
            layers={[{ drawing: answer.drawing, name: "" }]}
            at={0}
            width={width}
            height={Math.max(220, innerHeight - 420)}
            lit={here.n}
            label={t("{name}, drawn to scale", { name: q.name })}
          />
        )}
      </Box>
      <Box bg="panel" borderRadius="10px" p="14px" mt="8px" aria-live="polite" data-testid="mark">
        <Text color="quiet" fontSize="13px">
          {t("mark {n} of {count}", { n: shown.indexOf(here) + 1, count: shown.length })}
        </Text>
        <Text fontSize="26px" fontWeight="750" lineHeight="1.15">
          {here.p.name[0].toUpperCase() + here.p.name.slice(1)}
          {here.p.foot && (
            <Text as="span" fontSize="16px" color="quiet" fontWeight="500">
              {" " + t("{side} foot", { side: word(here.p.foot) })}
            </Text>
          )}
        </Text>
        <Figures p={here.p} />
      </Box>
      <Flex gap="10px" mt="10px">
        <Button variant="outline" h="56px" flex="1" fontSize="17px" disabled={here === shown[0]} onClick={() => go(-1)}>
          {t("Back")}
        </Button>
        <Button h="56px" flex="2" fontSize="19px" disabled={here === shown.at(-1)} onClick={() => go(1)}>
          {t("Next mark")}
        </Button>
      </Flex>
    </Flex>
  );
}

/** taped writes a length as the tape at hand shows it. */
const taped = (v: number) => {
  if (settings().units !== "feet") return t("{metres} m", { metres: fixed(Math.abs(v), 2) });
  const halves = Math.round(Math.abs(v) / 0.0127); // half inches
  return t("{feet} ft {inches} in", { feet: Math.floor(halves / 24), inches: fixed((halves % 24) / 2, halves % 2) });
};

/** Figures are what is laid out by tape, large enough for an arm's length in the sun. */
function Figures({ p }: { p: Place }) {
  const m = taped;
  const big = (value: string, says: string) => (
    <Flex key={says} align="baseline" gap="10px">
      <Text fontSize="38px" fontWeight="700" lineHeight="1.2" whiteSpace="nowrap">
        {value}
      </Text>
      <Text fontSize="14px" color="quiet">
        {says}
      </Text>
    </Flex>
  );
  if (p.near === undefined) return big(m(p.x), t("from the edge"));
  return (
    <>
      {big(m(p.y), t("out from the bar"))}
      {big(m(p.x), p.x < 0 ? t("outside of the near upright") : t("along the bar, from the near upright"))}
      <Text fontSize="15px" mt="4px">
        {t("or two tapes: {near} from the near upright, {far} from the far one", {
          near: m(p.near),
          far: m(p.far ?? 0),
        })}
      </Text>
    </>
  );
}
