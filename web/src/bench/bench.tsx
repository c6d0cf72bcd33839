import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { replaceEqualDeep, useQueryClient } from "@tanstack/react-query";
import {
  memo,
  useCallback,
  useEffect,
  useEffectEvent,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type ReactNode,
} from "react";
import { Link as To, useNavigate, useParams, useSearchParams } from "react-router";
import type { Calls, Edit, Model, Reading, Report, Sheet as Data } from "../api/client";
import { useChapters, useLibrary, useQueue, useRejudge, useSheet } from "../api/queries";
import { factsOf } from "../api/events";
import { desk, loadCore, type Core, type Input } from "../core/core";
import { DropArea, Sheet } from "../queue/forms";
import { HandTime } from "../queue/handtime";
import { after } from "../queue/order";
import { send } from "../queue/uploads";
import { TalkBar } from "../talk/bar";
import { Recorder } from "../talk/recorder";
import { minus } from "../ui/numbers";
import { Boundary } from "../ui/boundary";
import { Key, Notice, Panel } from "../ui/parts";
import { recall, remember } from "../ui/recall";
import { FromAbove } from "./above";
import { Before } from "./before";
import { ClipSheet } from "./clipsheet";
import { Findings } from "./findings";
import { Numbers } from "./numbers";
import { Player, speeds, usePlayer } from "./player";
import { save as saveFile, toPNG, toSVG } from "./export";
import { Ground } from "./ground";
import { Score, type Handle, type Staff } from "./score";
import { overlays as marks, Shows } from "./shows";
import { drawnNow, Stage, type Ask, type Overlay, type Place, type Tool } from "./stage";
import { Steps } from "./steps";
import { Tracking } from "./tracking";
import { seen } from "./seen";
import { at as pointOf } from "./tracks";
import { WhatIf } from "./whatif";
import { apply } from "./edits";
import { useWork } from "./work";

/** unreadable tells of decisions that are stored and that nobody can read. */
const unreadable = (list: string[]) =>
  list.length ? `Stored, but not to be read any more: ${list.join(", ")}. Make it anew.` : undefined;

/** Bench opens one attempt. */
export default function Bench() {
  const { id = "" } = useParams();
  const sheet = useSheet(id);
  if (sheet.error && !sheet.data)
    return (
      <Box p="40px">
        <Notice tone="clay" mb="12px">
          {sheet.error.message}
        </Notice>
        <To to="/">Back to the queue</To>
      </Box>
    );
  if (!sheet.data) return null;
  return <Open key={id} sheet={sheet.data} />;
}

const tabs = {
  numbers: "Numbers",
  findings: "Findings",
  whatif: "What if",
  above: "Above",
  tracking: "Track",
  shows: "Show",
  ground: "Ground",
  clip: "Clip",
} as const;
const tabKeys = "QWEITJGC";
const mostStaves = 3;
type Tab = keyof typeof tabs;
const guide = ["full", "slow", "frames", "slow again"] as const;
const speedNames = ["full", "half", "quarter", "eighth"];

