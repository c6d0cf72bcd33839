import type { AnswerLine } from "../../api/client";
import { inUnits } from "../../ui/numbers";
import { Notice } from "../../ui/parts";
import { fixed } from "../../ui/written";
import { t } from "../../texts/texts";
import type { Answered, Variant } from "./reckon";

const space = (unit: string) => (unit === "°" || !unit ? unit : " " + unit);

type Written = Pick<AnswerLine, "value" | "digits" | "unit">;

/** number writes a line as far as its doubt carries it, in the units of who reads it. */
export const number = (l: Written) => {
  const [unit, k] = inUnits(l.unit);
  return fixed(l.value.value * k, l.digits) + space(unit);
};

export const doubt = (l: Written) =>
  l.value.half95 > 0 ? `±${fixed(l.value.half95 * inUnits(l.unit)[1], l.digits)}` : "";

/** Answers are the numbers that each variant comes to, and the judgement of the one at hand. */
export function Answers({ variants, answers, at }: { variants: Variant[]; answers: Answered[]; at: number }) {
  const now = answers[at];
  const lines = now?.answer?.lines ?? answers.find((a) => a.answer)?.answer?.lines ?? [];
  const first = (id: string) => answers[0]?.answer?.lines.find((l) => l.id === id);
  return (
    <div data-testid="answers">
      {now?.refused && (
        <Notice tone="clay" mb="8px" data-testid="refused">
          {now.refused}
        </Notice>
      )}
      {now?.answer && (
        <div data-testid="says">
          {now.answer.says.map((s) => (
            <p key={s}>{s}</p>
          ))}
        </div>
      )}
      <table className="answers">
        {variants.length > 1 && (
          <thead>
            <tr>
              <td />
              {variants.map((v, n) => (
                <th key={n} scope="col" aria-current={n === at || undefined}>
                  {v.name}
                </th>
              ))}
            </tr>
          </thead>
        )}
        <tbody>
          {lines.map((l) => (
            <tr key={l.id} data-line={l.id} className={l.main ? "main" : undefined}>
              <th scope="row">{l.name}</th>
              {answers.map((a, n) => {
                const x = a.answer?.lines.find((y) => y.id === l.id);
                const f = n > 0 && x ? first(l.id) : undefined;
                const by = f ? (x!.value.value - f.value.value) * inUnits(l.unit)[1] : 0;
                return (
                  <td key={n} data-variant={n}>
                    {x ? (
                      <>
                        <b>{number(x)}</b> <small>{doubt(x)}</small>
                        {Math.abs(by) >= 0.5 * 10 ** -l.digits && (
                          <small className="by">{(by > 0 ? "+" : "") + fixed(by, l.digits)}</small>
                        )}
                      </>
                    ) : (
                      "–"
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      {now?.answer && (
        <>
          <p className="surer">{t("Surer by: {surer}", { surer: now.answer.surer })}</p>
          {now.answer.caution && (
            <Notice tone="amber" mt="10px">
              {now.answer.caution}
            </Notice>
          )}
        </>
      )}
    </div>
  );
}
