import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useEffect, useEffectEvent, useState } from "react";
import type { Point } from "../../../api/client";
import { follow, refine } from "../../../api/stream";
import { useBeginDraft, useCancelDraft, useServerDraft } from "../../drafting/api";
import { factsOf } from "../../../api/events";
import { draft, type Progress } from "../../drafting/draft";
import { useAbortable } from "../../../ui/abortable";
import { Head, Key, Label, Notice } from "../../../ui/parts";
import { usePlayer } from "../stage/player";
import { useRefresh } from "../../../api/topic";
import { useOpenClip } from "../context";
import { at, change, drafted } from "../work/tracks";
import { useClickAthlete } from "../hooks/useClickAthlete";
import { limbOf, swap } from "../sides";
import { t } from "../../../texts/texts";

/** Stage of a draft: the pose model runs; what it found is put right; the picture itself
 * takes the trembling out. */
type Stage =
  | { is: "idle" }
  | { is: "drafting"; progress: Progress }
  | { is: "settling"; clip: string; progress: Progress; trouble?: string }
  | { is: "refining"; share: number };

/** What can be followed beside the athlete; some of it in some events alone. */
const things: [string, string, string[]?][] = [
  ["ball", t("ball or disc"), ["circle"]],
  ["grip", t("grip"), ["circle", "arc"]],
  ["tip", t("tip"), ["arc", "box"]],
  ["tail", t("tail"), ["arc"]],
  ["pole_low", t("pole, a third up"), ["box"]],
  ["pole_high", t("pole, two thirds up"), ["box"]],
  ["spot_a", t("spot a")],
  ["spot_b", t("spot b")],
];
const label = (id: string) => id.replaceAll("_", " ");
const minutes = (s: number) =>
  s < 90 ? t("{n} s", { n: Math.max(1, Math.round(s)) }) : t("{s} min", { s: Math.round(s / 60) });

const followed = (event: string) => {
  const { circle, runway } = factsOf(event);
  return things.filter(([, , where]) => !where || where.includes(circle ? "circle" : runway || "-"));
};

