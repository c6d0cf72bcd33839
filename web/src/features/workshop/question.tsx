import { memo, useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
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

/** Tries are the variants by their names, which stand in lines. */
const Tries = memo(function Tries({
  names,
  at,
  onChoose,
  onMore,
  onRename,
  onDrop,
}: {
  names: string;
  at: number;
  onChoose(at: number): void;
  onMore(): void;
  onRename(name: string): void;
  onDrop(): void;
}) {
  const list = names.split("\n");
  return (
    <Flex gap="6px" wrap="wrap" mb="8px" align="center" role="group" aria-label={t("Variants")}>
      {list.map((name, n) => (
        <Button
          key={n}
          size="xs"
          variant="outline"
          bg={n === at ? "raised" : undefined}
          borderColor={n === at ? "chalk" : "seam"}
          aria-pressed={n === at}
          onClick={() => onChoose(n)}
        >
          {name}
        </Button>
      ))}
      {list.length < letters.length && (
        <Button
          size="xs"
          variant="ghost"
          data-testid="another"
          title={t("A second try beside this one, with the same numbers to begin with")}
          onClick={onMore}
        >
          {t("+ Beside it")}
        </Button>
      )}
      {list.length > 1 && (
        <>
          <Box flex="1" />
          <input
            className="rename"
            aria-label={t("Name of this variant")}
            maxLength={60}
            value={list[at]}
            onChange={(e) => onRename(e.target.value)}
          />
          <Button size="xs" variant="ghost" onClick={onDrop}>
            {t("Take out")}
          </Button>
        </>
      )}
    </Flex>
  );
});

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
  const names = sheet.variants.map((v) => v.name).join("\n");
  const act = useCallback(
    (f: (s: Sheet) => Sheet) => {
      latest.current = f(latest.current);
      put(latest.current);
    },
    [put],
  );
  const choose = useCallback((at: number) => act((s) => ({ ...s, at })), [act]);
  const more = useCallback(
    () =>
      act((s) => {
        const name = letters
          .map((letter) => t("try {letter}", { letter }))
          .find((l) => s.variants.every((v) => v.name !== l))!;
        return {
          ...s,
          variants: [...s.variants, { name, values: { ...s.variants[s.at].values } }],
          at: s.variants.length,
        };
      }),
    [act],
  );
  const rename = useCallback(
    (name: string) =>
      act((s) => ({ ...s, variants: s.variants.map((v, n) => (n === s.at ? { ...v, name: name || " " } : v)) })),
    [act],
  );
  const drop = useCallback(
    () => act((s) => ({ ...s, variants: s.variants.filter((_, n) => n !== s.at), at: Math.max(0, s.at - 1) })),
    [act],
  );
  const layers = answers.map((a, n) => ({
    drawing: a.answer?.drawing ?? { view: "side" as const, shapes: [] },
    name: sheet.variants[n].name,
  }));
  const drawn = answers[sheet.at]?.answer?.drawing ?? answers.find((a) => a.answer?.drawing)?.answer?.drawing;
  return (
    <div className={narrow ? "asked narrow" : "asked"} data-testid="asked" data-question={q.id}>
      <Tries names={names} at={sheet.at} onChoose={choose} onMore={more} onRename={rename} onDrop={drop} />
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
