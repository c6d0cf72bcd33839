import { Box, Button, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useEffectEvent, useMemo, useState } from "react";
import { Link as To, useNavigate, useParams, useSearchParams } from "react-router";
import { ask, client, type Comparison, type Clip, type Report, type Workspace } from "../../api/client";
import { useQueue } from "../queue/api";
import { Player, speeds, usePlayer } from "../workspace/stage/player";
import { Timeline } from "../workspace/timeline/timeline";
import { Stage } from "../workspace/stage/stage";
import type { Overlay } from "../workspace/stage/tools";
import { loadCore } from "../../core/core";
import { Films } from "../voiceover/films";
import { minus } from "../../ui/numbers";
import { Key, Notice, Panel } from "../../ui/parts";

// Two attempts side by side: one cursor steps both, brought to the same moment at a
// key position in true time, or phase by phase, each phase of the second stretched to
// that of the first. What differs by more than its doubt is listed, greatest first.

/** asked is the question to the server; "model" is the simulated reference. */
const asked = (a: string, b: string, more: { at?: string; clip_a?: string; clip_b?: string; curve?: string }) => ({
  queryKey: ["beside", a, b, more.at, more.clip_a, more.clip_b, more.curve],
  queryFn: () =>
    ask(
      client.GET("/compare", {
        params: {
          query: {
            a,
            ...(b === "model" ? { reference: true } : { b }),
            at: more.at || undefined,
            clip_a: more.clip_a,
            clip_b: more.clip_b,
            curve: more.curve || undefined,
          },
        },
      }),
    ),
  placeholderData: keepPreviousData,
});

