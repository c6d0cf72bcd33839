import { useCallback, useEffect, useMemo, useReducer, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { Edit, Reading, Workspace } from "../../../api/client";
import { recall, remember } from "../../../ui/recall";
import { nextAfter } from "../../queue/api";
import { read, write } from "../address";
import { bend, commands, lookedAt, nextSuspect } from "../commands";
import type { Open } from "../context";
import { useCircle, useCompanions } from "../api";
import { shown } from "../findings";
import { asked as nextQuestion } from "../questions";
import { drawnNow, type Place, type Tool } from "../stage/tools";
import { useOverlays } from "../stage/overlays";
import type { Lane } from "../timeline/lanes";
import { initial, panelIDs, reduce } from "../state";
import { apply } from "../work/edits";
import { useWork } from "../work/work";
import { placeOf, useAddress } from "./useAddress";
import { useClipPlayer } from "./useClipPlayer";
import { useCore, useEvaluation } from "./useEvaluation";
import { usePlacing } from "./usePlacing";
import { useTalk } from "./useTalk";
import { t } from "../../../texts/texts";
import { useNext } from "../path";

const curvesKey = "neo.staves";
const noCurves: Lane[] = []; // the same, so that nothing is drawn anew for it

/** useOpenAttempt puts an open attempt together: what is done, what follows from it, and
 * what can be done. */
export function useOpenAttempt(sheet: Workspace) {
  const { model, athlete, clips } = sheet;
  const attempt = sheet.attempt.id;
  const { work: saved, edit: save, more, kept, saving, dismiss, undo, redo } = useWork(sheet);
  const [state, dispatch] = useReducer(reduce, null, () =>
    initial(
      recall<string[]>(curvesKey, []).filter((x) => typeof x === "string"),
      read(window.location.search, panelIDs),
      clips,
    ),
  );
  useEffect(() => remember(curvesKey, state.curves), [state.curves]);

  const clip = clips.find((c) => c.id === state.clip) ?? clips.find((c) => c.state === "ready") ?? clips[0];
  const player = useClipPlayer(clip);
  useAddress(attempt, clips, clip, player, state);
  const moving = state.drag.length > 0;
  const work = useMemo(() => state.drag.reduce(apply, saved), [state.drag, saved]);
  const { core: loaded, trouble } = useCore();
  const companions = useCompanions(attempt, clip?.id ?? "", clips.length > 1).data;
  const evaluation = useEvaluation(sheet, clip, work, loaded, moving, companions);
  const { core, input, flags, report, ready, points, suspects } = evaluation;
  const asked = usePlacing(state.mode, report, points, player, dispatch);

  const onTop = nextQuestion(report, state.later, clip?.id ?? "");
  const circle = useCircle(clip, state.panel === "check" && onTop?.kind === "circle");
  const position = lookedAt(model.positions, state.position);
  // The cursor on a flag brings that position's numbers up.
  useEffect(
    () =>
      player.subscribe(() => {
        const { frame, playing } = player.get();
        const here = playing ? undefined : model.positions.find((p) => flags[p.id] === frame);
        if (here) dispatch({ type: "position", id: here.id });
      }),
    [player, flags, model],
  );

  const edit = useCallback(
    (...e: Edit[]) => {
      dispatch({ type: "drag", edits: [] });
      save(...e);
    },
    [save],
  );
  const goTo = useCallback(
    (frame: number) => {
      player.pause();
      player.jump(frame);
    },
    [player],
  );
  useEffect(() => {
    if (state.opensAt === null) return;
    goTo(state.opensAt);
    dispatch({ type: "opened" });
  }, [state.opensAt, goTo]);
  const choose = useCallback(
    (id: string) => {
      dispatch({ type: "position", id });
      dispatch({ type: "light", reading: null });
      if (flags[id] !== undefined) goTo(flags[id]);
    },
    [flags, goTo],
  );
  const light = useCallback(
    (r: Reading | null) => {
      dispatch({ type: "light", reading: r?.id ?? null });
      if (!r) return;
      if (r.clip) {
        // It was read from another clip: that one opens, at the frame.
        dispatch({ type: "clip", id: r.clip, frame: r.evidence?.frame });
      } else if (r.evidence) goTo(r.evidence.frame);
      const cp = model.checkpoints.find((c) => c.id === r.id);
      // Of a repeated group: where the light falls, else the first of them.
      const at =
        model.positions.find(
          (p) =>
            p.id === cp?.position || (p.group === cp?.position && (!r.evidence || flags[p.id] === r.evidence.frame)),
        ) ?? model.positions.find((p) => p.group === cp?.position);
      if (at) dispatch({ type: "position", id: at.id });
    },
    [goTo, model, flags],
  );
  const place = useCallback(
    (p: Place, final: boolean) => {
      const e = bend({ clip: clip!.id, radius: state.radius, work: saved, core }, p);
      if (!final) return dispatch({ type: "drag", edits: [e] });
      edit(e);
      dispatch({ type: "placed" });
    },
    [clip, state.radius, saved, core, edit],
  );
  const flag = useCallback(
    (id: string, frame: number | null) => {
      if (frame !== null && !player.sees(frame)) return;
      edit({ kind: "flag", clip: clip!.id, key: id, value: frame });
      dispatch({ type: "position", id });
    },
    [clip, edit, player],
  );
  const dragFlag = useCallback(
    (id: string, frame: number, final: boolean) => {
      const e: Edit = { kind: "flag", clip: clip!.id, key: id, value: frame };
      if (final) edit(e);
      else dispatch({ type: "drag", edits: [e] });
    },
    [clip, edit],
  );
  const tool = useCallback((t: Tool | null) => dispatch({ type: "tool", tool: t }), []);
  const suspect = (by: 1 | -1) => {
    const d = nextSuspect(suspects, player.get().frame, state.landmark, by);
    if (!d) return;
    goTo(d.frame);
    dispatch({ type: "select", landmark: d.landmark });
  };

  // A line of known length is a tool like others.
  const scaling = useMemo<Tool | null>(() => {
    if (state.mode.is !== "scaling" || !clip) return null;
    const { metres } = state.mode;
    return {
      kind: "line",
      says: t("Drag along the {metres} m", { metres }),
      done: (a, b) => {
        const value = { ax: a[0], ay: a[1], bx: b[0], by: b[1], metres };
        edit({ kind: "scale", clip: clip.id, key: "line", value });
        dispatch({ type: "scale", metres: null });
      },
    };
  }, [state.mode, clip, edit]);
  const active = scaling ?? (state.mode.is === "tool" ? state.mode.tool : null);

  const open: Open = {
    sheet,
    model,
    state,
    dispatch,
    work,
    clip,
    player,
    evaluation,
    circle: circle.data,
    edit,
    more,
    kept,
    tool,
    position,
    choose,
    light,
    suspect,
  };
  const overlays = useOverlays(open);
  const finding = state.panel === "findings" ? shown(open).open : undefined;
  const inSight = useRef<() => [number, number, number, number]>(null);
  const talk = useTalk(
    attempt,
    ready,
    finding && { fault: finding.fault, name: model.faults.find((f) => f.id === finding.fault)?.name ?? finding.fault },
    () => {
      if (!clip || !ready || !inSight.current) return null;
      const { frame, playing, speed } = player.get();
      return {
        clip: clip.id,
        frame,
        speed: playing ? speed : 0,
        view: inSight.current(),
        over: drawnNow(overlays(frame), report?.readings ?? [], model, frame, state.reading),
      };
    },
  );

  const navigate = useNavigate();
  const [linked, setLinked] = useState("");
  const go = (to: "feedback" | "log" | "next") => {
    if (to === "feedback") return void navigate("feedback");
    if (to === "log") return void navigate(`/athlete/${athlete.id}`);
    void nextAfter(attempt)
      .catch(() => undefined) // the queue says what is wrong
      .then((next) => navigate(next ? `/attempt/${next}` : "/"));
  };
  /** link copies the address of this moment. */
  const { panel, fault } = state;
  const link = useCallback(() => {
    const place = placeOf(clips, clip, { panel, fault }, player.get().frame);
    const at = `${window.location.origin}/attempt/${attempt}${write(place)}`;
    void navigator.clipboard.writeText(at).then(
      () => setLinked(t("Copied: the link opens this clip at this frame for everybody of the team.")),
      () => setLinked(at), // no leave to copy: here it is
    );
  }, [attempt, clips, clip, player, panel, fault]);
  const next = useNext(open);
  /** goOn does what the attempt needs next. */
  const goOn = () => {
    if (next.do === "clip") dispatch({ type: "dialog", dialog: "add-clip" });
    else if (next.do === "panel") dispatch({ type: "panel", panel: next.panel });
    else if (next.do === "send") go("feedback");
    else if (next.do === "next") go("next");
  };
  const command = commands({ ...open, asked, undo, redo, talk: talk.toggle, go, goOn, link });

  const curves = useMemo(() => {
    const kinds = evaluation.catalogue?.curves ?? [];
    const ids = state.curves.filter((id) => kinds.some((k) => k.id === id));
    if (!core || !input || !ids.length || !ready) return noCurves;
    return core.curves({ input, ids }).curves.map((curve) => {
      const kind = kinds.find((k) => k.id === curve.id)!;
      return { curve, name: kind.name, unit: kind.unit, band: curve.band };
    });
  }, [core, input, state.curves, evaluation.catalogue, ready]);
  const doubtful = useMemo(() => [...new Set(suspects.map((d) => d.frame))], [suspects]);

  return {
    open,
    companions,
    command,
    next,
    asked,
    active,
    place,
    flag,
    dragFlag,
    overlays,
    inSight,
    talk,
    curves,
    doubtful,
    saving,
    dismiss,
    trouble,
    loaded,
    linked,
    unlink: () => setLinked(""),
  };
}