function Open({ sheet }: { sheet: Data }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const { work, edit: save, more, kept, saving, dismiss, undo, redo } = useWork(sheet);
  const { model, athlete } = sheet;
  const round = !!factsOf(model.id).circle; // thrown out of a circle
  const hasBlocks = !!factsOf(model.id).blocks; // the one what-if so far is theirs
  const [clipID, setClipID] = useState<string | null>(null);
  const clip =
    sheet.clips.find((c) => c.id === clipID) ?? sheet.clips.find((c) => c.state === "ready") ?? sheet.clips[0];
  const [core, setCore] = useState<Core | null>(null);
  const [coreTrouble, setCoreTrouble] = useState("");
  const [tab, setTab] = useState<Tab>("numbers");
  const [picked, setChosen] = useState("");
  const chosen = (model.positions.find((p) => p.id === picked) ?? model.positions[0]).id; // another model has others
  const [tool, setTool] = useState<Tool | null>(null);
  const [radius, setRadius] = useState(6);
  const [bones, setBones] = useState(true);
  const [staves, setStaves] = useState(() => recall<string[]>("neo.staves", []).filter((x) => typeof x === "string"));
  const score = useRef<Handle>(null);
  const [lit, setLit] = useState<string | null>(null);
  const [opened, setOpened] = useState(""); // the fault under the hand
  // What he refused for this athlete before stays quiet until he asks.
  const [quiet, setQuiet] = useState(true);
  const [draft, setDraft] = useState<Edit[]>([]); // while the hand still moves
  const [placing, setPlacing] = useState(false);
  const [skipped, setSkipped] = useState<Set<string>>(new Set());
  const [hidden, setHidden] = useState(false);
  const [selected, setSelected] = useState<string | null>(null);
  const [metres, setMetres] = useState<number | null>(null); // a scale line of this length is being laid
  const [help, setHelp] = useState(false);
  const [adding, setAdding] = useState(false);

  useEffect(() => void loadCore().then(setCore, (e: Error) => setCoreTrouble(e.message)), []);

  const edit = useCallback(
    (...e: Edit[]) => {
      setDraft([]);
      save(...e);
    },
    [save],
  );
  const now = useMemo(() => draft.reduce(apply, work), [draft, work]);
  const cw = clip ? now.clips[clip.id] : undefined;
  const points = useMemo(() => cw?.points ?? {}, [cw?.points]);
  const shows = useMemo(() => cw?.shows ?? {}, [cw?.shows]);
  const own = useMemo(() => cw?.flags ?? {}, [cw?.flags]); // the coach's flags; -1 is not there

  const slow = clip?.capture_rate ? clip.file_rate / clip.capture_rate : 1;
  const cursor = useRef(0); // survives a new answer to the capture rate
  const player = useMemo(() => {
    const p = new Player((clip?.stamps ?? []).map((s) => (s / 90000) * slow));
    p.jump(cursor.current);
    p.subscribe(() => (cursor.current = p.get().frame));
    return p;
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a clip that is read again has the same stamps
  }, [clip?.id, clip?.stamps.length, slow]);
  // A handle for benchmarks and tests; the application itself never uses it.
  useEffect(() => {
    Object.assign(window, {
      neokinema: { player, core, score, pose: () => import("../pose/movenet"), person: () => import("../pose/person") },
    });
  }, [player, core]);
  useEffect(() => () => player.pause(), [player]);
  // Tracks lie on the core's desk; the rest of what it computes from is small.
  const lay = useMemo(() => core && desk(core), [core]);
  useMemo(() => core?.model({ model }), [core, model]);
  const extra = useMemo(
    () =>
      [sheet.before?.advice.checkpoint ?? now.advice.main?.checkpoint ?? now.advice.second?.checkpoint].flatMap(
        (c) => c ?? [],
      ),
    [sheet.before, now.advice],
  );
  const moving = draft.length > 0; // under the hand
  const input = useMemo<Input | null>(() => {
    if (!clip) return null;
    const { width, height, stamps, file_rate, capture_rate, view, direction, camera, stands } = clip;
    lay?.(clip.id, points);
    return {
      model: model.id,
      variant: sheet.attempt.variant,
      athlete: {
        sex: athlete.sex,
        height: athlete.height,
        mass: athlete.mass,
        front_leg: athlete.front_leg,
        throwing_hand: athlete.throwing_hand,
        takeoff_leg: athlete.takeoff_leg,
      },
      clip: { width, height, stamps, file_rate, capture_rate, view, direction },
      flags: own,
      marks: now.marks,
      scale: cw?.scale,
      ground: cw?.ground,
      camera,
      stands,
      implement: sheet.attempt.implement,
      mark: sheet.attempt.mark,
      hold: moving,
      extra,
    };
  }, [
    lay,
    moving,
    sheet.attempt.implement,
    sheet.attempt.mark,
    clip,
    own,
    points,
    now.marks,
    cw?.scale,
    cw?.ground,
    extra,
    athlete,
    model.id,
    sheet.attempt.variant,
  ]);
  // Parts of the answer that did not change keep their identity, so that a drag
  // draws anew only what it moves.
  const last = useRef<Calls["evaluate_answer"]>(undefined);
  const [answer, broken] = useMemo((): [Calls["evaluate_answer"] | undefined, string] => {
    if (!core || !input || clip?.state !== "ready") return [undefined, ""];
    try {
      const a = core.evaluate({ input, target: sheet.before?.advice.target, before: sheet.before?.value });
      return [(last.current = replaceEqualDeep(last.current, a)), ""];
    } catch (e) {
      return [
        last.current,
        `The numbers cannot be computed anew: ${(e as Error).message}. What you place and flag is saved all the same; take the last change back, or reload.`,
      ];
    }
  }, [core, input, clip?.state, sheet.before]);
  const report = answer?.report;
  // Flags in effect: the coach's, and where he set none those that the tool found.
  const flags = useMemo(() => {
    const all = Object.fromEntries(
      (report?.positions ?? []).flatMap((p) => (p.frame === undefined ? [] : [[p.id, p.frame]])),
    );
    for (const [id, f] of Object.entries(own)) if (f >= 0) all[id] = f;
    return all;
  }, [report?.positions, own]);
  // The cursor on a flag brings that position's numbers up.
  useEffect(
    () =>
      player.subscribe(() => {
        const { frame, playing } = player.get();
        const here = playing ? undefined : model.positions.find((p) => flags[p.id] === frame);
        if (here) setChosen(here.id);
      }),
    [player, flags, model],
  );

  const catalogue = useMemo(() => core?.catalogue({}), [core]);
  const curves = useMemo<Staff[]>(() => {
    const list = staves.filter((id) => catalogue?.curves.some((c) => c.id === id));
    if (!core || !input || !list.length || clip?.state !== "ready") return noCurves;
    return core.curves({ input, ids: list }).curves.map((curve) => {
      const kind = catalogue!.curves.find((c) => c.id === curve.id)!;
      return { curve, name: kind.name, unit: kind.unit, band: bandOf(model, curve.id) };
    });
  }, [core, input, staves, catalogue, clip?.state, model]);
  const doubts = useMemo(
    () => (core && input && clip?.state === "ready" && !moving ? core.doubts({ input }).doubts : noDoubts),
    [core, input, clip?.state, moving],
  );
  const doubtful = useMemo(() => [...new Set(doubts.map((d) => d.frame))], [doubts]);

  // What the tool asks for next: the first landmark of the first flagged
  // position that is neither placed nor skipped.
  const asks = useMemo<Ask[]>(() => {
    if (!report) return [];
    // Where the tool found the position its joints are drafted; the guide asks for
    // what the coach flagged.
    return report.positions.flatMap((p) =>
      p.frame === undefined || p.by !== "coach"
        ? []
        : p.needs.map((n, i) => ({
            landmark: n.landmark,
            label: n.label,
            position: p.id,
            frame: p.frame!,
            nth: i + 1,
            of: p.needs.length,
          })),
    );
  }, [report]);
  const asked = useMemo(() => {
    if (!placing) return null;
    return asks.find((a) => !pointOf(points[a.landmark], a.frame) && !skipped.has(a.position + a.landmark)) ?? null;
  }, [placing, asks, points, skipped]);
  const toAsked = useEffectEvent(() => {
    if (asked) {
      player.pause();
      player.jump(asked.frame);
      setChosen(asked.position);
    } else if (placing && report) setPlacing(false);
  });
  useEffect(() => toAsked(), [asked?.frame, asked?.landmark, placing]);

  const place = useCallback(
    (p: Place, final: boolean) => {
      let e: Edit = { kind: "point", clip: clip!.id, key: p.landmark, frame: p.frame, value: p.point };
      const was = work.clips[clip!.id]?.points[p.landmark];
      // In a drafted track the neighbours come along.
      if (
        core &&
        radius > 0 &&
        was &&
        pointOf(was, p.frame) &&
        (pointOf(was, p.frame - 1) || pointOf(was, p.frame + 1))
      ) {
        const bent = core.correct({
          kind: "bend",
          landmarks: [p.landmark],
          from: p.frame,
          to: p.frame,
          x: p.point.x,
          y: p.point.y,
          hidden: p.point.hidden,
          radius,
          tracks: { [p.landmark]: was },
        }).changes[p.landmark];
        e = { kind: "track", clip: clip!.id, key: p.landmark, value: bent };
      }
      if (final) {
        edit(e);
        setHidden(false);
      } else setDraft([e]);
    },
    [clip, edit, core, radius, work],
  );
  const light = useCallback(
    (r: Reading | null) => {
      setLit(r?.id ?? null);
      if (!r) return;
      if (r.evidence) {
        player.pause();
        player.jump(r.evidence.frame);
      }
      const cp = model.checkpoints.find((c) => c.id === r.id);
      // Of a repeated group: where the light falls, else the first of them.
      const here = (p: Model["positions"][number]) =>
        p.id === cp?.position || (p.group === cp?.position && (!r.evidence || flags[p.id] === r.evidence.frame));
      const at = model.positions.find(here) ?? model.positions.find((p) => p.group === cp?.position);
      if (at) setChosen(at.id);
    },
    [player, model, flags],
  );
  const choose = useCallback(
    (id: string) => {
      setChosen(id);
      setLit(null);
      if (flags[id] !== undefined) {
        player.pause();
        player.jump(flags[id]);
      }
    },
    [flags, player],
  );
  const next = nextPosition(model, flags);
  const setFlag = useEvent((id: string, f: number | null) => {
    edit({ kind: "flag", clip: clip!.id, key: id, value: f });
    setChosen(id);
  });
  const dragFlag = useEvent((id: string, f: number, final: boolean) => {
    const e: Edit = { kind: "flag", clip: clip!.id, key: id, value: f };
    if (final) edit(e);
    else setDraft([e]);
  });
  const hop = (by: 1 | -1) => {
    const list = Object.entries(flags).sort((a, b) => a[1] - b[1]);
    const here = player.get().frame;
    const to = by > 0 ? list.find(([, f]) => f > here) : list.findLast(([, f]) => f < here);
    if (to) choose(to[0]);
  };
  const findings = report && seen(report, now, model, sheet.refused, quiet);
  const finding = findings && (findings.list.find((f) => f.fault === opened) ?? findings.list[0]); // what was open may have gone
  const decide = (v: "accepted" | "refused") => finding && edit({ kind: "finding", key: finding.fault, value: v });
  const nudge = (dx: number, dy: number) => {
    const p = selected && pointOf(points[selected], player.get().frame);
    if (!p || !clip) return;
    const clamp = (v: number, to: number) => Math.round(Math.min(to, Math.max(0, v)) * 10) / 10;
    edit({
      kind: "point",
      clip: clip.id,
      key: selected,
      frame: player.get().frame,
      value: { ...p, source: "hand", confidence: 1, x: clamp(p.x + dx, clip.width), y: clamp(p.y + dy, clip.height) },
    });
  };
  const hide = () => {
    const f = player.get().frame;
    const p = selected && pointOf(points[selected], f);
    if (p && clip) edit({ kind: "point", clip: clip.id, key: selected, frame: f, value: { ...p, hidden: !p.hidden } });
    else setHidden(!hidden);
  };
  const skip = () => asked && setSkipped(new Set(skipped).add(asked.position + asked.landmark));
  const startPlacing = useEvent(() => {
    setSkipped(new Set());
    setSelected(null);
    setPlacing(!placing);
  });

  const toDoubt = (by: 1 | -1) => {
    const here = player.get().frame;
    const list = by > 0 ? doubts : [...doubts].reverse();
    const same = doubts.filter((d) => d.frame === here);
    const i = same.findIndex((d) => d.landmark === selected);
    const d = (i >= 0 ? same[i + by] : same[0]) ?? list.find((x) => (x.frame - here) * by > 0) ?? list[0];
    if (!d) return;
    player.pause();
    player.jump(d.frame);
    setSelected(d.landmark);
  };
  const scaling = useMemo<Tool | null>(
    () =>
      metres === null || !clip
        ? null
        : {
            kind: "line",
            says: `Drag along the ${metres} m`,
            done: (a, b) => (
              edit({
                kind: "scale",
                clip: clip.id,
                key: "line",
                value: { ax: a[0], ay: a[1], bx: b[0], by: b[1], metres },
              }),
              setMetres(null)
            ),
          },
    [metres, clip, edit],
  );
  const active = scaling ?? tool;
  const template = catalogue?.templates.find((t) => t.id === cw?.ground?.template);
  const overlay = useCallback(
    (frame: number): Overlay[] => {
      if (!core || !clip) return [];
      const out = marks(core, input, shows, frame);
      if (tab === "ground" && report?.ground && template)
        out.push({
          key: "ground",
          style: "ground",
          lines: template.lines
            .map(
              (l) =>
                core
                  .camera({ camera: clip.camera, ground: report.ground, frame, places: l as [number, number][] })
                  .pixels.filter((q) => q[0] > -1e8) as [number, number][],
            )
            .filter((l) => l.length > 1),
        });
      if ((tab === "ground" || tab === "clip") && cw?.scale) {
        const { ax, ay, bx, by, metres } = cw.scale;
        out.push({
          key: "scale",
          style: "ground",
          lines: [
            [
              [ax, ay],
              [bx, by],
            ],
          ],
          label: `${metres} m`,
        });
      }
      if (tab === "tracking" && cw?.box && cw.box.frame === frame) {
        const { x, y, width, height } = cw.box;
        out.push({
          key: "box",
          style: "box",
          lines: [
            [
              [x, y],
              [x + width, y],
              [x + width, y + height],
              [x, y + height],
              [x, y],
            ],
          ],
        });
      }
      return out;
    },
    [core, clip, input, shows, report?.ground, template, tab, cw?.box, cw?.scale],
  );
  const drafted = useEvent(() => void queries.invalidateQueries({ queryKey: ["bench"] }));
  const pickStaff = useEvent((id: string) => {
    const list = staves.includes(id) ? staves.filter((s) => s !== id) : [...staves, id].slice(-mostStaves);
    setStaves(list);
    remember("neo.staves", list);
  });
  const keep = useEvent(async (kind: "svg" | "png") => {
    const drawing = score.current?.svg();
    if (!drawing) return;
    const name = `${athlete.name} ${model.name} score.${kind}`;
    saveFile(name, kind === "svg" ? new Blob([toSVG(drawing)], { type: "image/svg+xml" }) : await toPNG(drawing));
  });
  const ready = clip?.state === "ready";
  const placed = Object.keys(points).join(" ");
  const shownID = clip?.id;
  const picker = useMemo(
    () =>
      catalogue &&
      ready && (
        <StavePicker
          kinds={catalogue.curves}
          on={staves}
          placed={placed}
          onPick={pickStaff}
          onKeep={keep}
          vtt={`/api/clips/${shownID}/score.vtt`}
        />
      ),
    [catalogue, ready, staves, placed, shownID, pickStaff, keep],
  );

  // Talking: the recorder looks at the stage as it is.
  const chapters = useChapters(sheet.attempt.id);
  const [search, setSearch] = useSearchParams();
  const again = chapters.data?.find((c) => c.id === search.get("again"));
  const onStage = useRef<() => ReturnType<Recorder["look"]>>(() => null);
  onStage.current = () => {
    const el = document.querySelector<HTMLElement>("[data-testid=stage]");
    if (!clip || !ready || !el) return null;
    const [k, x, y] = el.dataset.look!.split(" ").map(Number);
    const { frame, playing, speed } = player.get();
    const round = (v: number) => Math.round(v * 10) / 10;
    const [left, top] = [round(Math.max(0, -x / k)), round(Math.max(0, -y / k))];
    return {
      clip: clip.id,
      frame,
      speed: playing ? speed : 0,
      view: [
        left,
        top,
        round(Math.min(clip.width, (el.clientWidth - x) / k) - left),
        round(Math.min(clip.height, (el.clientHeight - y) / k) - top),
      ],
      over: drawnNow(overlay(frame), report?.readings ?? [], model, frame, lit),
    };
  };
  const recorder = useMemo(
    () =>
      new Recorder(
        sheet.attempt.id,
        () => onStage.current(),
        () => void queries.invalidateQueries({ queryKey: ["talk"] }),
      ),
    [sheet.attempt.id, queries],
  );
  useEffect(() => () => recorder.close(), [recorder]);
  const talk = () => {
    if (recorder.get().phase === "talking")
      return void recorder.stop().then(() => search.has("again") && setSearch({}, { replace: true }));
    if (!ready) return;
    if (again) void recorder.start(again.name, again.finding, again.id);
    else if (tab === "findings" && finding) void recorder.start(nameOf(finding.fault), finding.fault);
    else void recorder.start(chapters.data?.length ? `Part ${chapters.data.length + 1}` : "The whole");
  };
  const nameOf = (fault: string) => model.faults.find((f) => f.id === fault)?.name ?? fault;
  // Each finding that is opened while talking is a chapter.
  const toChapter = useEffectEvent(() => {
    if (tab === "findings" && finding && !again) recorder.chapter(nameOf(finding.fault), finding.fault);
  });
  useEffect(() => toChapter(), [tab, finding?.fault]);

  const queue = useQueue();
  const toNext = () => {
    const n = after(queue.data ?? [], sheet.attempt.id);
    void go(n ? `/attempt/${n.id}` : "/");
  };
  const keys: Record<string, () => void> = {
    " ": () => player.toggle(),
    "1": () => player.setSpeed(speeds[0]),
    "2": () => player.setSpeed(speeds[1]),
    "3": () => player.setSpeed(speeds[2]),
    "4": () => player.setSpeed(speeds[3]),
    Home: () => player.step(-1e9),
    End: () => player.step(1e9),
    d: () => player.step(1),
    s: () => player.step(-1),
    f: () => next && clip?.state === "ready" && setFlag(next.id, player.get().frame),
    n: () => hop(1),
    b: () => hop(-1),
    p: startPlacing,
    h: hide,
    k: skip,
    u: undo,
    U: redo,
    r: () => {
      const i = report?.phases.findIndex((x) => x.from <= player.get().frame && x.to > player.get().frame) ?? -1;
      player.setLoop(player.get().loop || i < 0 ? null : [report!.phases[i].from, report!.phases[i].to]);
    },
    a: () => tab === "findings" && decide("accepted"),
    x: () => tab === "findings" && decide("refused"),
    q: () => setTab("numbers"),
    w: () => setTab("findings"),
    e: () => hasBlocks && setTab("whatif"),
    i: () => round && setTab("above"),
    c: () => setTab("clip"),
    o: () => void go("feedback"),
    y: () => setChoosing(true),
    m: () => void go(`/athlete/${athlete.id}`),
    ".": toNext,
    z: talk,
    "?": () => setHelp(true),
    Escape: () => {
      setPlacing(false);
      setSelected(null);
      setLit(null);
      setMetres(null);
      setTool(null);
    },
    v: () => toDoubt(1),
    V: () => toDoubt(-1),
    t: () => setTab("tracking"),
    j: () => setTab("shows"),
    g: () => setTab("ground"),
    l: () => setBones(!bones),
    "+": () => score.current?.zoom(1.6),
    "-": () => score.current?.zoom(1 / 1.6),
    "0": () => score.current?.whole(),
    Delete: () => {
      const f = player.get().frame;
      if (selected && pointOf(points[selected], f))
        edit({ kind: "point", clip: clip!.id, key: selected, frame: f, value: null });
    },
  };
  useEffect(() => {
    const down = (e: KeyboardEvent) => {
      const t = e.target as HTMLElement;
      if (help || t.closest("textarea, select, [role=dialog]") || (t instanceof HTMLInputElement && t.type !== "range"))
        return;
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
        e.preventDefault();
        return e.shiftKey ? redo() : undo();
      }
      if (e.ctrlKey || e.metaKey || e.altKey) return;
      const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
      if (arrow && t instanceof HTMLInputElement) return;
      if (arrow) {
        e.preventDefault();
        if (selected && pointOf(points[selected], player.get().frame))
          nudge(arrow[0] * (e.shiftKey ? 1 : 0.1), arrow[1] * (e.shiftKey ? 1 : 0.1));
        else if (arrow[0]) player.step(arrow[0] * (e.shiftKey ? 10 : 1));
        else hop(arrow[1] as 1 | -1);
        return;
      }
      if (e.key === " " && t.closest("button, [role=button]")) t.blur();
      const f = keys[e.key];
      if (f) {
        e.preventDefault();
        f();
      }
    };
    addEventListener("keydown", down);
    return () => removeEventListener("keydown", down);
  });

  const showHelp = useCallback(() => setHelp(true), []);
  const [choosing, setChoosing] = useState(false);
  const toBeside = useCallback(() => setChoosing(true), []);
  const toFeedback = useEvent(() => void go("feedback"));

  return (
    <div className="bench">
      <Header
        sheet={sheet}
        effect={answer?.effect}
        state={saving.state}
        canUndo={work.can_undo}
        canRedo={work.can_redo}
        onUndo={undo}
        onRedo={redo}
        onHelp={showHelp}
        onFeedback={toFeedback}
        onBeside={toBeside}
      />
      {(saving.says || coreTrouble || broken) && (
        <Notice tone={saving.state === "kept" ? "amber" : "clay"} m="8px 16px 0">
          {coreTrouble || broken || saving.says}
          <Button size="xs" variant="ghost" h="18px" ml="auto" onClick={dismiss}>
            close
          </Button>
        </Notice>
      )}

      <Rejudge attempt={sheet.attempt.id} newer={sheet.newer} />
      <div className="halves">
        <div className="left">
          <div className="place">
            {clip ? (
              <Stage
                clip={clip}
                player={player}
                points={points}
                model={model}
                report={report}
                lit={lit}
                asked={asked}
                hidden={hidden}
                selected={selected}
                onSelect={setSelected}
                onPlace={place}
                tool={active}
                far={clip.view === "side" && clip.direction !== 0 ? (clip.direction > 0 ? "left" : "right") : null}
                bones={bones}
                overlays={overlay}
              />
            ) : (
              <Panel h="100%" display="flex" alignItems="center" justifyContent="center" p="30px">
                <Box w="480px">
                  <Text fontSize="16px" fontWeight="600">
                    No clip on this attempt yet
                  </Text>
                  <Text color="quiet">{model.film}</Text>
                  <DropArea
                    files={[]}
                    onFiles={(f) => send(sheet.attempt.id, f, () => void queries.invalidateQueries())}
                  />
                </Box>
              </Panel>
            )}
            {asked && (
              <Flex position="absolute" top="10px" left="0" right="0" justify="center" pointerEvents="none">
                <Flex
                  bg="panel"
                  borderRadius="full"
                  px="14px"
                  py="5px"
                  gap="10px"
                  align="center"
                  border="1px solid"
                  borderColor="clay"
                  pointerEvents="auto"
                  data-testid="ask"
                  data-landmark={asked.landmark}
                  data-frame={asked.frame}
                >
                  <Text color="quiet">{model.positions.find((p) => p.id === asked.position)!.name}</Text>
                  <Text fontWeight="650" fontSize="14px" color={asked.landmark.startsWith("left") ? "clay" : "sky"}>
                    {asked.label}
                  </Text>
                  <Text color="quiet">
                    {asked.nth} of {asked.of}
                  </Text>
                  <Button
                    size="xs"
                    h="22px"
                    variant={hidden ? "solid" : "outline"}
                    onClick={() => setHidden(!hidden)}
                    title="It is covered: I guess the place (H)"
                  >
                    hidden
                  </Button>
                  <Button size="xs" h="22px" variant="outline" onClick={skip} title="Skip it (K)">
                    skip
                  </Button>
                </Flex>
              </Flex>
            )}
            {active && (
              <Flex position="absolute" top="10px" left="0" right="0" justify="center" pointerEvents="none">
                <Flex
                  bg="panel"
                  borderRadius="full"
                  px="14px"
                  py="5px"
                  gap="10px"
                  align="center"
                  border="1px solid"
                  borderColor="clay"
                  pointerEvents="auto"
                  data-testid="tool"
                >
                  <Text fontWeight="600">{active.says}</Text>
                  <Button size="xs" h="22px" variant="outline" onClick={() => (setTool(null), setMetres(null))}>
                    leave it <Key>Esc</Key>
                  </Button>
                </Flex>
              </Flex>
            )}
            {ready && (
              <TalkBar
                recorder={recorder}
                said={chapters.data?.length ?? 0}
                attempt={sheet.attempt.id}
                again={again?.name}
                onAgain={talk}
              />
            )}
            {ready && !asked && <Readout player={player} zero={flags.move ?? flags.set} rate={clip.capture_rate} />}
            {ready && !asked && !active && <Guide player={player} watch={model.watch} />}
          </div>

          {clip && (
            <div className="panel score">
              <Tools
                model={model}
                player={player}
                ready={ready}
                flags={flags}
                own={own}
                chosen={chosen}
                placing={placing}
                problem={unreadable(sheet.work.unreadable) ?? report?.problems[0]}
                onFlag={setFlag}
                onPlacing={startPlacing}
              >
                {picker}
              </Tools>
              {ready ? (
                <Score
                  model={model}
                  ref={score}
                  positions={report?.positions ?? noPositions}
                  phases={report?.phases}
                  bars={report?.bars}
                  flags={own}
                  staves={curves}
                  doubtful={doubtful}
                  player={player}
                  known={clip.capture_rate > 0}
                  chosen={chosen}
                  onChoose={choose}
                  onFlag={dragFlag}
                />
              ) : (
                <Text color="quiet" py="20px">
                  The score appears when the clip is ready.
                </Text>
              )}
            </div>
          )}
        </div>

        <div className="panel side">
          <Tabs
            tab={tab}
            blocks={hasBlocks}
            round={round}
            found={report?.findings.length ?? 0}
            look={clip?.capture_rate === 0 || (clip?.warnings.length ?? 0) > 0}
            onTab={setTab}
          />
          <div className="tab">
            {sheet.clips.length > (tab === "clip" ? 0 : 1) && (
              <Flex gap="4px" mb="10px" wrap="wrap">
                {sheet.clips.map((c, i) => (
                  <Button
                    key={c.id}
                    size="xs"
                    variant="outline"
                    bg={c.id === clip?.id ? "raised" : undefined}
                    onClick={() => setClipID(c.id)}
                  >
                    {i + 1} {c.view}
                  </Button>
                ))}
                <Button size="xs" variant="ghost" onClick={() => setAdding(true)}>
                  add a clip
                </Button>
              </Flex>
            )}
            {clip?.capture_rate === 0 && clip.state === "ready" && tab !== "clip" && (
              <Notice mb="10px">
                <Text flex="1">The camera's frame rate is not known, so no true time can be given.</Text>
                <Button size="xs" variant="outline" h="22px" onClick={() => setTab("clip")}>
                  answer
                </Button>
              </Notice>
            )}
            {clip?.direction === 0 && clip.view === "side" && clip.state === "ready" && tab !== "clip" && (
              <Notice mb="10px">
                <Text flex="1">Which way does the athlete run?</Text>
                <Button size="xs" variant="outline" h="22px" onClick={() => setTab("clip")}>
                  answer
                </Button>
              </Notice>
            )}
            <Boundary at={tab} part="This panel">
              {tab === "clip" && clip && (
                <ClipSheet
                  attempt={sheet.attempt}
                  model={model}
                  clip={clip}
                  work={cw ?? noWork}
                  core={core}
                  report={report}
                  player={player}
                  scaling={metres !== null}
                  onScaling={setMetres}
                  edit={edit}
                />
              )}
              {tab === "tracking" && clip && ready && core && input && (
                <Tracking
                  clip={clip}
                  work={cw ?? noWork}
                  core={core}
                  input={input}
                  player={player}
                  selected={selected}
                  radius={radius}
                  doubts={doubts}
                  onRadius={setRadius}
                  onSelect={setSelected}
                  onTool={setTool}
                  onDoubt={toDoubt}
                  onDrafted={drafted}
                  kept={kept}
                  edit={edit}
                  more={more}
                />
              )}
              {tab === "ground" && clip && ready && catalogue && (
                <Ground
                  clip={clip}
                  work={cw ?? noWork}
                  report={report}
                  templates={catalogue.templates}
                  player={player}
                  onTool={setTool}
                  edit={edit}
                />
              )}
              {tab === "shows" && clip && ready && core && input && (
                <Shows
                  clip={clip}
                  work={cw ?? noWork}
                  core={core}
                  input={input}
                  player={player}
                  model={model}
                  findings={report?.findings ?? []}
                  advice={now.advice}
                  onTool={setTool}
                  edit={edit}
                />
              )}
              {tab === "numbers" && report && model.repeat && !report.throw && (
                <Steps report={report} player={player} />
              )}
              {tab === "numbers" && report && (
                <Numbers
                  model={model}
                  report={report}
                  flags={flags}
                  chosen={chosen}
                  lit={lit}
                  onChoose={choose}
                  onLight={light}
                  edit={edit}
                />
              )}
              {tab === "findings" && report && findings && (
                <Findings
                  {...findings}
                  quiet={quiet}
                  onQuiet={setQuiet}
                  finding={finding}
                  onFinding={setOpened}
                  young={Number(sheet.attempt.done_on.slice(0, 4)) - athlete.born < 15}
                  model={model}
                  report={report}
                  work={now}
                  onLight={light}
                  edit={edit}
                />
              )}
              {tab === "whatif" && core && input && <WhatIf core={core} input={input} />}
              {tab === "above" && core && input && ready && report && (
                <FromAbove
                  attempt={sheet.attempt.id}
                  athlete={athlete}
                  clips={sheet.clips}
                  work={now}
                  core={core}
                  input={input}
                  report={report}
                  clip={clip}
                  player={player}
                  still={draft.length === 0}
                  onTool={setTool}
                  edit={edit}
                  onGround={() => setTab("ground")}
                  onTrack={() => setTab("tracking")}
                />
              )}
            </Boundary>
            {!report && tab !== "clip" && (
              <Text color="quiet">
                Numbers appear when the clip is ready, positions are flagged and points are placed.
              </Text>
            )}
            {sheet.attempt.injury_note && (
              <Notice mt="14px">
                <Text>Injuries to mind: {sheet.attempt.injury_note}</Text>
              </Notice>
            )}
            {sheet.attempt.coach_focus && (
              <Text fontSize="12px" color="quiet" mt="10px">
                Own coach works on: {sheet.attempt.coach_focus}
              </Text>
            )}
          </div>
        </div>
      </div>

      {choosing && <Others sheet={sheet} onClose={() => setChoosing(false)} />}
      {help && <KeySheet onClose={() => setHelp(false)} />}
      {adding && (
        <Sheet title="Add a clip to this attempt" open onClose={() => setAdding(false)}>
          <DropArea
            files={[]}
            onFiles={(f) => {
              setAdding(false);
              send(sheet.attempt.id, f, () => void queries.invalidateQueries());
            }}
          />
        </Sheet>
      )}
    </div>
  );
}