/** TrackPanel: draft every joint, look at what is doubtful, correct, follow things. */
export function TrackPanel() {
  const {
    clip,
    clipWork: work,
    core,
    input,
    player,
    edit,
    more,
    kept,
    tool,
    suspect,
    evaluation,
    report,
    dispatch,
  } = useOpenClip();
  const { suspects } = evaluation;
  const refresh = useRefresh();
  const loop = usePlayer(player, (s) => s.loop);
  const [step, setStep] = useState(1);
  const [stage, setStage] = useState<Stage>({ is: "idle" });
  const [says, setSays] = useState<{ tone: "amber" | "clay" | "moss"; text: string } | null>(null);
  const drafting = useAbortable(clip.id);

  const [from, to] = loop ?? [0, clip.stamps.length - 1];
  const have = drafted(work.points, clip.stamps.length);
  const open = have.slice(from, to + 1).filter((h, i) => !h && i % step === 0).length;
  const whole = !loop;

  const server = useServerDraft(clip.id);
  const beginDraft = useBeginDraft();
  const cancelDraft = useCancelDraft();
  const byServer = server.data?.away === "";
  const begin = async (anew: boolean) => {
    setSays(null);
    const wish = { from, to, step, anew };
    if (byServer) {
      try {
        await kept(); // the box is read there
        await beginDraft.mutateAsync({ clip: clip.id, wish });
      } catch (e) {
        setSays({ tone: "clay", text: (e as Error).message });
      }
      return;
    }
    const signal = drafting.begin();
    let last: Progress = { done: 0, of: 0, left: null, lost: [], others: [] };
    const stop = draft({
      clip,
      points: work.points,
      box: work.box,
      wish,
      save: (e, first) => (first ? edit(...e) : more(...e)),
      progress: (q) => setStage({ is: "drafting", progress: (last = q) }),
      end: (trouble) => setStage({ is: "settling", clip: clip.id, progress: last, trouble }),
    });
    signal.addEventListener("abort", stop);
  };
  // Sides, jumps and gaps are put right once the last batch is where the core looks: that
  // is after the render that shows it.
  const settle = useEffectEvent(() => {
    if (stage.is !== "settling") return;
    if (stage.clip !== clip.id) return setStage({ is: "idle" }); // left meanwhile
    const { progress: q, trouble } = stage;
    const s = core.repair({ input });
    more(...Object.entries(s.changes).map(([key, value]) => ({ kind: "track" as const, clip: clip.id, key, value })));
    setSays(trouble ? { tone: "clay", text: trouble } : outcome(q.done, s.swapped, q.lost, q.others));
    // What went wrong is not to be talked over by what comes next.
    if (q.done && !trouble) void steady();
    else setStage({ is: "idle" });
  });
  useEffect(() => settle(), [stage]);
  // The draft trembles; the picture itself says how each joint moved.
  const steady = async () => {
    const signal = drafting.begin();
    const share = (done: number) => setStage({ is: "refining", share: done });
    share(0);
    try {
      await kept();
      const end = await refine(clip.id, share, signal);
      more(
        ...Object.entries(end.tracks ?? {}).map(([key, value]) => ({
          kind: "track" as const,
          clip: clip.id,
          key,
          value,
        })),
      );
    } catch (e) {
      if (!signal.aborted) setSays({ tone: "clay", text: (e as Error).message });
    }
    setStage({ is: "idle" });
    refresh("workspace");
  };
  const box = () =>
    tool({
      kind: "box",
      says: t("Draw a box about the athlete, whole body, nobody else"),
      done: (x, y, width, height) => {
        tool(null);
        if (width < 16 || height < 16)
          return setSays({ tone: "clay", text: t("That box is too small. Draw it about the whole athlete.") });
        edit({ kind: "box", clip: clip.id, key: "subject", value: { frame: player.get().frame, x, y, width, height } });
      },
    });

  const clickAthlete = useClickAthlete((text) => setSays({ tone: "amber", text }));
  const d = server.data;
  const told =
    says ??
    (d?.state === "failed"
      ? ({ tone: "clay", text: d.says } as const)
      : d?.state === "done" && stage.is === "idle"
        ? outcome(d.found, d.swapped, d.nobody, d.other)
        : d?.away && stage.is === "idle" && open > 0
          ? ({
              tone: "amber",
              text: t("This server does not draft, so this browser does. Keep the page open."),
            } as const)
          : null);

  return (
    <Box data-testid="tracking" data-stage={server.running ? "server" : stage.is}>
      <Head
        tone="chalk"
        right={
          <Text fontSize="11.5px" color="quiet">
            {whole ? t("whole clip") : t("frames {from}–{to}", { from, to })}
          </Text>
        }
      >
        {t("Draft all joints")}
      </Head>
      {server.running ? (
        <Box mb="10px" data-testid="draft-progress">
          <Bar share={d!.progress} />
          <Flex align="center" gap="8px">
            <Text flex="1" fontSize="12px" color="quiet">
              {d!.state === "waiting"
                ? t("waits for its turn; you can go on, or close the page")
                : t("the server drafts, {progress} %; you can go on, or close the page", {
                    progress: Math.round(100 * d!.progress),
                  })}
            </Text>
            <Button size="xs" variant="outline" onClick={() => cancelDraft.mutate(clip.id)}>
              {t("Stop")}
            </Button>
          </Flex>
        </Box>
      ) : stage.is === "refining" ? (
        <Flex align="center" gap="8px" mb="10px" data-testid="draft-progress">
          <Text flex="1" fontSize="12px" color="quiet">
            {t("looking at joints, background and feet in the picture … {share} %", {
              share: Math.round(stage.share * 100),
            })}
          </Text>
          <Button size="xs" variant="outline" onClick={drafting.stop}>
            {t("Stop")}
          </Button>
        </Flex>
      ) : stage.is !== "idle" ? (
        <Box mb="10px" data-testid="draft-progress">
          <Bar share={stage.progress.done / Math.max(1, stage.progress.of)} />
          <Flex align="center" gap="8px">
            <Text flex="1" fontSize="12px" color="quiet">
              {t("{done} of {of} frames{which}", {
                done: stage.progress.done,
                of: stage.progress.of,
                which:
                  stage.progress.left === null
                    ? t(", loading the model …")
                    : t(", about {left} to go", { left: minutes(stage.progress.left) }),
              })}
              {stage.progress.lost.length > 0 && t(", nobody in {count}", { count: stage.progress.lost.length })}
            </Text>
            <Button size="xs" variant="outline" onClick={drafting.stop}>
              {t("Stop")}
            </Button>
          </Flex>
        </Box>
      ) : (
        <>
          <Flex gap="6px" mb="6px" wrap="wrap" align="center">
            <Button
              size="xs"
              variant="outline"
              onClick={clickAthlete}
              title={t("Somebody else was drafted: click who is meant, and it is drafted anew")}
              data-testid="click-athlete"
            >
              {t("Click the athlete")}
            </Button>
            <Button size="xs" variant="ghost" onClick={box} title={t("Who is meant, when others are very near")}>
              {work.box ? t("Box in frame {frame}", { frame: work.box.frame }) : t("Draw a box around the athlete")}
            </Button>
            <Flex gap="2px" align="center">
              {[1, 2, 4].map((s) => (
                <Button
                  key={s}
                  size="xs"
                  variant="ghost"
                  px="7px"
                  color={step === s ? "chalk" : "quiet"}
                  fontWeight={step === s ? "650" : "400"}
                  onClick={() => setStep(s)}
                  title={
                    s === 1
                      ? t("Every frame")
                      : t("Every {which} frame, gaps are closed by the path", {
                          which: s === 2 ? t("second") : t("fourth"),
                        })
                  }
                >
                  {s === 1 ? t("Every frame") : t("1 in {s}", { s })}
                </Button>
              ))}
            </Flex>
          </Flex>
          <Flex gap="6px" mb="8px">
            <Button size="xs" disabled={open === 0} onClick={() => void begin(false)} data-testid="draft">
              {open === 0
                ? t("All drafted")
                : have.some(Boolean)
                  ? t("Draft the other {open}", { open })
                  : t("Draft {open} frames", { open })}
            </Button>
            {have.slice(from, to + 1).some(Boolean) && (
              <Button size="xs" variant="ghost" onClick={() => void begin(true)}>
                {t("Draft again")}
              </Button>
            )}
          </Flex>
        </>
      )}
      {told && (
        <Notice tone={told.tone} mb="10px" data-testid="draft-says">
          {told.text}
        </Notice>
      )}

      <Flex align="center" gap="8px" mb="12px">
        <Text flex="1" fontSize="12.5px">
          {suspects.length === 0 ? (
            <Text as="span" color="quiet">
              {t("Nothing looks doubtful.")}
            </Text>
          ) : (
            <>
              {report?.questions.length === 1
                ? t("Check asks for the one that matters. ")
                : report?.questions.length
                  ? t("Check asks for the {count} that matter. ", { count: report.questions.length })
                  : t("None of them changes a verdict. ")}
              <Text as="span" color="quiet">
                {t("{count} points of the draft are less sure.", { count: suspects.length })}
              </Text>
            </>
          )}
        </Text>
        {!!report?.questions.length && (
          <Button size="xs" variant="outline" onClick={() => dispatch({ type: "panel", panel: "check" })}>
            {t("Check")}
          </Button>
        )}
        <Button
          size="xs"
          variant="ghost"
          disabled={!suspects.length}
          onClick={() => suspect(1)}
          title={t("Next doubtful point (V)")}
          data-testid="next-doubt"
        >
          {t("Next")} <Key>V</Key>
        </Button>
      </Flex>

      <Correct from={from} to={to} whole={whole} />
      <Follow />
    </Box>
  );
}

