import { Box, Button, Flex, Input, NativeSelect, Text, Textarea } from "@chakra-ui/react";
import type { Advice, Drill, Model, Report, Work } from "../../../api/client";
import { useKeepPhrase, usePhrases } from "../api";
import { goal, show } from "../../../ui/numbers";
import { Head, Label, Notice } from "../../../ui/parts";
import { type Open } from "../context";
import { useDraft } from "../../../ui/draft";
import { useOwnDrills } from "../../drills/api";
import { DrillName } from "../../drills/link";
import { Ladder } from "../../../ui/ladder";
import { t } from "../../../texts/texts";
import { written } from "../../../ui/written";

export function Cues({
  model,
  fault: id,
  work,
  young,
  edit,
}: {
  model: Model;
  fault: string;
  work: Work;
  young: boolean;
  edit: Open["edit"];
}) {
  const fault = model.faults.find((f) => f.id === id)!;
  // Short words for children and beginners: first for a child, else at hand.
  const brief = fault.brief
    ? [{ focus: "outward" as const, words: fault.brief, backfire: fault.cues[0]?.backfire ?? "", id: `${id}-brief` }]
    : [];
  const own = fault.cues.map((c, i) => ({ ...c, id: `${id}-${i}` }));
  const cues = young ? [...brief, ...own] : [...own, ...brief];
  const give = (slot: "main" | "second", c: (typeof cues)[number]) => {
    edit({
      kind: "advice",
      key: slot,
      value: {
        fault: id,
        focus: c.focus,
        words: c.words,
        backfire: c.backfire,
        drill: fault.drills[0],
        target: fault.target,
      } satisfies Advice,
    });
  };
  return (
    <Box mb="12px">
      <Head>{t("Cues for it")}</Head>
      {fault.setting && (
        <Text fontSize="12px" color="quiet" mb="4px">
          {t("Mostly a matter of the block setting: see “What if”.")}
        </Text>
      )}
      {cues.map((c) => (
        <Flex key={c.id} align="center" gap="6px" py="2px">
          <Text flex="1">“{c.words}”</Text>
          <Text fontSize="11px" color="quiet">
            {c.id.endsWith("brief") ? t("short") : c.focus}
          </Text>
          <Button
            size="xs"
            variant={work.advice.main?.words === c.words ? "solid" : "outline"}
            onClick={() => give("main", c)}
            data-cue={c.id}
          >
            {t("Main")}
          </Button>
          <Button
            size="xs"
            variant={work.advice.second?.words === c.words ? "solid" : "outline"}
            disabled={!work.advice.main}
            onClick={() => give("second", c)}
          >
            {t("Second")}
          </Button>
        </Flex>
      ))}
    </Box>
  );
}

