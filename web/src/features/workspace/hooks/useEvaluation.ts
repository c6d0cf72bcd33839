import { replaceEqualDeep } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import type { Calls, Clip, ClipWork, Work, Workspace } from "../../../api/client";
import { loadCore, openSession, type Core, type Input } from "../../../core/core";
import { t } from "../../../texts/texts";

/** useCore loads the core when the workspace opens. */
export function useCore() {
  const [core, setCore] = useState<Core | null>(null);
  const [trouble, setTrouble] = useState("");
  useEffect(() => void loadCore().then(setCore, (e: Error) => setTrouble(e.message)), []);
  return { core, trouble };
}

/** sharing keeps parts of an answer that did not change identical, so that a drag draws
 * anew only what it moves. */
function sharing<T>() {
  let last: T | undefined;
  return { next: (now: T) => (last = replaceEqualDeep(last, now)), last: () => last };
}

const noPoints: ClipWork["points"] = {};
const noFlags: Record<string, number> = {};
const noSuspects: Calls["suspects_answer"]["suspects"] = [];

/** useEvaluation is everything that follows from the work on a clip, computed anew when
 * something of it changes. While a hand moves, what is not under it waits. */
export function useEvaluation(
  sheet: Workspace,
  clip: Clip | undefined,
  work: Work,
  loaded: Core | null,
  moving: boolean,
  companions: Input["companions"],
) {
  const { model, athlete, attempt, age, before } = sheet;
  const ready = clip?.state === "ready";
  const clipWork = clip ? work.clips[clip.id] : undefined;
  const points = clipWork?.points ?? noPoints;
  const ownFlags = clipWork?.flags ?? noFlags; // the coach's own; -1 is not there
  const session = useMemo(() => loaded && openSession(loaded), [loaded]);
  const core = useMemo(() => session && clip && session(model, clip.id, points), [session, model, clip, points]);
  const checkpoint = before?.advice.checkpoint ?? work.advice.main?.checkpoint ?? work.advice.second?.checkpoint;
  const extra = useMemo(() => (checkpoint ? [checkpoint] : []), [checkpoint]);
  const input = useMemo<Input | null>(() => {
    if (!clip) return null;
    const { width, height, stamps, file_rate, capture_rate, pictures, view, direction, camera, contacts } = clip;
    const { sex, height: tall, mass, front_leg, throwing_hand, takeoff_leg } = athlete;
    return {
      model: model.id,
      variant: attempt.variant,
      athlete: { sex, height: tall, mass, age, front_leg, throwing_hand, takeoff_leg },
      clip: { width, height, stamps, file_rate, capture_rate, pictures, view, direction },
      flags: ownFlags,
      answers: work.answers,
      scale: clipWork?.scale,
      ground: clipWork?.ground,
      camera,
      contacts,
      implement: attempt.implement,
      mark: attempt.mark,
      hold_throw: moving,
      extra,
      companions,
    };
  }, [
    companions,
    moving,
    attempt,
    clip,
    ownFlags,
    work.answers,
    clipWork?.scale,
    clipWork?.ground,
    extra,
    athlete,
    age,
    model.id,
  ]);

  const [kept] = useState(() => sharing<Calls["evaluate_answer"]>());
  const [answer, broken] = useMemo((): [Calls["evaluate_answer"] | undefined, string] => {
    if (!core || !input || !ready) return [undefined, ""];
    try {
      return [
        kept.next(
          core.evaluate({
            input,
            target: before?.advice.target,
            before: before?.value,
            decisions: work.findings,
            refused: sheet.refused,
          }),
        ),
        "",
      ];
    } catch (e) {
      return [
        kept.last(),
        t(
          "The numbers cannot be computed anew: {message}. What you place and flag is saved all the same; take the last change back, or reload.",
          { message: (e as Error).message },
        ),
      ];
    }
  }, [core, input, ready, before, work.findings, sheet.refused, kept]);
  const report = answer?.report;
  // Flags in effect: the coach's, and where he set none those that the tool found.
  const flags = useMemo(() => {
    const all = Object.fromEntries(
      (report?.positions ?? []).flatMap((p) => (p.frame === undefined ? [] : [[p.id, p.frame]])),
    );
    for (const [id, f] of Object.entries(ownFlags)) if (f >= 0) all[id] = f;
    return all as Record<string, number>;
  }, [report?.positions, ownFlags]);
  const catalogue = useMemo(() => loaded?.catalogue({}), [loaded]);
  const suspects = useMemo(
    () => (core && input && ready && !moving ? core.suspects({ input }).suspects : noSuspects),
    [core, input, ready, moving],
  );
  return {
    core,
    input,
    ready,
    clipWork,
    points,
    ownFlags,
    flags,
    report,
    listed: answer?.listed,
    effect: answer?.effect,
    broken,
    catalogue,
    suspects,
  };
}

export type Evaluation = ReturnType<typeof useEvaluation>;
