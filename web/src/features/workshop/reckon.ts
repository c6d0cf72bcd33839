import { useEffect, useState } from "react";
import type {
  Place,
  Question,
  QuestionAnswer,
  QuestionInput,
  QuestionValue,
  TrackNote,
  Workshop,
  WorkshopCalls,
} from "../../api/client";
import { workshopKeys } from "../../api/keep";
import { openModule } from "../../core/core";
import { t } from "../../texts/texts";
import { recall, remember } from "../../ui/recall";

// The workshop's computation is a WebAssembly module of its own: it answers under a moving slider,
// and at the track without a network.

export type Values = Record<string, QuestionValue>;
export type Variant = { name: string; values: Values };
/** Sheet is a question with its variants, one of which is at hand, and what was told when it was
 * filled. */
export type Sheet = { variants: Variant[]; at: number; told?: Values };
export type Known = Pick<Workshop, "facts" | "lists" | "path">;
export type Answered = { answer?: QuestionAnswer; refused?: string };

export type Reckoner = {
  questions(event: string): Question[];
  angle(points: { x: number; y: number }[], sigma: number): WorkshopCalls["angle_answer"];
  join(notes: TrackNote[], series: WorkshopCalls["join"]["series"]): WorkshopCalls["join_answer"];
  ask(question: string, values: Values, path?: Place[]): Answered;
};

let loading: Promise<Reckoner> | undefined;

export function loadReckoner(): Promise<Reckoner> {
  loading ??= openModule("workshop.wasm")
    .then(({ call }) => ({
      questions: (event: string) => (call("questions", { event }) as WorkshopCalls["questions_answer"]).questions,
      angle: (points: { x: number; y: number }[], sigma: number) =>
        call("angle", { points, sigma }) as WorkshopCalls["angle_answer"],
      join: (notes: TrackNote[], series: WorkshopCalls["join"]["series"]) =>
        call("join", { notes, series }) as WorkshopCalls["join_answer"],
      ask: (question: string, values: Values, path?: Place[]) =>
        call("ask", { question, values, path }) as WorkshopCalls["ask_answer"],
    }))
    .catch((e) => {
      loading = undefined;
      throw e;
    });
  return loading;
}

/** useReckoner is the computation once it is here, or why it is not. */
export function useReckoner(): { reckoner?: Reckoner; failed?: string } {
  const [got, set] = useState<{ reckoner?: Reckoner; failed?: string }>({});
  useEffect(() => {
    let gone = false;
    loadReckoner().then(
      (reckoner) => gone || set({ reckoner }),
      (e: Error) => gone || set({ failed: e.message }),
    );
    return () => {
      gone = true;
    };
  }, []);
  return got;
}

/** decimals of an input, by its step. */
export const decimals = (i: QuestionInput) => Math.max(0, Math.ceil(-Math.log10(i.step || 1) - 1e-9));

const round = (v: number, digits: number) => Number(v.toFixed(digits));

/** told is what clips, log or card tell of an input, when somebody can have it. */
export function told(i: QuestionInput, known?: Known) {
  if (!i.fact || !known) return;
  if (i.list) {
    const l = known.lists[i.fact];
    return l && { value: { value: 0, half: -1, list: l.values.map((v) => round(v, 2)) }, source: l };
  }
  const f = known.facts[i.fact];
  if (!f || f.value < i.lo || f.value > i.hi) return;
  const digits = decimals(i) + (i.options ? 0 : 1);
  return { value: { value: round(f.value, digits), half: round(f.half, 4) }, source: f };
}

/** filled are the values of a question: told ones, else the usual. */
export function filled(q: Question, known?: Known): Values {
  const out: Values = {};
  for (const i of q.inputs) {
    const from = told(i, known);
    if (from) out[i.id] = from.value;
    else if (!i.list && !i.optional) out[i.id] = { value: i.usual, half: i.doubt };
  }
  return out;
}

/** What is reckoned with outlives the page: by athlete, event and question. */
const keyOf = (athlete: string, q: Question, event: string) => `${workshopKeys}${athlete || "own"}.${event}.${q.id}`;

/** begun is a sheet as it was left; numbers that nobody has changed are as they are told now. */
export function begun(athlete: string, event: string, q: Question, known?: Known): Sheet | undefined {
  const s = recall<Partial<Sheet>>(keyOf(athlete, q, event), {});
  const sound =
    Array.isArray(s.variants) &&
    s.variants.length > 0 &&
    s.variants.length <= 4 &&
    s.variants.every((v) => typeof v?.name === "string" && v.values && typeof v.values === "object");
  if (!sound) return;
  const before = s.told ?? {};
  const now = toldOf(q, known);
  const renewed = (values: Values) => {
    const out = { ...values };
    for (const [id, v] of Object.entries(now)) if (same(values[id], before[id])) out[id] = v;
    return out;
  };
  return {
    variants: s.variants!.map((v) => ({ ...v, values: renewed(v.values) })),
    at: Math.min(Math.max(0, s.at ?? 0), s.variants!.length - 1),
    told: now,
  };
}

/** same tells whether two values are one. */
export const same = (a?: QuestionValue, b?: QuestionValue) =>
  a?.value === b?.value && String(a?.list ?? "") === String(b?.list ?? "");

const toldOf = (q: Question, known?: Known) =>
  Object.fromEntries(
    q.inputs.flatMap((i) => {
      const x = told(i, known);
      return x ? [[i.id, x.value]] : [];
    }),
  );

/** fresh is a sheet with one variant, filled. */
export const fresh = (q: Question, known?: Known): Sheet => ({
  variants: [{ name: t("as it is"), values: filled(q, known) }],
  at: 0,
  told: toldOf(q, known),
});

export const goesOn = (athlete: string, event: string, q: Question, s: Sheet) => remember(keyOf(athlete, q, event), s);