/** Others are the attempts that this one can be held beside: the same athlete's
 * first, then those of others at the same event, and another view of the same. */
function Others({ sheet, onClose }: { sheet: Data; onClose(): void }) {
  const queue = useQueue();
  const library =
    useLibrary().data?.filter((r) => r.event === sheet.attempt.event && r.attempt_id !== sheet.attempt.id) ?? [];
  const mine = (a: { athlete_id: string }) => (a.athlete_id === sheet.attempt.athlete_id ? 0 : 1);
  const list = (queue.data ?? [])
    .filter((q) => q.event === sheet.attempt.event && q.id !== sheet.attempt.id && q.clips > 0)
    .sort((x, y) => mine(x) - mine(y) || y.done_on.localeCompare(x.done_on));
  return (
    <Sheet title="Hold it beside" open onClose={onClose}>
      <Box data-testid="others" maxH="60vh" overflowY="auto">
        {sheet.clips.filter((c) => c.state === "ready").length > 1 && (
          <To to={`/beside/${sheet.attempt.id}/${sheet.attempt.id}`} style={{ display: "block", padding: "6px 0" }}>
            the other view of this attempt
          </To>
        )}
        <To
          to={`/beside/${sheet.attempt.id}/model`}
          data-reference="model"
          style={{ display: "block", padding: "6px 0" }}
        >
          <b>the simulated reference</b>{" "}
          <span style={{ color: "var(--chakra-colors-quiet)" }}>
            the model without a fault, with this athlete’s body
          </span>
        </To>
        {library.map((r) => (
          <To
            key={r.attempt_id}
            to={`/beside/${sheet.attempt.id}/${r.attempt_id}`}
            data-reference={r.attempt_id}
            style={{ display: "block", padding: "6px 0" }}
          >
            <b>{r.name}</b>{" "}
            <span style={{ color: "var(--chakra-colors-quiet)" }}>
              {["library", r.athlete, r.mark].filter(Boolean).join(" · ")}
            </span>
          </To>
        ))}
        {list.map((q) => (
          <To
            key={q.id}
            to={`/beside/${sheet.attempt.id}/${q.id}`}
            data-other={q.id}
            style={{ display: "block", padding: "6px 0" }}
          >
            <b>{q.athlete}</b>{" "}
            <span style={{ color: "var(--chakra-colors-quiet)" }}>
              {[q.mark, q.session, q.done_on].filter(Boolean).join(" · ")}
            </span>
          </To>
        ))}
        {list.length === 0 && sheet.clips.length < 2 && (
          <Text color="quiet">There is no other attempt at this event with a clip yet.</Text>
        )}
      </Box>
    </Sheet>
  );
}