/** Given shows the advice and lets the coach put it in own words. */
export function Given({ model, report, work, edit }: { model: Model; report: Report; work: Work; edit: Open["edit"] }) {
  const kept = useOwnDrills();
  return (
    <Box borderTop="1px solid" borderColor="seam" pt="10px">
      {(["main", "second"] as const).map((slot) => {
        const a = work.advice[slot];
        if (!a) return null;
        const fault = model.faults.find((f) => f.id === a.fault);
        // The model's drills for the fault, and the team's own.
        const choices: Drill[] = [
          ...(fault?.drills ?? []),
          ...(kept.data ?? [])
            .filter((d) => d.for.some((f) => f.event === model.id && f.fault === a.fault))
            .map(({ name, dose, says, ladder, feel, go_on, stop }) => ({
              name,
              dose: { ...dose, says },
              ladder,
              feel,
              go_on,
              stop,
            })),
        ];
        const cp = a.checkpoint ?? model.checkpoints.find((c) => c.id === a.target)!;
        const now = report.readings.find((r) => r.id === a.target)?.value;
        const put = (change: Partial<Advice>) => edit({ kind: "advice", key: slot, value: { ...a, ...change } });
        const s = now && show(now, cp.unit);
        return (
          <Box key={slot} mb="12px" data-advice={slot}>
            <Head
              tone="clay"
              right={
                <Button
                  size="xs"
                  variant="ghost"
                  h="20px"
                  onClick={() => edit({ kind: "advice", key: slot, value: null })}
                >
                  {t("Remove")}
                </Button>
              }
            >
              {slot === "main" ? t("The cue") : t("Second cue, once the first is easy")}
            </Head>
            <Words
              label={slot === "main" ? t("The cue") : t("The second cue")}
              value={a.words}
              onDone={(words) => words && put({ words })}
            />
            {a.backfire && (
              <Notice my="6px">
                <Text>{t("If overdone: {backfire}", { backfire: a.backfire })}</Text>
              </Notice>
            )}
            <Flex gap="8px">
              <Box flex="1">
                <Label>{t("Drill")}</Label>
                <NativeSelect.Root size="sm">
                  <NativeSelect.Field
                    aria-label={t("Drill")}
                    value={a.drill.name}
                    onChange={(e) =>
                      put({
                        drill: choices.find((d) => d.name === e.target.value) ?? { name: "", dose: {}, feel: "" },
                      })
                    }
                    bg="raised"
                    borderColor="seam"
                  >
                    {choices.map((d) => (
                      <option key={d.name}>{d.name}</option>
                    ))}
                    <option value="">{t("no drill")}</option>
                  </NativeSelect.Field>
                  <NativeSelect.Indicator />
                </NativeSelect.Root>
              </Box>
              <Box flex="1">
                <Label>{t("Sets and reps")}</Label>
                <Line
                  label={t("Sets and reps")}
                  value={a.drill.dose.says ?? ""}
                  onDone={(says) => put({ drill: { ...a.drill, dose: { says } } })}
                />
              </Box>
            </Flex>
            <Text fontSize="12px" mt="3px">
              <DrillName name={a.drill.name} says={t("How it goes")} />
            </Text>
            <Ladder drill={a.drill} />
            <Text fontSize="12px" mt="6px">
              <Text as="span" color="quiet">
                {t("Next clip should show")}{" "}
              </Text>
              <Text as="span" color="amber" fontWeight="600">
                {cp.name.toLowerCase()} {goal(cp)}
              </Text>
              {s && (
                <Text as="span" color="quiet">
                  {" "}
                  {t("(now {value}{unit} {half})", {
                    value: written(s.value),
                    unit: s.unit && " " + s.unit,
                    half: s.half,
                  })}
                </Text>
              )}
            </Text>
          </Box>
        );
      })}
      <Label>{t("Message to the athlete")}</Label>
      <Box data-testid="note">
        <Words
          label={t("Message to the athlete")}
          value={work.note}
          rows={2}
          onDone={(note) => edit({ kind: "note", key: "athlete", value: note || null })}
        />
        <Phrases note={work.note} onNote={(note) => edit({ kind: "note", key: "athlete", value: note })} />
      </Box>
    </Box>
  );
}

/** Phrases are the coach's own turns of phrase, put behind the note by one click; a
 * good note can become one. */
function Phrases({ note, onNote }: { note: string; onNote(v: string): void }) {
  const phrases = usePhrases().data ?? [];
  const keep = useKeepPhrase();
  return (
    <Flex wrap="wrap" gap="4px" mt="5px">
      {phrases.map((p) => (
        <Button
          key={p}
          size="2xs"
          variant="outline"
          maxW="100%"
          title={p}
          onClick={() => onNote(note ? `${note} ${p}` : p)}
        >
          <Text as="span" truncate>
            {p}
          </Text>
        </Button>
      ))}
      {note && !phrases.includes(note) && note.length <= 200 && (
        <Button size="2xs" variant="ghost" onClick={() => keep.mutate({ says: note, keep: true })}>
          {t("Save as a quick phrase")}
        </Button>
      )}
    </Flex>
  );
}

/** Words saves when the hand leaves it, not at each letter. */
function Words({
  label,
  value,
  onDone,
  rows = 2,
}: {
  label: string;
  value: string;
  onDone(v: string): void;
  rows?: number;
}) {
  const [text, setText] = useDraft(value);
  return (
    <Textarea
      aria-label={label}
      value={text}
      rows={rows}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text.trim() !== value && onDone(text.trim())}
      fontWeight="500"
      maxLength={300}
    />
  );
}

function Line({ label, value, onDone }: { label: string; value: string; onDone(v: string): void }) {
  const [text, setText] = useDraft(value);
  return (
    <Input
      aria-label={label}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text !== value && onDone(text)}
      maxLength={120}
    />
  );
}
