import { memo } from "react";
import { Link } from "react-router";
import type { QuestionInput, QuestionValue } from "../../api/client";
import { readNumber, NumberField } from "../../ui/decimal";
import { useDraft } from "../../ui/draft";
import { Choice } from "../../ui/field";
import { dayAndYear, fixed } from "../../ui/written";
import { t } from "../../texts/texts";
import { decimals, same, told, type Known, type Variant } from "./reckon";

type Change = (input: string, v: QuestionValue | undefined) => void;

/** Inputs are the numbers of a question: one row each, a column for each variant, and a slider for
 * the one at hand. */
export function Inputs({
  inputs,
  variants,
  at,
  known,
  onChange,
}: {
  inputs: QuestionInput[];
  variants: Variant[];
  at: number;
  known?: Known;
  onChange: Change;
}) {
  const more = inputs.filter((i) => i.more);
  const row = (i: QuestionInput) => (
    <Row key={i.id} i={i} values={variants.map((v) => v.values[i.id])} at={at} known={known} onChange={onChange} />
  );
  return (
    <div data-testid="inputs">
      {inputs.filter((i) => !i.more).map(row)}
      {more.length > 0 && (
        <details>
          <summary>{t("{count} more inputs", { count: more.length })}</summary>
          {more.map(row)}
        </details>
      )}
    </div>
  );
}

const Row = memo(
  function Row({
    i,
    values,
    at,
    known,
    onChange,
  }: {
    i: QuestionInput;
    values: (QuestionValue | undefined)[];
    at: number;
    known?: Known;
    onChange: Change;
  }) {
    const v = values[at];
    const t0 = told(i, known);
    return (
      <div className={values.length > 1 ? "input many" : "input"} data-input={i.id}>
        <div className="name">
          <span>
            {i.name}
            {i.unit && <small>{"\u00a0" + i.unit}</small>}
          </span>
          {known && <Source v={v} told={t0} i={i} onTake={() => onChange(i.id, t0!.value)} />}
        </div>
        {i.list ? (
          <Listed i={i} v={v} onChange={onChange} />
        ) : (
          <div className="cells">
            {values.map((x, n) =>
              n === at ? <Cell key={n} i={i} v={x} onChange={onChange} /> : <Shown key={n} i={i} v={x} />,
            )}
          </div>
        )}
        {!i.list && !i.options && (
          <input
            type="range"
            aria-label={t("{name}, slider", { name: i.name })}
            min={i.lo}
            max={i.hi}
            step={i.step}
            value={v?.value ?? i.usual}
            data-empty={v ? undefined : ""}
            onChange={(e) => onChange(i.id, { value: Number(e.target.value), half: v?.half ?? i.doubt })}
          />
        )}
      </div>
    );
  },
  (a, b) =>
    a.i === b.i &&
    a.at === b.at &&
    a.known === b.known &&
    a.onChange === b.onChange &&
    a.values.length === b.values.length &&
    a.values.every((v, n) => v === b.values[n]),
);

/** Source says where a number comes from, and takes it again when another was typed. */
function Source({
  v,
  told: from,
  i,
  onTake,
}: {
  v?: QuestionValue;
  told: ReturnType<typeof told>;
  i: QuestionInput;
  onTake(): void;
}) {
  if (!from)
    return (
      <small className="source">
        {v ? (v.value === i.usual && !i.list ? t("usual") : t("by hand")) : i.optional ? t("left out") : ""}
      </small>
    );
  const s = from.source;
  const name = { clip: t("clip"), log: t("log"), card: t("card") }[s.from];
  const when = "done_on" in s && s.done_on ? dayAndYear(s.done_on) : "";
  if (!same(v, from.value))
    return (
      <button type="button" className="source take" onClick={onTake} title={t("Take it from there again")}>
        {from.value.list
          ? t("take from {name}", { name })
          : t("take {value} from {name}", { value: fixed(from.value.value, 2), name })}
      </button>
    );
  return (
    <small className="source" data-from={s.from}>
      {s.attempt_id ? <Link to={`/attempt/${s.attempt_id}`}>{[name, when].join(" ")}</Link> : name}
    </small>
  );
}

function Cell({ i, v, onChange }: { i: QuestionInput; v?: QuestionValue; onChange: Change }) {
  if (i.options)
    return (
      <Choice
        small
        label={i.name}
        value={String(v?.value ?? i.usual)}
        options={Object.fromEntries(i.options.map((o) => [String(o.value), o.name]))}
        onChange={(x) => onChange(i.id, { value: Number(x), half: 0 })}
      />
    );
  return (
    <span className="cell">
      <NumberField
        size="xs"
        bg="raised"
        w="64px"
        px="6px"
        textAlign="right"
        aria-label={i.name}
        value={v && Number(v.value.toFixed(decimals(i) + 1))}
        least={i.lo}
        most={i.hi}
        whole={i.whole}
        onValue={(n) => {
          if (n !== undefined) onChange(i.id, { value: n, half: v?.half ?? i.doubt });
          else if (i.optional) onChange(i.id, undefined);
        }}
      />
      {!i.whole && v && (i.doubt > 0 || v.half > 0) && (
        <label className="half">
          ±
          <NumberField
            size="xs"
            bg="raised"
            w="44px"
            px="4px"
            aria-label={t("{name}, doubt", { name: i.name })}
            value={Number((v.half < 0 ? i.doubt : v.half).toFixed(decimals(i) + 1))}
            least={0}
            onValue={(n) => n !== undefined && onChange(i.id, { value: v.value, half: n })}
          />
        </label>
      )}
    </span>
  );
}

function Shown({ i, v }: { i: QuestionInput; v?: QuestionValue }) {
  const text = i.options
    ? i.options.find((o) => o.value === v?.value)?.name
    : v && fixed(v.value, Math.min(3, decimals(i)));
  return <span className="shown">{text ?? "–"}</span>;
}

/** Listed is one of several values: one after the other, with spaces or semicolons between. */
function Listed({ i, v, onChange }: { i: QuestionInput; v?: QuestionValue; onChange: Change }) {
  const [text, setText] = useDraft((v?.list ?? []).map((n) => fixed(n, decimals(i))).join("  "));
  const read = (s: string) =>
    s
      .split(/[\s;]+/)
      .filter(Boolean)
      .map((w) => readNumber(w) ?? NaN);
  const numbers = read(text);
  const wrong = numbers.filter((n) => Number.isNaN(n) || n < i.lo || n > i.hi).length;
  return (
    <div className="list">
      <textarea
        aria-label={i.name}
        rows={2}
        value={text}
        aria-invalid={wrong > 0}
        onChange={(e) => {
          setText(e.target.value);
          const list = read(e.target.value);
          if (list.every((n) => !Number.isNaN(n)))
            onChange(i.id, list.length ? { value: 0, half: -1, list } : undefined);
        }}
      />
      <small className={wrong ? "wrong" : undefined}>
        {wrong
          ? t("{count} of these are no numbers from {lo} to {hi}: write 0.12 −0.05 …", {
              count: wrong,
              lo: fixed(i.lo),
              hi: fixed(i.hi),
            })
          : numbers.length
            ? t("{count} values", { count: numbers.length })
            : t("one for each, with a space between")}
      </small>
    </div>
  );
}