const KeySheet = ({ onClose }: { onClose(): void }) => (
  <Sheet title="Keys" open onClose={onClose}>
    <Box display="grid" gridTemplateColumns="130px 1fr" gap="5px" fontSize="13px">
      {keySheet.map(([k, t]) => (
        <Box key={k} display="contents">
          <Text>
            {k.split(" ").map((x) => (
              <Box as="span" key={x} mr="3px">
                <Key>{x}</Key>
              </Box>
            ))}
          </Text>
          <Text>{t}</Text>
        </Box>
      ))}
    </Box>
  </Sheet>
);

/** Rejudge offers the newer version of the model and says what it changed. */
function Rejudge({ attempt, newer }: { attempt: string; newer?: Data["newer"] }) {
  const act = useRejudge();
  const [done, setDone] = useState<Awaited<ReturnType<typeof act.mutateAsync>>>();
  if (!newer && !done) return null;
  const list = done && [
    ...done.verdicts.map((v) => `${v.name}: ${v.before} → ${v.after}`),
    ...done.gone.map((f) => `gone: ${f}`),
    ...done.come.map((f) => `now there: ${f}`),
  ];
  return (
    <Notice tone={act.error ? "clay" : "amber"} m="8px 16px 0" data-testid="rejudge">
      <Text flex="1">
        {act.error
          ? act.error.message
          : list
            ? list.length
              ? `Judged anew. ${list.join(" · ")}`
              : "Judged anew; no verdict changed."
            : `Your team has changed this model since (${newer!.reason}). This attempt keeps the version by which it was judged.`}
      </Text>
      {!done && (
        <Button
          size="xs"
          variant="outline"
          h="22px"
          loading={act.isPending}
          onClick={() => void act.mutateAsync(attempt).then(setDone, () => {})}
        >
          judge anew
        </Button>
      )}
    </Notice>
  );
}

