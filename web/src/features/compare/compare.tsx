import { Box, Button, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useEffectEvent, useState } from "react";
import { Link as RouterLink, useNavigate, useParams, useSearchParams } from "react-router";
import { type Comparison } from "../../api/client";
import { Player, usePlayer } from "../workspace/stage/player";
import { Timeline } from "../workspace/timeline/timeline";
import type { Overlay } from "../workspace/stage/tools";
import { Films } from "../voiceover/films";
import { Key, Panel } from "../../ui/parts";
import { AddPicture, MorePicture } from "./more";
import { digits, Phases, signed } from "./phases";
import { useFollow, usePlayerOf } from "./players";
import { asked } from "./question";
import { nothing, Side, Transport } from "./side";
import { useTitle } from "../../ui/title";
import { Opening } from "../../ui/opening";
import { usePageKeys } from "../../ui/page_keys";
import { t } from "../../texts/texts";

/** The page opens two attempts. */
export default function ComparePage() {
  const { a = "", b = "" } = useParams();
  const [at, setAt] = useState("");
  const [curve, setCurve] = useState("");
  const [clips, setClips] = useState<{ a?: string; b?: string }>({});
  const found = useQuery(asked(a, b, { at, clip_a: clips.a, clip_b: clips.b, curve }));
  useTitle(
    found.data && t("{name} beside {name2}", { name: found.data.a.athlete.name, name2: found.data.b.athlete.name }),
  );
  if (!found.data) return <Opening what={t("the comparison")} error={found.error} />;
  return (
    <ComparisonView
      key={found.data.clip_a + found.data.clip_b}
      found={found.data}
      at={at}
      curve={curve}
      onAt={setAt}
      onCurve={setCurve}
      onClip={(side, id) => setClips({ ...clips, [side]: id })}
    />
  );
}