const Bar = ({ share }: { share: number }) => (
  <Box h="6px" bg="seam" borderRadius="full" overflow="hidden" mb="5px">
    <Box h="100%" bg="clay" style={{ width: `${100 * share}%` }} />
  </Box>
);

/** outcome tells what became of a draft and what is left to do. */
function outcome(done: number, swapped: number, lost: number[], others: number[]) {
  const some = (list: number[]) => list.slice(0, 3).join(", ") + (list.length > 3 ? " …" : "");
  const parts = [t("{done} frames drafted", { done })];
  if (swapped) parts.push(t("left and right put right in {swapped}", { swapped }));
  if (lost.length)
    parts.push(
      t("nobody found in {count} ({lost}): draw the box closer there, or is the athlete out of the picture?", {
        count: lost.length,
        lost: some(lost),
      }),
    );
  if (others.length)
    parts.push(
      t("somebody else was seen in {count} ({others}): box the athlete there and draft those frames again", {
        count: others.length,
        others: some(others),
      }),
    );
  return { tone: lost.length || others.length ? "amber" : "moss", text: parts.join("; ") + "." } as const;
}

/** Correct: what can be done to the selected landmark over a range. */
function Correct({ from, to, whole }: { from: number; to: number; whole: boolean }) {
  const { clip, clipWork: work, core, player, edit, dispatch, state } = useOpenClip();
  const { landmark: selected, radius } = state;
  const frame = usePlayer(player, (s) => s.frame);
  const [says, setSays] = useState("");
  const change = (kind: "fill" | "clear", landmarks: string[], over: boolean) => {
    const a = core.correct({ kind, landmarks, from, to });
    const e = Object.entries(a.changes).map(([key, value]) => ({
      kind: "track" as const,
      clip: clip.id,
      key,
      value,
      override: over,
    }));
    setSays(a.missing ?? (e.length ? "" : t("There is no gap in this range.")));
    if (e.length) edit(...e);
  };
  const chain = limbOf(selected);
  const here = selected ? at(work.points[selected], frame) : undefined;
  const range = whole ? t("the whole clip") : t("frames {from}–{to}", { from, to });
  return (
    <Box mb="14px">
      <Head>{t("Correct")}</Head>
      <Flex align="center" gap="8px" mb="6px">
        <Text fontSize="12px" color="quiet" whiteSpace="nowrap">
          {t("moving a point also adjusts")}
        </Text>
        <input
          type="range"
          min={0}
          max={30}
          value={radius}
          aria-label={t("neighbours taken along, frames")}
          style={{ flex: 1 }}
          onChange={(e) => dispatch({ type: "radius", frames: Number(e.target.value) })}
        />
        <Text fontSize="12px" w="62px" textAlign="right">
          {t("{radius} frames", { radius })}
        </Text>
      </Flex>
      {selected ? (
        <>
          <Text fontSize="12.5px" mb="4px">
            <b>{label(selected)}</b>{" "}
            <Text as="span" color="quiet" fontSize="11.5px">
              {here
                ? `${here.source === "hand" ? t("set by hand") : here.source}${here.source === "hand" ? "" : t(", {confidence} % sure", { confidence: Math.round(here.confidence * 100) })}`
                : t("not in this frame")}
            </Text>
          </Text>
          <Flex gap="5px" wrap="wrap">
            <Button
              size="xs"
              variant="outline"
              onClick={() => change("fill", [selected], false)}
              title={t("Close gaps of this joint in {range}", { range })}
            >
              {t("Fill gaps")}
            </Button>
            {/^(left|right)_/.test(selected) && (
              <Button
                size="xs"
                variant="outline"
                onClick={() => edit(...swap(core, clip.id, chain, from, to))}
                title={t("Exchange left and right {chain} in {range}", { chain: chain.join(", "), range })}
              >
                {t("Swap sides")} <Key>⇧S</Key>
              </Button>
            )}
            <Button
              size="xs"
              variant="outline"
              onClick={() => change("clear", [selected], true)}
              title={t("Delete this joint in {range}", { range })}
            >
              {t("Delete")}
            </Button>
            <Text fontSize="11.5px" color="quiet" alignSelf="center">
              {t("in {range}", { range })}
            </Text>
          </Flex>
        </>
      ) : (
        <Text fontSize="12px" color="quiet">
          {t("Click a joint, then drag it. Drag along the ruler to work on a range.")}{" "}
          {Object.keys(work.points).length > 0 && (
            <Button
              size="xs"
              variant="ghost"
              h="20px"
              px="6px"
              onClick={() => dispatch({ type: "select", landmark: Object.keys(work.points).sort()[0] })}
            >
              {t("First joint")}
            </Button>
          )}
        </Text>
      )}
      {says && (
        <Text fontSize="11.5px" color="amber" mt="4px">
          {says}
        </Text>
      )}
    </Box>
  );
}