/** Guide walks the coach through full, slow, frames, slow again. */
const Guide = memo(function Guide({ player, watch }: { player: Player; watch?: string[] | null }) {
  const [watched, setWatched] = useState<number | null>(() => (localStorage.getItem("neo.guide") === "off" ? null : 0));
  if (watched === null) return null;
  return (
    <Box position="absolute" top="10px" left="10px" maxW="52%">
      <Flex
        w="fit-content"
        bg="panel"
        opacity={0.94}
        borderRadius="full"
        px="6px"
        py="3px"
        gap="2px"
        align="center"
        data-testid="guide"
      >
        {guide.map((g, i) => (
          <Button
            key={i}
            size="xs"
            h="22px"
            variant="ghost"
            px="8px"
            color={i === watched ? "chalk" : "quiet"}
            fontWeight={i === watched ? "650" : "400"}
            onClick={() => {
              setWatched(i);
              if (i === 2) return player.pause();
              player.jump(0);
              player.setSpeed(i === 0 ? 1 : 0.25);
              player.play();
            }}
          >
            {i < watched ? "✓ " : `${i + 1} `}
            {g}
          </Button>
        ))}
        <Button
          size="xs"
          h="22px"
          px="6px"
          variant="ghost"
          title="Hide the watching guide"
          aria-label="Hide the watching guide"
          onClick={() => {
            localStorage.setItem("neo.guide", "off");
            setWatched(null);
          }}
        >
          ×
        </Button>
      </Flex>
      {watch?.[watched] && (
        <Text
          mt="4px"
          w="fit-content"
          bg="panel"
          opacity={0.94}
          borderRadius="12px"
          px="12px"
          py="3px"
          fontSize="12px"
          data-testid="watch"
        >
          {watch[watched]}
        </Text>
      )}
    </Box>
  );
});

