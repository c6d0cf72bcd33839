import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import type { Place, Question } from "../../api/client";
import { t } from "../../texts/texts";
import { Answers } from "./answer";
import { Drawn } from "./drawing";
import { Inputs } from "./inputs";
import { begun, fresh, goesOn, type Answered, type Known, type Reckoner, type Sheet, type Values } from "./reckon";

const letters = ["A", "B", "C", "D"];

/** useSheet is a question with its variants: as it was left, or filled with what is known. */
export function useSheet(athlete: string, event: string, q: Question, known?: Known) {
  const [sheet, set] = useState<Sheet>(() => begun(athlete, event, q, known) ?? fresh(q, known));
  const put = useCallback(
    (s: Sheet) => {
      set(s);
      goesOn(athlete, event, q, s);
    },
    [athlete, event, q],
  );
  return [sheet, put] as const;
}

/** useAnswers asks for each variant that has changed; the others keep their answers. */
export function useAnswers(reckoner: Reckoner, q: Question, sheet: Sheet, path?: Place[]): Answered[] {
  const [kept] = useState(() => new WeakMap<Values, { path?: Place[]; answered: Answered }>());
  return useMemo(
    () =>
      sheet.variants.map((v) => {
        const had = kept.get(v.values);
        if (had && had.path === path) return had.answered;
        const answered = reckoner.ask(q.id, v.values, path);
        kept.set(v.values, { path, answered });
        return answered;
      }),
    [kept, reckoner, q, sheet.variants, path],
  );
}

/** useWidth follows the width of an element. */
function useWidth() {
  const ref = useRef<HTMLDivElement>(null);
  const [width, set] = useState(0);
  useLayoutEffect(() => {
    const watch = new ResizeObserver(([e]) => set(e.contentRect.width));
    watch.observe(ref.current!);
    return () => watch.disconnect();
  }, []);
  return [ref, width] as const;
}

/** Asked is a question at work: variants, drawing, inputs and answers. */
export function Asked({
  q,
  sheet,
  put,
  answers,
  known,
  narrow,
}: {
  q: Question;
  sheet: Sheet;
  put(s: Sheet): void;
  answers: Answered[];
  known?: Known;
  /** it stands in a panel */
  narrow?: boolean;
}) {
  const [ref, width] = useWidth();
  const latest = useRef(sheet);
  useEffect(() => {
    latest.current = sheet;
  });
  const change = useCallback(
    (input: string, v?: { value: number; half: number; list?: number[] }) => {
      const s = latest.current;
      const values = { ...s.variants[s.at].values };
      if (v) values[input] = v;
      else delete values[input];
      const next = { ...s, variants: s.variants.map((x, n) => (n === s.at ? { ...x, values } : x)) };
      latest.current = next;
      put(next);
    },
    [put],
  );
  const layers = answers.map((a, n) => ({
    drawing: a.answer?.drawing ?? { view: "side" as const, shapes: [] },
    name: sheet.variants[n].name,
  }));
  const drawn = answers[sheet.at]?.answer?.drawing ?? answers.find((a) => a.answer?.drawing)?.answer?.drawing;
  return (
    <div className={narrow ? "asked narrow" : "asked"} data-testid="asked" data-question={q.id}>
      <Flex gap="6px" wrap="wrap" mb="8px" align="center" role="group" aria-label={t("Variants")}>
        {sheet.variants.map((v, n) => (
          <Button
            key={n}
            size="xs"
            variant="outline"
            bg={n === sheet.at ? "raised" : undefined}
            borderColor={n === sheet.at ? "chalk" : "seam"}
            aria-pressed={n === sheet.at}
            onClick={() => put({ ...sheet, at: n })}
          >
            {v.name}
          </Button>
        ))}
        {sheet.variants.length < 4 && (
          <Button
            size="xs"
            variant="ghost"
            data-testid="another"
            title={t("A second try beside this one, with the same numbers to begin with")}
            onClick={() => {
              const n = sheet.variants.length;
              const name = letters
                .map((l) => t("try {letter}", { letter: l }))
                .find((l) => sheet.variants.every((v) => v.name !== l))!;
              put({
                ...sheet,
                variants: [...sheet.variants, { name, values: { ...sheet.variants[sheet.at].values } }],
                at: n,
              });
            }}
          >
            {t("+ Beside it")}
          </Button>
        )}
        {sheet.variants.length > 1 && (
          <>
            <Box flex="1" />
            <input
              className="rename"
              aria-label={t("Name of this variant")}
              maxLength={60}
              value={sheet.variants[sheet.at].name}
              onChange={(e) =>
                put({
                  ...sheet,
                  variants: sheet.variants.map((v, n) => (n === sheet.at ? { ...v, name: e.target.value || " " } : v)),
                })
              }
            />
            <Button
              size="xs"
              variant="ghost"
              onClick={() =>
                put({
                  ...sheet,
                  variants: sheet.variants.filter((_, n) => n !== sheet.at),
                  at: Math.max(0, sheet.at - 1),
                })
              }
            >
              {t("Take out")}
            </Button>
          </>
        )}
      </Flex>
      <div className="both">
        <div className="in">
          <Inputs inputs={q.inputs} variants={sheet.variants} at={sheet.at} known={known} onChange={change} />
        </div>
        <div ref={ref} className="picture">
          {drawn && width > 0 && (
            <Drawn
              layers={layers}
              at={answers[sheet.at]?.answer?.drawing ? sheet.at : answers.findIndex((a) => a.answer?.drawing)}
              width={width}
              height={narrow ? 190 : 330}
              label={t("{name}, drawn to scale", { name: q.name })}
            />
          )}
        </div>
        <div className="out">
          <Answers variants={sheet.variants} answers={answers} at={sheet.at} />
          <Text fontSize="11.5px" color="quiet" mt="12px">
            {t("Reckoned by: {source}", { source: q.source })}
          </Text>
        </div>
      </div>
    </div>
  );
}