function ComparisonView({
  found,
  at,
  curve,
  onAt,
  onCurve,
  onClip,
}: {
  found: Comparison;
  at: string;
  curve: string;
  onAt(p: string): void;
  onCurve(id: string): void;
  onClip(side: "a" | "b", id: string): void;
}) {
  const go = useNavigate();
  const clipA = found.a.clips.find((c) => c.id === found.clip_a)!;
  const clipB = found.b.clips.find((c) => c.id === found.clip_b)!;
  const one = usePlayerOf(clipA);
  const two = usePlayerOf(clipB);
  const [flip, setFlip] = useState(found.mirrored);
  const [ghost, setGhost] = useState(false);
  const [bones, setBones] = useState(true);
  const { frame } = usePlayer(one, (s) => s);
  useFollow(one, two, found.match);
  const [search, setSearch] = useSearchParams();
  const more = (search.get("with") ?? "").split(",").filter(Boolean);
  const setMore = (list: string[]) => setSearch(list.length ? { with: list.join(",") } : {}, { replace: true });
  useEffect(() => () => one.pause(), [one]);
  // It opens where both are at the same key position.
  const begin = useEffectEvent(() => {
    if (found.moments[0]) one.jump((found.moments.find((m) => m.position === at) ?? found.moments[0]).a);
  });
  useEffect(() => begin(), [one, at]);
  const hop = (by: 1 | -1) => {
    const list = found.moments.map((m) => m.a).sort((x, y) => x - y);
    const here = one.get().frame;
    const next = by > 0 ? list.find((f) => f > here) : list.findLast((f) => f < here);
    if (next === undefined) return;
    one.pause();
    one.jump(next);
  };
  usePageKeys({
    ArrowLeft: (e) => one.step(e.shiftKey ? -10 : -1),
    ArrowRight: (e) => one.step(e.shiftKey ? 10 : 1),
    ArrowUp: () => hop(-1),
    ArrowDown: () => hop(1),
    " ": () => {
      (document.activeElement as HTMLElement)?.blur();
      one.toggle();
    },
    m: () => setFlip(!flip),
    g: () => setGhost(!ghost),
    l: () => setBones(!bones),
    Escape: () => void go(`/attempt/${found.a.attempt.id}`),
  });
  const shade = (f: number): Overlay[] => {
    const g = ghost && clipA.view === clipB.view ? found.ghost[f] : undefined;
    if (!g?.length) return [];
    const lines: [number, number][][] = [];
    for (let i = 0; i + 3 < g.length; i += 4)
      lines.push([
        [g[i], g[i + 1]],
        [g[i + 2], g[i + 3]],
      ]);
    return [{ key: "ghost", style: "now", lines }];
  };
  return (
    <Flex
      as="main"
      direction="column"
      h={{ base: "auto", md: "100vh" }}
      minH="640px"
      overflow={{ base: "visible", md: "hidden" }}
    >
      <Flex
        minH="48px"
        py="4px"
        wrap="wrap"
        align="center"
        gap={{ base: "6px", md: "12px" }}
        px={{ base: "8px", md: "16px" }}
        borderBottom="1px solid"
        borderColor="seam"
        flexShrink={0}
      >
        <RouterLink
          to={`/attempt/${found.a.attempt.id}`}
          title={t("Back to the attempt (Esc)")}
          aria-label={t("Back to the attempt")}
        >
          <img src="/mark.svg" width={24} height={24} alt="" />
        </RouterLink>
        <Text as="h1" fontSize="15px" fontWeight="700">
          {t("Side by side")}
        </Text>
        <Text color="quiet" fontSize="12px">
          {found.a.model.name.toLowerCase()}
        </Text>
        <Box flex="1" />
        <Transport player={one} />
        <NativeSelect.Root size="xs" w="230px">
          <NativeSelect.Field
            value={at}
            bg="raised"
            borderColor="seam"
            aria-label={t("How the two are matched")}
            onChange={(e) => (onAt(e.target.value), e.target.blur())}
          >
            <option value="">{t("aligned by phase, time stretched")}</option>
            {found.moments.map((m) => (
              <option key={m.position} value={m.position}>
                {t("true time, together at {name}", { name: m.name })}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <AddPicture found={found} more={more} onAdd={(id) => setMore([...more, id])} />
        <Button
          size="xs"
          variant={flip ? "solid" : "outline"}
          onClick={() => setFlip(!flip)}
          title={t("Turn the second picture round (M)")}
        >
          {t("Mirror")} <Key>M</Key>
        </Button>
        <Button
          size="xs"
          variant={ghost ? "solid" : "outline"}
          disabled={clipA.view !== clipB.view}
          onClick={() => setGhost(!ghost)}
          title={t("The second athlete over the first, scaled and set on the same foot (G)")}
          data-testid="ghost"
        >
          {t("Ghost")} <Key>G</Key>
        </Button>
      </Flex>
      <Flex flex="1" minH="0" gap="12px" p={{ base: "8px", md: "12px 16px" }} direction={{ base: "column", md: "row" }}>
        <Flex direction="column" flex="1" minW="0" gap="8px">
          <Box
            display="grid"
            gridTemplateColumns={{ base: "1fr", md: "1fr 1fr" }}
            gridAutoRows={{ base: "66vw", md: "minmax(0, 1fr)" }}
            gap="8px"
            flex="1"
            minH="0"
          >
            <Side
              sheet={found.a}
              clip={clipA}
              report={found.report_a}
              player={one}
              bones={bones}
              overlays={shade}
              onClip={(id) => onClip("a", id)}
              name="first"
            />
            <Side
              sheet={found.b}
              clip={clipB}
              report={found.report_b}
              player={two}
              bones={bones}
              flip={flip}
              missing={(found.match[frame] ?? -1) < 0}
              overlays={() => []}
              onClip={(id) => onClip("b", id)}
              name="second"
            />
            {more.map((id, i) => (
              <MorePicture
                key={id}
                a={found.a.attempt.id}
                clipA={clipA.id}
                b={id}
                at={at}
                one={one}
                bones={bones}
                name={[t("third"), t("fourth")][i]}
                onRemove={() => setMore(more.filter((x) => x !== id))}
              />
            ))}
          </Box>
          <Phases found={found} curve={curve} onCurve={onCurve} player={one} />
          {!more.length &&
            [
              { s: found.a, r: found.report_a, p: one, c: clipA, n: "first" },
              { s: found.b, r: found.report_b, p: two, c: clipB, n: "second" },
            ]
              .slice(0, more.length ? 1 : 2)
              .map((x) => (
                <Panel key={x.n} p="4px 12px 0" flexShrink={0} data-score={x.n}>
                  <Timeline
                    model={x.s.model}
                    positions={x.r.positions}
                    phases={x.r.phases}
                    contacts={x.r.contacts}
                    glimpses={x.r.glimpses}
                    flags={x.s.work.clips[x.c.id]?.flags ?? {}}
                    curves={[]}
                    doubtful={[]}
                    player={x.p}
                    known={x.c.capture_rate > 0}
                    chosen={null}
                    onChoose={(id) => jumpTo(found, id, one)}
                    onFlag={nothing}
                  />
                </Panel>
              ))}
        </Flex>
        <Panel
          w={{ base: "auto", md: "320px" }}
          flexShrink={0}
          p="12px 16px"
          overflowY="auto"
          data-testid="differences"
        >
          <Text fontWeight="650" mb="2px">
            {t("What differs")}
          </Text>
          <Text fontSize="12px" color="quiet" mb="8px">
            {found.differences.length
              ? t("differences larger than the doubt of both, the largest first; second minus first")
              : found.moments.length
                ? t("Nothing that both measure differs by more than its doubt.")
                : t("Flag the same key positions in both, then this can be told.")}
            {found.same > 0 && t(" ({same} readings are the same within their doubt)", { same: found.same })}
          </Text>
          {found.differences.map((d) => (
            <Box
              as="button"
              key={d.reading}
              w="100%"
              textAlign="left"
              py="5px"
              borderTop="1px solid"
              borderColor="seam"
              cursor="pointer"
              _hover={{ bg: "raised" }}
              onClick={() => (one.pause(), one.jump(d.frame_a))}
              data-difference={d.reading}
            >
              <Flex gap="8px" align="baseline">
                <Text flex="1" lineHeight="1.25">
                  {d.name}
                </Text>
                <Text fontWeight="650" fontSize="14px" whiteSpace="nowrap">
                  {signed(d.diff.value, d.diff.half95)}
                  {d.unit === "°" ? "°" : ""}{" "}
                  <Text as="span" fontSize="11px" color="quiet" fontWeight="400">
                    {d.unit === "°" ? "" : d.unit} ±{digits(d.diff.half95, d.diff.half95)}
                  </Text>
                </Text>
              </Flex>
              <Text fontSize="11.5px" color="quiet">
                {d.where}: {digits(d.a.value, d.a.half95)} → {digits(d.b.value, d.b.half95)}
                {d.verdict_a !== d.verdict_b &&
                  d.verdict_a !== "none" &&
                  d.verdict_b !== "none" &&
                  ` (${d.verdict_a} → ${d.verdict_b})`}
              </Text>
            </Box>
          ))}
          {!found.reference && (
            <Box borderTop="1px solid" borderColor="seam" mt="10px" pt="10px">
              <Films
                attempt={found.a.attempt.id}
                order={{
                  kind: "beside",
                  other: found.b.attempt.id,
                  clip_a: clipA.id,
                  clip_b: clipB.id,
                  at: at || undefined,
                  mirror: flip,
                  speed: 0.25,
                }}
                says={t("Both as one film, slow, with a halt and the numbers at each shared position.")}
                name={t("{name} beside {name2}", { name: found.a.athlete.name, name2: found.b.athlete.name })}
              />
            </Box>
          )}
        </Panel>
      </Flex>
    </Flex>
  );
}

function jumpTo(found: Comparison, position: string, player: Player) {
  const m = found.moments.find((x) => x.position === position);
  if (!m) return;
  player.pause();
  player.jump(m.a);
}