/** useEvent gives a function that never changes but always acts on the latest. */
function useEvent<A extends unknown[], R>(f: (...a: A) => R): (...a: A) => R {
  const latest = useRef(f);
  useLayoutEffect(() => {
    latest.current = f;
  });
  return useCallback((...a: A) => latest.current(...a), []);
}

/** Spent is the hand time on an attempt so far. */
function Spent({ id }: { id: string }) {
  const queue = useQueue();
  const [before, setBefore] = useState<number | null>(null);
  // What the server knew when the attempt was opened; the rest is counted here.
  useEffect(() => {
    if (before === null && queue.data) setBefore(queue.data.find((q) => q.id === id)?.seconds ?? 0);
  }, [before, queue.data, id]);
  return before === null ? null : <HandTime id={id} before={before} />;
}

type HeaderProps = {
  sheet: Data;
  effect?: Calls["evaluate_answer"]["effect"];
  state: string;
  canUndo: boolean;
  canRedo: boolean;
  onUndo(): void;
  onRedo(): void;
  onHelp(): void;
  onFeedback(): void;
  onBeside(): void;
};

const Header = memo(function Header({
  sheet,
  effect,
  state,
  canUndo,
  canRedo,
  onUndo,
  onRedo,
  onHelp,
  onFeedback,
  onBeside,
}: HeaderProps) {
  const about = [
    sheet.model.name.toLowerCase(),
    sheet.attempt.session,
    new Date(sheet.attempt.done_on + "T12:00").toLocaleDateString("en-GB", { day: "numeric", month: "long" }),
    sheet.attempt.mark,
  ]
    .filter(Boolean)
    .join(" · ");
  return (
    <Flex h="48px" align="center" gap="12px" px="16px" flexShrink={0} borderBottom="1px solid" borderColor="seam">
      <To to="/" title="Back to the queue" aria-label="Back to the queue">
        <img src="/mark.svg" width={24} height={24} alt="" />
      </To>
      <Box minW="0" flexShrink={1}>
        <To
          to={`/athlete/${sheet.athlete.id}`}
          title="The athlete's log (M)"
          style={{ color: "inherit", textDecoration: "none" }}
        >
          <Text fontSize="15px" fontWeight="700" lineHeight="1.15">
            {sheet.athlete.name}
          </Text>
        </To>
        <Text fontSize="11.5px" color="quiet" truncate maxW="330px">
          {about}
        </Text>
      </Box>
      <Box flex="1" display="flex" justifyContent="center" minW="0">
        {sheet.before && <Before before={sheet.before} model={sheet.model} effect={effect} />}
      </Box>
      <Spent id={sheet.attempt.id} />
      <Text fontSize="11.5px" color={state === "kept" ? "amber" : "quiet"} data-testid="saving">
        {state === "kept" ? "kept here, not saved yet" : state}
      </Text>
      <Button size="xs" variant="ghost" px="6px" disabled={!canUndo} onClick={onUndo} title="Undo (U)">
        undo
      </Button>
      <Button size="xs" variant="ghost" px="6px" disabled={!canRedo} onClick={onRedo} title="Redo (Shift U)">
        redo
      </Button>
      <Button size="xs" variant="ghost" px="6px" onClick={onHelp} title="Keys (?)">
        ?
      </Button>
      <Button size="xs" variant="outline" onClick={onBeside} title="Hold it beside another attempt (Y)">
        beside
      </Button>
      <Button onClick={onFeedback} title="Feedback page (O)">
        Feedback
      </Button>
    </Flex>
  );
});

