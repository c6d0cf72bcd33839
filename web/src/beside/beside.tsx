import { Box, Button, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { Link as To, useNavigate, useParams } from "react-router";
import { ask, client, type Clip, type Report, type Sheet } from "../api/client";
import { Player, speeds, usePlayer } from "../bench/player";
import { Score } from "../bench/score";
import { Stage, type Overlay } from "../bench/stage";
import { Films } from "../talk/films";
import { minus } from "../ui/numbers";
import { Key, Notice, Panel } from "../ui/parts";

// Two attempts side by side: one cursor steps both, brought to the same moment at a
// key position in true time, or phase by phase, each phase of the second stretched to
// that of the first. What differs by more than its doubt is listed, greatest first.

/** Beside opens two attempts. */
export default function Beside() {
  const { a = "", b = "" } = useParams();
  const [at, setAt] = useState("");
  const [clips, setClips] = useState<{ a?: string; b?: string }>({});
  const found = useQuery({
    queryKey: ["beside", a, b, at, clips.a, clips.b],
    queryFn: () => ask(client.GET("/beside", { params: { query: { a, b, at: at || undefined, clip_a: clips.a, clip_b: clips.b } } })),
    placeholderData: keepPreviousData,
  });
  if (found.error)
    return (
      <Box p="40px">
        <Notice tone="clay" mb="12px">
          {found.error.message}
        </Notice>
        <To to={`/attempt/${a}`}>Back to the attempt</To>
      </Box>
    );
  if (!found.data) return null;
  return <Open key={found.data.clip_a + found.data.clip_b} found={found.data} at={at} onAt={setAt} onClip={(side, id) => setClips({ ...clips, [side]: id })} />;
}

type Found = NonNullable<Awaited<ReturnType<typeof load>>>;
const load = () => ask(client.GET("/beside", { params: { query: { a: "", b: "" } } }));

const times = (c: Clip) => c.stamps.map((s) => (s / 90000) * (c.capture_rate ? c.file_rate / c.capture_rate : 1));
const nothing = () => {};

function Open({ found, at, onAt, onClip }: { found: Found; at: string; onAt(p: string): void; onClip(side: "a" | "b", id: string): void }) {
  const go = useNavigate();
  const clipA = found.a.clips.find((c) => c.id === found.clip_a)!;
  const clipB = found.b.clips.find((c) => c.id === found.clip_b)!;
  const one = useMemo(() => new Player(times(clipA)), [clipA.id]);
  const two = useMemo(() => new Player(times(clipB)), [clipB.id]);
  const [flip, setFlip] = useState(found.mirrored);
  const [ghost, setGhost] = useState(false);
  const [bones, setBones] = useState(true);
  const { frame } = usePlayer(one, (s) => s);
  // The second follows the first; where it has no frame it waits at its end.
  useEffect(() => {
    const follow = () => {
      const f = one.get().frame;
      const g = found.match[f] ?? -1;
      if (g >= 0) two.jump(g);
      else if (found.match.length) two.jump(f < found.match.findIndex((x) => x >= 0) ? 0 : two.last);
    };
    follow();
    return one.subscribe(follow);
  }, [one, two, found.match]);
  useEffect(() => () => one.pause(), [one]);
  // It opens where both are at the same key position.
  useEffect(() => {
    if (found.moments[0]) one.jump((found.moments.find((m) => m.position === at) ?? found.moments[0]).a);
  }, [one, at]);
  const hop = (by: 1 | -1) => {
    const list = found.moments.map((m) => m.a).sort((x, y) => x - y);
    const here = one.get().frame;
    const next = by > 0 ? list.find((f) => f > here) : list.findLast((f) => f < here);
    if (next !== undefined) (one.pause(), one.jump(next));
  };
  useEffect(() => {
    const down = (e: KeyboardEvent) => {
      if ((e.target as HTMLElement).closest("input, select, textarea") || e.ctrlKey || e.metaKey || e.altKey) return;
      const f = { ArrowLeft: () => one.step(e.shiftKey ? -10 : -1), ArrowRight: () => one.step(e.shiftKey ? 10 : 1), ArrowUp: () => hop(-1), ArrowDown: () => hop(1), " ": () => one.toggle(), m: () => setFlip(!flip), g: () => setGhost(!ghost), l: () => setBones(!bones), Escape: () => void go(`/attempt/${found.a.attempt.id}`) }[e.key];
      if (!f) return;
      e.preventDefault();
      if (e.key === " ") (document.activeElement as HTMLElement)?.blur();
      f();
    };
    addEventListener("keydown", down);
    return () => removeEventListener("keydown", down);
  });
  const shade = (f: number): Overlay[] => {
    const g = ghost && clipA.view === clipB.view ? found.ghost[f] : undefined;
    if (!g?.length) return [];
    const lines: [number, number][][] = [];
    for (let i = 0; i + 3 < g.length; i += 4) lines.push([[g[i], g[i + 1]], [g[i + 2], g[i + 3]]]);
    return [{ key: "ghost", style: "now", lines }];
  };
  return (
    <Flex direction="column" h="100vh" minH="640px" overflow="hidden">
      <Flex h="48px" align="center" gap="12px" px="16px" borderBottom="1px solid" borderColor="seam" flexShrink={0}>
        <To to={`/attempt/${found.a.attempt.id}`} title="Back to the attempt (Esc)" aria-label="Back to the attempt">
          <img src="/mark.svg" width={24} height={24} alt="" />
        </To>
        <Text fontSize="15px" fontWeight="700">
          Side by side
        </Text>
        <Text color="quiet" fontSize="12px">
          {found.a.model.name.toLowerCase()}
        </Text>
        <Box flex="1" />
        <Transport player={one} />
        <NativeSelect.Root size="xs" w="230px">
          <NativeSelect.Field value={at} bg="raised" borderColor="seam" aria-label="How the two are matched" onChange={(e) => (onAt(e.target.value), e.target.blur())}>
            <option value="">phase by phase, stretched</option>
            {found.moments.map((m) => (
              <option key={m.position} value={m.position}>
                true time, together at {m.name}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Button size="xs" variant={flip ? "solid" : "outline"} onClick={() => setFlip(!flip)} title="Turn the second picture round (M)">
          mirror <Key>M</Key>
        </Button>
        <Button size="xs" variant={ghost ? "solid" : "outline"} disabled={clipA.view !== clipB.view} onClick={() => setGhost(!ghost)} title="The second athlete over the first, scaled and set on the same foot (G)" data-testid="ghost">
          ghost <Key>G</Key>
        </Button>
      </Flex>
      <Flex flex="1" minH="0" gap="12px" p="12px 16px">
        <Flex direction="column" flex="1" minW="0" gap="8px">
          <Flex gap="8px" flex="1" minH="0">
            <Side sheet={found.a} clip={clipA} report={found.report_a} player={one} bones={bones} overlays={shade} onClip={(id) => onClip("a", id)} name="first" />
            <Side sheet={found.b} clip={clipB} report={found.report_b} player={two} bones={bones} flip={flip} missing={(found.match[frame] ?? -1) < 0} overlays={() => []} onClip={(id) => onClip("b", id)} name="second" />
          </Flex>
          {[{ s: found.a, r: found.report_a, p: one, c: clipA, n: "first" }, { s: found.b, r: found.report_b, p: two, c: clipB, n: "second" }].map((x) => (
            <Panel key={x.n} p="4px 12px 0" flexShrink={0} data-score={x.n}>
              <Score model={x.s.model} positions={x.r.positions} phases={x.r.phases} bars={x.r.bars} flags={x.s.work.clips[x.c.id]?.flags ?? {}} staves={[]} doubtful={[]} player={x.p} known={x.c.capture_rate > 0} chosen={null} onChoose={(id) => jumpTo(found, id, one)} onFlag={nothing} />
            </Panel>
          ))}
        </Flex>
        <Panel w="320px" flexShrink={0} p="12px 16px" overflowY="auto" data-testid="differences">
          <Text fontWeight="650" mb="2px">
            What differs
          </Text>
          <Text fontSize="12px" color="quiet" mb="8px">
            {found.differences.length ? "by more than the doubt of both, greatest first; second against first" : found.moments.length ? "Nothing that both measure differs by more than its doubt." : "Flag the same key positions in both, then this can be told."}
            {found.same > 0 && ` (${found.same} readings are the same within their doubt)`}
          </Text>
          {found.differences.map((d) => (
            <Box as="button" key={d.reading} w="100%" textAlign="left" py="5px" borderTop="1px solid" borderColor="seam" cursor="pointer" _hover={{ bg: "raised" }} onClick={() => (one.pause(), one.jump(d.frame_a))} data-difference={d.reading}>
              <Flex gap="8px" align="baseline">
                <Text flex="1" lineHeight="1.25">
                  {d.name}
                </Text>
                <Text fontWeight="650" fontSize="14px" whiteSpace="nowrap">
                  {signed(d.diff.value, d.diff.half)}
                  {d.unit === "°" ? "°" : ""}{" "}
                  <Text as="span" fontSize="11px" color="quiet" fontWeight="400">
                    {d.unit === "°" ? "" : d.unit} ±{digits(d.diff.half, d.diff.half)}
                  </Text>
                </Text>
              </Flex>
              <Text fontSize="11.5px" color="quiet">
                {d.where}: {digits(d.a.value, d.a.half)} → {digits(d.b.value, d.b.half)}
                {d.verdict_a !== d.verdict_b && d.verdict_a !== "none" && d.verdict_b !== "none" && ` (${d.verdict_a} → ${d.verdict_b})`}
              </Text>
            </Box>
          ))}
          <Box borderTop="1px solid" borderColor="seam" mt="10px" pt="10px">
            <Films
              attempt={found.a.attempt.id}
              order={{ kind: "beside", other: found.b.attempt.id, clip_a: clipA.id, clip_b: clipB.id, at: at || undefined, mirror: flip, speed: 0.25 }}
              says="Both as one film, slow, with a halt and the numbers at each shared position."
              name={`${found.a.athlete.name} beside ${found.b.athlete.name}`}
            />
          </Box>
        </Panel>
      </Flex>
    </Flex>
  );
}

const places = (half: number) => (half < 0.1 ? 2 : half < 1 ? 1 : 0);
const digits = (v: number, half: number) => minus(v.toFixed(places(half)));
const signed = (v: number, half: number) => minus((v > 0 ? "+" : "") + v.toFixed(places(half)));

function jumpTo(found: Found, position: string, player: Player) {
  const m = found.moments.find((x) => x.position === position);
  if (m) (player.pause(), player.jump(m.a));
}

/** Side is one of the two pictures. */
function Side({ sheet, clip, report, player, bones, flip, missing, overlays, onClip, name }: { sheet: Sheet; clip: Clip; report: Report; player: Player; bones: boolean; flip?: boolean; missing?: boolean; overlays(f: number): Overlay[]; onClip(id: string): void; name: string }) {
  const frame = usePlayer(player, (s) => s.frame);
  return (
    <Flex direction="column" flex="1" minW="0" data-side={name} data-frame={frame}>
      <Flex align="baseline" gap="8px" mb="3px">
        <Text fontWeight="650" truncate>
          {sheet.athlete.name}
        </Text>
        <Text fontSize="12px" color="quiet" truncate flex="1">
          {[sheet.attempt.session, sheet.attempt.mark].filter(Boolean).join(" · ")}
        </Text>
        {sheet.clips.length > 1 &&
          sheet.clips
            .filter((c) => c.state === "ready")
            .map((c, i) => (
              <Button key={c.id} size="2xs" variant="outline" bg={c.id === clip.id ? "raised" : undefined} onClick={() => onClip(c.id)}>
                {i + 1} {c.view}
              </Button>
            ))}
      </Flex>
      <Box flex="1" minH="0" position="relative" transform={flip ? "scaleX(-1)" : undefined} opacity={missing ? 0.35 : 1}>
        <Stage clip={clip} player={player} points={sheet.work.clips[clip.id]?.points ?? {}} model={sheet.model} report={report} lit={null} asked={null} hidden={false} selected={null} onSelect={nothing} onPlace={nothing} tool={null} far={null} bones={bones} overlays={overlays} />
      </Box>
      <Text fontSize="11.5px" color="quiet">
        frame {frame}
        {missing && ", the other goes on without it"}
      </Text>
    </Flex>
  );
}

function Transport({ player }: { player: Player }) {
  const { playing, speed } = usePlayer(player, (s) => s);
  return (
    <Flex gap="4px" align="center">
      <Button size="xs" variant="outline" w="64px" onClick={() => player.toggle()}>
        {playing ? "stop" : "play"}
      </Button>
      {speeds.map((v) => (
        <Button key={v} size="xs" px="6px" variant="ghost" color={v === speed ? "chalk" : "quiet"} onClick={() => player.setSpeed(v)}>
          {v === 1 ? "1" : v === 0.5 ? "½" : v === 0.25 ? "¼" : "⅛"}
        </Button>
      ))}
    </Flex>
  );
}