/** Follow: click a thing, the tracker goes with it until it is unsure. */
function Follow() {
  const { clip, clipWork: work, player, edit, more, tool, dispatch, state, model } = useOpenClip();
  const selected = state.landmark;
  const things = followed(model.id);
  const [thing, setThing] = useState(things[0][0]);
  const [streak, setStreak] = useState(false);
  const [radius, setRadius] = useState(8);
  const [back, setBack] = useState(false);
  const [running, setRunning] = useState<number | null>(null); // frame that is followed to
  const [says, setSays] = useState<{ tone: "amber" | "clay" | "moss"; text: string } | null>(null);
  const following = useAbortable(clip.id);
  const target = things.some(([id]) => id === thing) ? thing : (selected ?? things[0][0]);

  const go = async (id: string, frame: number, x: number, y: number) => {
    const to = back ? 0 : clip.stamps.length - 1;
    if (to === frame)
      return setSays({
        tone: "amber",
        text: back ? t("This is the first frame already.") : t("This is the last frame already."),
      });
    const signal = following.begin();
    setSays(null);
    setRunning(frame);
    let kept: [number, Point][] = [];
    let last = frame;
    const flush = () => {
      if (kept.length) more({ kind: "track", clip: clip.id, key: id, value: change(kept) });
      kept = [];
    };
    try {
      const end = await follow(
        clip.id,
        { frame, to, x, y, radius, streak },
        (f) => {
          last = f.frame;
          const inside = f.x >= 0 && f.y >= 0 && f.x <= clip.width && f.y <= clip.height;
          if (inside)
            kept.push([
              f.frame,
              { x: f.x, y: f.y, source: "tracked", confidence: Math.max(0.01, f.confidence), hidden: false },
            ]);
          if (kept.length >= 30) flush();
          setRunning(f.frame);
        },
        signal,
      );
      if (end.lost) {
        setSays({ tone: "amber", text: t("Stopped at {lost}. Click it there again to go on.", { lost: end.lost }) });
        player.jump(last + (back ? -1 : 1));
        arm(id);
      } else setSays({ tone: "moss", text: t("Followed to frame {last}.", { last }) });
    } catch (e) {
      if (!signal.aborted) setSays({ tone: "clay", text: (e as Error).message });
    }
    flush();
    setRunning(null);
  };
  const arm = (id: string) =>
    tool({
      kind: "spot",
      says: t("Click the {id}", { id: label(id) }),
      done: (x, y) => {
        const frame = player.get().frame;
        tool(null);
        dispatch({ type: "select", landmark: id });
        edit({
          kind: "point",
          clip: clip.id,
          key: id,
          frame,
          value: { x, y, source: "hand", confidence: 1, hidden: false },
        });
        void go(id, frame, x, y);
      },
    });
  const fromHere = () => {
    const frame = player.get().frame;
    const q = at(work.points[target], frame);
    if (q) void go(target, frame, q.x, q.y);
    else arm(target);
  };
  return (
    <Box>
      <Head>{t("Follow a point")}</Head>
      <Flex gap="4px" wrap="wrap" mb="6px">
        {things.map(([id, name]) => (
          <Button
            key={id}
            size="xs"
            px="8px"
            variant="outline"
            bg={thing === id ? "raised" : undefined}
            borderColor={thing === id ? "chalk" : "seam"}
            onClick={() => setThing(id)}
          >
            {name}
          </Button>
        ))}
        {selected && !things.some(([id]) => id === selected) && (
          <Button
            size="xs"
            px="8px"
            variant="outline"
            bg={thing === "selected" ? "raised" : undefined}
            borderColor={thing === "selected" ? "chalk" : "seam"}
            onClick={() => setThing("selected")}
          >
            {label(selected)}
          </Button>
        )}
      </Flex>
      <Flex align="center" gap="8px" mb="6px">
        <Label>{t("size")}</Label>
        <input
          type="range"
          min={3}
          max={24}
          value={radius}
          aria-label={t("radius of the thing, px")}
          style={{ flex: 1 }}
          onChange={(e) => setRadius(Number(e.target.value))}
        />
        <Text fontSize="12px" w="40px">
          {t("{radius} px", { radius })}
        </Text>
        <Button
          size="xs"
          variant={streak ? "solid" : "outline"}
          onClick={() => setStreak(!streak)}
          title={t("For a ball that flies so fast that it smears")}
        >
          {t("Motion blur")}
        </Button>
        <Button size="xs" variant="outline" onClick={() => setBack(!back)} title={t("In which direction of time")}>
          {back ? t("← Back") : t("Forward →")}
        </Button>
      </Flex>
      {running !== null ? (
        <Flex align="center" gap="8px" data-testid="following">
          <Text flex="1" fontSize="12px" color="quiet">
            {t("following, frame {running}", { running })}
          </Text>
          <Button size="xs" variant="outline" onClick={following.stop}>
            {t("Stop")}
          </Button>
        </Flex>
      ) : (
        <Flex gap="6px">
          <Button size="xs" onClick={() => arm(target)} data-testid="follow">
            {t("Click and follow")}
          </Button>
          {selected && (
            <Button size="xs" variant="outline" onClick={fromHere}>
              {t("Go on from here")}
            </Button>
          )}
        </Flex>
      )}
      {says && (
        <Notice tone={says.tone} mt="8px" data-testid="follow-says">
          {says.text}
        </Notice>
      )}
    </Box>
  );
}