type TabsProps = { tab: Tab; blocks: boolean; round: boolean; found: number; look: boolean; onTab(t: Tab): void };

const Tabs = memo(function Tabs({ tab, blocks, round, found, look, onTab }: TabsProps) {
  return (
    <Flex borderBottom="1px solid" borderColor="seam" px="8px" role="tablist">
      {(Object.keys(tabs) as Tab[]).map(
        (t, i) =>
          (t !== "whatif" || blocks) &&
          (t !== "above" || round) && (
            <TabButton
              key={t}
              t={t}
              nth={i}
              on={tab === t}
              badge={t === "findings" ? found : t === "clip" && look ? -1 : 0}
              onTab={onTab}
            />
          ),
      )}
    </Flex>
  );
});

/** TabButton: the number of findings may change at every move of a joint. */
const TabButton = memo(function TabButton({
  t,
  nth,
  on,
  badge,
  onTab,
}: {
  t: Tab;
  nth: number;
  on: boolean;
  badge: number;
  onTab(t: Tab): void;
}) {
  return (
    <Button
      role="tab"
      aria-selected={on}
      variant="plain"
      h="40px"
      px="5px"
      fontSize="12.5px"
      borderRadius="0"
      border="0"
      color={on ? "chalk" : "quiet"}
      borderBottom="2px solid"
      borderBottomColor={on ? "clay" : "transparent"}
      onClick={() => onTab(t)}
      title={`${tabs[t]} (${tabKeys[nth]})`}
    >
      {tabs[t]}
      {badge > 0 && <span style={{ color: "var(--chakra-colors-clay)" }}>{badge}</span>}
      {badge < 0 && <Box w="7px" h="7px" borderRadius="full" bg="amber" />}
    </Button>
  );
});

type ToolProps = {
  model: Model;
  player: Player;
  ready: boolean;
  flags: Record<string, number>;
  own: Record<string, number>;
  children?: ReactNode;
  chosen: string;
  placing: boolean;
  problem?: string;
  onFlag(id: string, frame: number | null): void;
  onPlacing(): void;
};

/** Tools: playing, and what can be done at the frame under the cursor. */
const Tools = memo(function Tools({
  model,
  player,
  ready,
  flags,
  own,
  chosen,
  placing,
  problem,
  onFlag,
  onPlacing,
  children,
}: ToolProps) {
  const onChosen = usePlayer(player, (s) => !s.playing && flags[chosen] === s.frame);
  const next = nextPosition(model, flags);
  const extra = model.positions.find((p) => p.id === chosen && p.id !== next?.id && flags[chosen] === undefined);
  return (
    <Flex gap="6px" align="center" mb="4px">
      <Transport player={player} />
      <Box flex="1" />
      {problem && (
        <Text fontSize="12px" color="clay" truncate>
          {problem}
        </Text>
      )}
      {ready && next && !placing && (
        <Button
          size="xs"
          variant="outline"
          onClick={() => onFlag(next.id, player.get().frame)}
          title={`${next.hint} (F)`}
          data-testid="flag-next"
          data-flag-here={next.id}
        >
          flag “{extra ? next.short : next.name}” here <Key>F</Key>
        </Button>
      )}
      {ready && onChosen && (
        <Button
          size="xs"
          variant="ghost"
          onClick={() => onFlag(chosen, own[chosen] === undefined ? -1 : null)}
          title={
            own[chosen] === undefined
              ? "The tool found it here; say that it is not in this clip"
              : "Take your flag away"
          }
        >
          {own[chosen] === undefined ? "not here" : "unflag"}
        </Button>
      )}
      {ready && extra && (
        <Button
          size="xs"
          variant="outline"
          onClick={() => onFlag(chosen, player.get().frame)}
          title={extra.hint}
          data-flag-here={extra.id}
        >
          flag “{extra.short}” here
        </Button>
      )}
      {ready && (
        <Button
          size="xs"
          variant={placing ? "solid" : "outline"}
          disabled={Object.keys(flags).length === 0}
          onClick={onPlacing}
          title="Place points, guided (P)"
          data-testid="place"
        >
          {placing ? "stop placing" : "place points"} <Key>P</Key>
        </Button>
      )}
      {children}
    </Flex>
  );
});

/** nextPosition is the first key position that is still to be flagged. */
function nextPosition(model: Model, flags: Record<string, number>) {
  const open = model.positions.filter((p) => flags[p.id] === undefined);
  // Turns are flagged one after the other, until the coach picks what ends them.
  const begun = model.repeat?.after ? model.positions.findLastIndex((p) => p.group && flags[p.id] !== undefined) : -1;
  const ended = begun >= 0 && model.positions.slice(begun + 1).some((p) => !p.group && flags[p.id] !== undefined);
  if (begun >= 0 && !ended && model.positions[begun + 1]?.group) return model.positions[begun + 1];
  const first = open.find((p) => !p.optional);
  if (first || ended || !model.repeat) return first;
  // Of a repeated group the touchdowns and toe-offs, one after the other.
  const main = new Set(model.repeat.positions.filter((p) => !p.optional).map((p) => p.id));
  return open.find((p) => p.group && main.has(p.group));
}

const noWork = { flags: {}, points: {}, shows: {} };
const noPositions: Report["positions"] = [];
const noCurves: Staff[] = [];
const noDoubts: Calls["doubts_answer"]["doubts"] = [];