/** The page opens two attempts. */
export default function ComparePage() {
  const { a = "", b = "" } = useParams();
  const [at, setAt] = useState("");
  const [curve, setCurve] = useState("");
  const [clips, setClips] = useState<{ a?: string; b?: string }>({});
  const found = useQuery(asked(a, b, { at, clip_a: clips.a, clip_b: clips.b, curve }));
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
  return (
    <Open
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

type Found = Comparison;

const times = (c: Clip) => c.stamps.map((s) => (s / 90000) * (c.capture_rate ? c.file_rate / c.capture_rate : 1));
const nothing = () => {};

/** useFollow makes a player stand where the first one's frame belongs; where it has no
 * frame it waits at its end. */
function useFollow(one: Player, two: Player, match: number[]) {
  useEffect(() => {
    const follow = () => {
      const f = one.get().frame;
      const g = match[f] ?? -1;
      if (g >= 0) two.jump(g);
      else if (match.length) two.jump(f < match.findIndex((x) => x >= 0) ? 0 : two.last);
    };
    follow();
    return one.subscribe(follow);
  }, [one, two, match]);
}

/** usePlayerOf gives the player of a clip; read again, the clip keeps it. */
function usePlayerOf(clip: Clip) {
  // eslint-disable-next-line react-hooks/exhaustive-deps -- its stamps and rate are those of the id
  return useMemo(() => new Player(times(clip)), [clip.id]);
}

/** most is how many can be held against the first. */
const most = 3;

function Open({
  found,
  at,
  curve,
  onAt,
  onCurve,
  onClip,
}: {
  found: Found;
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
  useEffect(() => {
    const down = (e: KeyboardEvent) => {
      if ((e.target as HTMLElement).closest("input, select, textarea") || e.ctrlKey || e.metaKey || e.altKey) return;
      const f = {
        ArrowLeft: () => one.step(e.shiftKey ? -10 : -1),
        ArrowRight: () => one.step(e.shiftKey ? 10 : 1),
        ArrowUp: () => hop(-1),
        ArrowDown: () => hop(1),
        " ": () => one.toggle(),
        m: () => setFlip(!flip),
        g: () => setGhost(!ghost),
        l: () => setBones(!bones),
        Escape: () => void go(`/attempt/${found.a.attempt.id}`),
      }[e.key];
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
    for (let i = 0; i + 3 < g.length; i += 4)
      lines.push([
        [g[i], g[i + 1]],
        [g[i + 2], g[i + 3]],
      ]);
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
          <NativeSelect.Field
            value={at}
            bg="raised"
            borderColor="seam"
            aria-label="How the two are matched"
            onChange={(e) => (onAt(e.target.value), e.target.blur())}
          >
            <option value="">phase by phase, stretched</option>
            {found.moments.map((m) => (
              <option key={m.position} value={m.position}>
                true time, together at {m.name}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Another found={found} more={more} onAdd={(id) => setMore([...more, id])} />
        <Button
          size="xs"
          variant={flip ? "solid" : "outline"}
          onClick={() => setFlip(!flip)}
          title="Turn the second picture round (M)"
        >
          mirror <Key>M</Key>
        </Button>
        <Button
          size="xs"
          variant={ghost ? "solid" : "outline"}
          disabled={clipA.view !== clipB.view}
          onClick={() => setGhost(!ghost)}
          title="The second athlete over the first, scaled and set on the same foot (G)"
          data-testid="ghost"
        >
          ghost <Key>G</Key>
        </Button>
      </Flex>
      <Flex flex="1" minH="0" gap="12px" p="12px 16px">
        <Flex direction="column" flex="1" minW="0" gap="8px">
          <Box display="grid" gridTemplateColumns="1fr 1fr" gridAutoRows="minmax(0, 1fr)" gap="8px" flex="1" minH="0">
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
              <Further
                key={id}
                a={found.a.attempt.id}
                clipA={clipA.id}
                b={id}
                at={at}
                one={one}
                bones={bones}
                name={["third", "fourth"][i]}
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
        <Panel w="320px" flexShrink={0} p="12px 16px" overflowY="auto" data-testid="differences">
          <Text fontWeight="650" mb="2px">
            What differs
          </Text>
          <Text fontSize="12px" color="quiet" mb="8px">
            {found.differences.length
              ? "by more than the doubt of both, greatest first; second against first"
              : found.moments.length
                ? "Nothing that both measure differs by more than its doubt."
                : "Flag the same key positions in both, then this can be told."}
            {found.same > 0 && ` (${found.same} readings are the same within their doubt)`}
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
                says="Both as one film, slow, with a halt and the numbers at each shared position."
                name={`${found.a.athlete.name} beside ${found.b.athlete.name}`}
              />
            </Box>
          )}
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
  if (!m) return;
  player.pause();
  player.jump(m.a);
}

/** Another adds one more of the same event. */
function Another({ found, more, onAdd }: { found: Found; more: string[]; onAdd(id: string): void }) {
  const queue = useQueue();
  const there = [found.a.attempt.id, found.b.attempt.id, ...more];
  const list = (queue.data ?? []).filter(
    (q) => q.event === found.a.attempt.event && q.clips > 0 && !there.includes(q.id),
  );
  if (more.length + 1 >= most) return null;
  return (
    <NativeSelect.Root size="xs" w="118px">
      <NativeSelect.Field
        value=""
        bg="raised"
        borderColor="seam"
        aria-label="One more beside them"
        onChange={(e) => (e.target.value && onAdd(e.target.value), e.target.blur())}
      >
        <option value="">one more …</option>
        {!found.reference && !more.includes("model") && <option value="model">the simulated reference</option>}
        {list.map((q) => (
          <option key={q.id} value={q.id}>
            {[q.athlete, q.mark, q.done_on].filter(Boolean).join(" · ")}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
}

/** Further is a third or fourth picture, held against the first like the second. */
function Further({
  a,
  clipA,
  b,
  at,
  one,
  bones,
  name,
  onRemove,
}: {
  a: string;
  clipA: string;
  b: string;
  at: string;
  one: Player;
  bones: boolean;
  name: string;
  onRemove(): void;
}) {
  const [clipB, setClipB] = useState<string>();
  const found = useQuery(asked(a, b, { at, clip_a: clipA, clip_b: clipB }));
  if (!found.data)
    return (
      <Notice tone={found.error ? "clay" : "amber"} alignSelf="start">
        <Text flex="1">{found.error?.message ?? "Opening …"}</Text>
        <Button size="xs" variant="outline" h="22px" onClick={onRemove}>
          leave it
        </Button>
      </Notice>
    );
  return <FurtherOpen found={found.data} one={one} bones={bones} name={name} onClip={setClipB} onRemove={onRemove} />;
}

function FurtherOpen({
  found,
  one,
  bones,
  name,
  onClip,
  onRemove,
}: {
  found: Found;
  one: Player;
  bones: boolean;
  name: string;
  onClip(id: string): void;
  onRemove(): void;
}) {
  const clip = found.b.clips.find((c) => c.id === found.clip_b)!;
  const player = usePlayerOf(clip);
  const { frame } = usePlayer(one, (s) => s);
  useFollow(one, player, found.match);
  return (
    <Side
      sheet={found.b}
      clip={clip}
      report={found.report_b}
      player={player}
      bones={bones}
      flip={found.mirrored}
      missing={(found.match[frame] ?? -1) < 0}
      overlays={() => []}
      onClip={onClip}
      onRemove={onRemove}
      name={name}
    />
  );
}

/** Phases draws one curve of both over the phases that they share, each from 0 to 100 %:
 * the first as a line, the second dashed, with their doubt. */
function Phases({
  found,
  curve,
  onCurve,
  player,
}: {
  found: Found;
  curve: string;
  onCurve(id: string): void;
  player: Player;
}) {
  const frame = usePlayer(player, (s) => s.frame);
  const [kinds, setKinds] = useState<{ id: string; name: string; group: string }[]>([]);
  useEffect(
    () => void loadCore().then((c) => setKinds(c.catalogue({}).curves.filter((k) => k.group !== "single points"))),
    [],
  );
  const c = found.curve;
  const w = 840;
  const h = 96;
  const known = (v: number) => v > -1e8;
  const all = (c?.phases ?? []).flatMap((p) => [...p.a, ...p.b]).filter(known);
  const [lo, hi] = all.length ? [Math.min(...all), Math.max(...all)] : [0, 1];
  const y = (v: number) => h - 6 - ((v - lo) / Math.max(1e-9, hi - lo)) * (h - 12);
  const wide = w / Math.max(1, c?.phases.length ?? 1);
  const x = (i: number, k: number) => i * wide + (k / 20) * wide;
  const path = (i: number, v: number[]) =>
    v.reduce(
      (d, q, k) => (known(q) ? `${d}${d && known(v[k - 1]) ? "L" : "M"}${x(i, k).toFixed(1)} ${y(q).toFixed(1)}` : d),
      "",
    );
  const band = (i: number, v: number[], half: number[]) => {
    const ok = v.map((q, k) => [q, k] as const).filter(([q]) => known(q));
    return ok.length < 2
      ? ""
      : `M${ok.map(([q, k]) => `${x(i, k).toFixed(1)} ${y(q + half[k]).toFixed(1)}`).join("L")}L${[...ok]
          .reverse()
          .map(([q, k]) => `${x(i, k).toFixed(1)} ${y(q - half[k]).toFixed(1)}`)
          .join("L")}Z`;
  };
  const here = c?.phases.findIndex((p) => frame >= p.from && frame <= p.to) ?? -1;
  const at =
    here >= 0
      ? x(here, (20 * (frame - c!.phases[here].from)) / Math.max(1, c!.phases[here].to - c!.phases[here].from))
      : null;
  return (
    <Panel p="6px 12px" flexShrink={0} data-testid="phases">
      <Flex align="center" gap="10px">
        <NativeSelect.Root size="xs" w="190px">
          <NativeSelect.Field
            value={curve}
            bg="raised"
            borderColor="seam"
            aria-label="Curve over the phases"
            onChange={(e) => (onCurve(e.target.value), e.target.blur())}
          >
            <option value="">no curve</option>
            {kinds.map((k) => (
              <option key={k.id} value={k.id}>
                {k.name}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        {curve && c && (
          <Text fontSize="12px" color="quiet">
            {c.reason
              ? `Nothing to draw: ${c.reason}.`
              : `each phase from 0 to 100 %; ${c.name}, ${lo.toFixed(0)} to ${hi.toFixed(0)} ${c.unit}; line: first, dashes: second`}
          </Text>
        )}
      </Flex>
      {curve && c && !c.reason && (
        <svg
          data-testid="phase-chart"
          viewBox={`0 -14 ${w} ${h + 16}`}
          preserveAspectRatio="none"
          style={{ display: "block", width: "100%", height: 112, cursor: "pointer" }}
          onClick={(e) => {
            const r = e.currentTarget.getBoundingClientRect();
            const place = ((e.clientX - r.left) / r.width) * c.phases.length;
            const p = c.phases[Math.min(c.phases.length - 1, Math.floor(place))];
            player.pause();
            player.jump(p.from + (place - Math.floor(place)) * (p.to - p.from));
          }}
        >
          {c.phases.map((p, i) => (
            <g key={i} data-phase={p.name}>
              {i > 0 && (
                <path d={`M${x(i, 0)} -14V${h}`} stroke="var(--chakra-colors-seam)" vectorEffect="non-scaling-stroke" />
              )}
              <path d={band(i, p.a, p.half95_a)} fill="var(--chakra-colors-clay)" opacity={0.18} />
              <path d={band(i, p.b, p.half95_b)} fill="var(--chakra-colors-sky)" opacity={0.16} />
              <path
                d={path(i, p.a)}
                fill="none"
                stroke="var(--chakra-colors-clay)"
                strokeWidth={2}
                vectorEffect="non-scaling-stroke"
                data-curve="first"
              />
              <path
                d={path(i, p.b)}
                fill="none"
                stroke="var(--chakra-colors-sky)"
                strokeWidth={2}
                strokeDasharray="6 4"
                vectorEffect="non-scaling-stroke"
                data-curve="second"
              />
            </g>
          ))}
          {at !== null && (
            <path d={`M${at} -14V${h}`} stroke="var(--chakra-colors-chalk)" vectorEffect="non-scaling-stroke" />
          )}
        </svg>
      )}
      {curve && c && !c.reason && (
        <Flex>
          {c.phases.map((p, i) => (
            <Text key={i} flex="1" fontSize="11px" color="quiet" truncate px="3px">
              {p.name}
              {p.ratio > 0 && ` ×${p.ratio.toFixed(2)}`}
            </Text>
          ))}
        </Flex>
      )}
    </Panel>
  );
}

/** Side is one of the pictures. */
function Side({
  sheet,
  clip,
  report,
  player,
  bones,
  flip,
  missing,
  overlays,
  onClip,
  onRemove,
  name,
}: {
  sheet: Workspace;
  clip: Clip;
  report: Report;
  player: Player;
  bones: boolean;
  flip?: boolean;
  missing?: boolean;
  overlays(f: number): Overlay[];
  onClip(id: string): void;
  onRemove?(): void;
  name: string;
}) {
  const frame = usePlayer(player, (s) => s.frame);
  return (
    <Flex direction="column" minW="0" minH="0" data-side={name} data-frame={frame}>
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
              <Button
                key={c.id}
                size="2xs"
                variant="outline"
                bg={c.id === clip.id ? "raised" : undefined}
                onClick={() => onClip(c.id)}
              >
                {i + 1} {c.view}
              </Button>
            ))}
        {onRemove && (
          <Button size="2xs" variant="ghost" aria-label={`take the ${name} away`} onClick={onRemove}>
            ×
          </Button>
        )}
      </Flex>
      <Box
        flex="1"
        minH="0"
        position="relative"
        transform={flip ? "scaleX(-1)" : undefined}
        opacity={missing ? 0.35 : 1}
      >
        <Stage
          clip={clip}
          player={player}
          points={sheet.work.clips[clip.id]?.points ?? {}}
          model={sheet.model}
          report={report}
          lit={null}
          asked={null}
          hidden={false}
          selected={null}
          onSelect={nothing}
          onPlace={nothing}
          tool={null}
          far={null}
          bones={bones}
          overlays={overlays}
        />
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
        <Button
          key={v}
          size="xs"
          px="6px"
          variant="ghost"
          color={v === speed ? "chalk" : "quiet"}
          onClick={() => player.setSpeed(v)}
        >
          {v === 1 ? "1" : v === 0.5 ? "½" : v === 0.25 ? "¼" : "⅛"}
        </Button>
      ))}
    </Flex>
  );
}