/** bandOf is the band of a checkpoint that reads the same as a curve. */
function bandOf(model: Model, id: string) {
  const part = /^angle:(left|right)_(\w+)$/.exec(id)?.[2];
  if (id === "lean:trunk")
    return model.checkpoints.find(
      (c) => c.measure.kind === "tilt" && c.measure.points?.join() === "mid_hip,mid_shoulder",
    )?.band;
  // A joint's band holds at one position only; the curve shows it when there is just one.
  const list = part
    ? model.checkpoints.filter((c) => c.measure.kind === "joint" && c.measure.points?.[1].endsWith("_" + part))
    : [];
  return list.length === 1 ? list[0].band : undefined;
}

type Kinds = Calls["catalogue"]["curves"];

/** StavePicker chooses the curves on the score and gives it away as a file. */
function StavePicker({
  kinds,
  on,
  placed,
  onPick,
  onKeep,
  vtt,
}: {
  kinds: Kinds;
  on: string[];
  placed: string;
  onPick(id: string): void;
  onKeep(k: "svg" | "png"): void;
  vtt: string;
}) {
  const [open, setOpen] = useState(false);
  const groups = [...new Set(kinds.map((k) => k.group))];
  const shown = (k: Kinds[number]) => k.group !== "single points" || placed.split(" ").includes(k.id.slice(2));
  return (
    <Box position="relative">
      <Button
        size="xs"
        variant={on.length ? "solid" : "outline"}
        onClick={() => setOpen(!open)}
        title="Curves on the score, and the score as a file"
        data-testid="staves"
      >
        curves {on.length > 0 && on.length}
      </Button>
      {open && (
        <Panel
          position="absolute"
          right="0"
          bottom="32px"
          w="420px"
          maxH="430px"
          overflowY="auto"
          p="12px 14px"
          border="1px solid"
          borderColor="seam"
          zIndex={5}
          boxShadow="0 8px 30px rgba(0,0,0,.4)"
        >
          <Flex gap="6px" mb="8px" align="center">
            <Text flex="1" fontSize="12px" color="quiet">
              up to {mostStaves} at a time
            </Text>
            <Button size="xs" h="22px" variant="outline" onClick={() => onKeep("svg")}>
              SVG
            </Button>
            <Button size="xs" h="22px" variant="outline" onClick={() => onKeep("png")}>
              PNG
            </Button>
            <Button size="xs" h="22px" variant="outline" asChild>
              <a href={vtt} download>
                WebVTT
              </a>
            </Button>
            <Button size="xs" h="22px" variant="ghost" onClick={() => setOpen(false)} aria-label="close">
              ×
            </Button>
          </Flex>
          {groups.map((g) => {
            const list = kinds.filter((k) => k.group === g && shown(k));
            return (
              list.length > 0 && (
                <Box key={g} mb="8px">
                  <Text fontSize="11.5px" color="quiet" mb="3px">
                    {g}
                  </Text>
                  <Flex gap="3px" wrap="wrap">
                    {list.map((k) => (
                      <Button
                        key={k.id}
                        size="xs"
                        h="22px"
                        px="8px"
                        fontSize="11.5px"
                        variant={on.includes(k.id) ? "solid" : "outline"}
                        onClick={() => onPick(k.id)}
                        data-curve={k.id}
                      >
                        {k.name}
                      </Button>
                    ))}
                  </Flex>
                </Box>
              )
            );
          })}
        </Panel>
      )}
    </Box>
  );
}

const keySheet = [
  ["← →", "one frame back or on (Shift: ten); the wheel does the same"],
  ["S D", "one frame back or on, also while a point is selected"],
  ["↑ ↓", "flag before or after; B and N do the same"],
  ["Space", "play or stop"],
  ["1 2 3 4", "full, half, quarter, eighth of true speed"],
  ["R", "loop the phase under the cursor, or drag along the ruler"],
  ["F", "flag the next key position here"],
  ["P", "place points, guided"],
  ["Z", "talk: your voice and what you show are kept; once more when done"],
  ["H K", "the point is hidden (a guess); skip it"],
  ["← ↑ → ↓", "with a point selected: move it a tenth of a pixel (Shift: one)"],
  ["Delete", "take the selected point away"],
  ["V ⇧V", "next or last doubtful point"],
  ["L", "skeleton on or off"],
  ["+ − 0", "zoom the score at the cursor; all of it (the wheel over it does the same, Shift moves)"],
  ["Q W E I", "numbers, findings, what if, from above"],
  ["T J G C", "track, show, ground, clip"],
  [". M", "the next attempt of the queue; the athlete's log"],
  ["A X", "accept or refuse the finding"],
  ["U ⇧U", "undo, redo"],
  ["O Y", "feedback page; side by side with another attempt"],
  ["Ctrl+wheel", "zoom at the pointer; drag to move; double click to go back"],
];

const Readout = memo(function Readout({ player, zero, rate }: { player: Player; zero?: number; rate: number }) {
  const { frame, speed } = usePlayer(player, (s) => s);
  const t = player.times[frame] - (zero !== undefined ? player.times[zero] : 0);
  return (
    <Flex
      position="absolute"
      top="10px"
      right="10px"
      bg="panel"
      opacity={0.94}
      borderRadius="full"
      px="14px"
      py="4px"
      gap="12px"
      pointerEvents="none"
      data-testid="readout"
    >
      <Text fontWeight="650">frame {frame}</Text>
      <Text color="quiet" minW="64px" textAlign="right">
        {rate ? `${minus((t >= 0 ? "+" : "") + t.toFixed(3))} s` : "time unknown"}
      </Text>
      {rate > 0 && <Text color="quiet">{rate}/s</Text>}
      {speed !== 1 && <Text color="quiet">{speedNames[speeds.indexOf(speed)]} speed</Text>}
    </Flex>
  );
});

function Transport({ player }: { player: Player }) {
  const playing = usePlayer(player, (s) => s.playing);
  const speed = usePlayer(player, (s) => s.speed);
  const loop = usePlayer(player, (s) => s.loop);
  return (
    <>
      <Button
        size="xs"
        variant="outline"
        px="8px"
        onClick={() => player.step(-1)}
        title="One frame back (←)"
        aria-label="one frame back"
      >
        ‹
      </Button>
      <Button size="xs" variant="outline" w="58px" onClick={() => player.toggle()} title="Play or stop (Space)">
        {playing ? "stop" : "play"}
      </Button>
      <Button
        size="xs"
        variant="outline"
        px="8px"
        onClick={() => player.step(1)}
        title="One frame on (→)"
        aria-label="one frame on"
      >
        ›
      </Button>
      {speeds.map((s, i) => (
        <Button
          key={s}
          size="xs"
          variant="ghost"
          px="7px"
          color={speed === s ? "chalk" : "quiet"}
          fontWeight={speed === s ? "650" : "400"}
          onClick={() => player.setSpeed(s)}
          title={`${speedNames[i]} of true speed (${i + 1})`}
        >
          {["1", "½", "¼", "⅛"][i]}
        </Button>
      ))}
      {loop && (
        <Button size="xs" variant="ghost" color="amber" onClick={() => player.setLoop(null)} title="End the loop (R)">
          loop {loop[0]}–{loop[1]} ×
        </Button>
      )}
    </>
  );
}
