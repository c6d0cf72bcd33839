import { Box, Button, Flex, Input, NativeSelect, Text, Textarea } from "@chakra-ui/react";
import { Fragment, useEffect, useState } from "react";
import type { Advice, Model, Report, Work } from "../../../api/client";
import { useKeepPhrase, usePhrases } from "../api";
import { Causes, inOrder } from "../../models/causes";
import { goal, minus, show } from "../../../ui/numbers";
import { Head, Label, Notice } from "../../../ui/parts";
import { useOpen, type Open } from "../context";
import { shown } from "../findings";

/** FindingsPanel: what to keep, the row of causes, each fault with its evidence, and
 * the one cue that comes of it. */
export function FindingsPanel() {
  const w = useOpen();
  const { model, work, edit, dispatch, sheet } = w;
  const report = w.evaluation.report!;
  const { list, setAside, open: finding } = shown(w);
  const onLight = w.light;
  const onFinding = (fault: string) => dispatch({ type: "fault", id: fault });
  const fault = (id: string) => model.faults.find((f) => f.id === id)!;
  const readings = new Map(report.readings.map((r) => [r.id, r]));
  const cp = (id: string) => model.checkpoints.find((c) => c.id === id)!;
  const position = (id: string) =>
    (model.positions.find((p) => p.id === id) ?? model.repeat?.positions.find((p) => p.id === id))!;
  const likely = report.possible.filter((f) => f.certainty === "likely");
  const undecided = report.possible.filter((f) => f.certainty === "open");
  const says = (id: string) => {
    const r = readings.get(id)!;
    const c = cp(id);
    const where = position(c.position).short;
    if (!r.value) return `${c.name}, ${where}: your answer${r.note ? `, “${r.note}”` : ""}`;
    const s = show(r.value, c.unit);
    return `${c.name}, ${where}: ${s.value}${s.unit && " " + s.unit} ${s.half} (wanted ${goal(c)})`;
  };
  return (
    <Box>
      <Head tone="moss">Keep</Head>
      {report.strengths.length === 0 && (
        <Text color="quiet" fontSize="12px">
          Nothing is met yet. Flag positions, place points, answer what is asked.
        </Text>
      )}
      <Box as="ul" mb="12px" display="grid" gap="1px">
        {report.strengths.slice(0, 6).map((k) => (
          <Flex
            as="li"
            key={k.reading}
            gap="8px"
            cursor="pointer"
            _hover={{ color: "moss" }}
            onClick={() => onLight(readings.get(k.reading)!)}
          >
            <Text color="moss">✓</Text>
            {k.text}
          </Flex>
        ))}
      </Box>

      {list.length === 0 ? (
        <Text color="quiet" fontSize="12px">
          No fault is shown by what is measured and answered so far.
        </Text>
      ) : (
        <>
          <Head tone="clay">First cause</Head>
          <Flex wrap="wrap" gap="4px" align="center" mb="8px" data-testid="chain">
            {list.map((f, i) => {
              const said = work.findings[f.fault];
              return (
                <Fragment key={f.fault}>
                  {i > 0 && (
                    <Text color="quiet" fontSize="12px">
                      {list[0].effects.includes(f.fault) ? "→" : "·"}
                    </Text>
                  )}
                  <Button
                    size="xs"
                    h="36px"
                    flexDirection="column"
                    gap="0"
                    lineHeight="1.2"
                    borderRadius="6px"
                    variant="outline"
                    data-finding={f.fault}
                    borderColor={i === 0 ? "clay" : "seam"}
                    borderWidth={i === 0 ? "2px" : "1px"}
                    bg={f === finding ? "raised" : undefined}
                    opacity={said === "refused" ? 0.45 : 1}
                    onClick={() => onFinding(f.fault)}
                  >
                    <Text as="span" fontWeight="600" textDecoration={said === "refused" ? "line-through" : undefined}>
                      {said === "accepted" ? "✓ " : ""}
                      {fault(f.fault).short}
                    </Text>
                    <Text as="span" fontSize="10px" color="quiet">
                      {phaseName(model, fault(f.fault).phase)}
                    </Text>
                  </Button>
                </Fragment>
              );
            })}
          </Flex>
        </>
      )}

      {setAside > 0 && (
        <Button
          size="xs"
          variant="ghost"
          mb="8px"
          px="0"
          color="quiet"
          onClick={() => dispatch({ type: "set aside", shown: !w.state.setAside })}
        >
          {!w.state.setAside ? `${setAside} that you refused for this athlete before` : "hide what you refused before"}
        </Button>
      )}
      {list.length > 1 && (
        <Box mb="8px">
          <Causes
            model={model}
            faults={list.map((f) => fault(f.fault))}
            phases={inOrder(model)}
            open={list[0].fault}
            onOpen={onFinding}
          />
        </Box>
      )}

      {finding && (
        <Box mb="12px">
          <Flex gap="8px" align="baseline">
            <Text fontWeight="650" flex="1">
              {fault(finding.fault).name}
            </Text>
            <Text
              fontSize="11.5px"
              color={!finding.own && finding.certainty === "certain" ? "clay" : "quiet"}
              data-testid="sure"
            >
              {finding.own ? "seen by you" : finding.certainty}
              {finding.excess &&
                `, ${minus(finding.excess.by.toFixed(finding.excess.by < 10 ? 1 : 0))}${unitOf(cp(finding.excess.reading).unit)} over`}
            </Text>
          </Flex>
          {finding.progress && (
            <Text fontSize="12px" color="quiet">
              In {finding.progress.shown} of {finding.progress.of},{" "}
              {
                { growing: "and growing", same: "about the same each time", fading: "and fading" }[
                  finding.progress.trend
                ]
              }
              .
            </Text>
          )}
          <Text fontSize="12px" color="quiet" mb="4px">
            {fault(finding.fault).effect}
            {finding.effects.length > 0 &&
              ` These should go with it: ${finding.effects.map((l) => fault(l).short).join(", ")}.`}
          </Text>
          {fault(finding.fault).strength && (
            <Notice mb="4px">
              <Text>{fault(finding.fault).strength}</Text>
            </Notice>
          )}
          {finding.readings.map((id) => (
            <Flex
              key={id}
              as="button"
              w="100%"
              gap="6px"
              textAlign="left"
              fontSize="12px"
              py="2px"
              cursor="pointer"
              _hover={{ color: "clay" }}
              data-evidence={id}
              onClick={() => onLight(readings.get(id)!)}
            >
              <Text color="clay">◆</Text>
              <Text>{says(id)}</Text>
            </Flex>
          ))}
          <Flex gap="6px" mt="6px">
            {(["accepted", "refused"] as const).map((v) => {
              const on = work.findings[finding.fault] === v;
              return (
                <Button
                  key={v}
                  size="xs"
                  variant={on && v === "accepted" ? "solid" : "outline"}
                  title={v === "accepted" ? "Accept (A)" : "Refuse (X)"}
                  onClick={() => edit({ kind: "finding", key: finding.fault, value: on ? null : v })}
                >
                  {v === "accepted" ? (on ? "accepted" : "accept") : on ? "refused" : "refuse"}
                </Button>
              );
            })}
          </Flex>
        </Box>
      )}

      {finding && work.findings[finding.fault] === "accepted" && (
        <Cues key={finding.fault} model={model} fault={finding.fault} work={work} young={sheet.child} edit={edit} />
      )}
      {Object.keys(work.advice).length > 0 && <Given model={model} report={report} work={work} edit={edit} />}

      {likely.length > 0 && (
        <Box mt="12px" data-testid="likely">
          <Head tone="amber">Likely, not certain</Head>
          {likely.map((f) => (
            <Flex key={f.fault} gap="8px" align="center" fontSize="12px" py="1px">
              <Text flex="1">
                {fault(f.fault).name}: {f.readings.map(says)[0]}
              </Text>
              {work.findings[f.fault] !== "accepted" && (
                <Button
                  size="xs"
                  h="20px"
                  variant="outline"
                  onClick={() => edit({ kind: "finding", key: f.fault, value: "accepted" })}
                >
                  it is there
                </Button>
              )}
            </Flex>
          ))}
        </Box>
      )}
      <NativeSelect.Root size="xs" mt="12px">
        <NativeSelect.Field
          aria-label="Add a fault that you see"
          value=""
          bg="raised"
          borderColor="seam"
          onChange={(e) => {
            edit({ kind: "finding", key: e.target.value, value: "accepted" });
            onFinding(e.target.value);
          }}
        >
          <option value="">add a fault that you see …</option>
          {model.faults
            .filter((f) => !list.some((x) => x.fault === f.id))
            .map((f) => (
              <option key={f.id} value={f.id}>
                {f.name}
              </option>
            ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      {undecided.length > 0 && (
        <Box mt="12px">
          <Head>This clip cannot decide</Head>
          {undecided.map((f) => (
            <Text key={f.fault} fontSize="12px" color="quiet">
              {fault(f.fault).name}:{" "}
              {f.readings.map((id) => readings.get(id)?.remedy).filter(Boolean)[0] ?? "more points"} would decide.
            </Text>
          ))}
        </Box>
      )}
    </Box>
  );
}

const phaseName = (model: Model, id: string) =>
  (model.phases.find((p) => p.id === id) ?? model.repeat?.phases.find((p) => p.id === id))?.name ?? id;

const unitOf = (unit: string) => (unit === "°" ? "°" : unit && " " + unit);

function Cues({
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
      <Head>Cues for it</Head>
      {fault.setting && (
        <Text fontSize="12px" color="quiet" mb="4px">
          Mostly a matter of the block setting: see “What if”.
        </Text>
      )}
      {cues.map((c) => (
        <Flex key={c.id} align="center" gap="6px" py="2px">
          <Text flex="1">“{c.words}”</Text>
          <Text fontSize="11px" color="quiet">
            {c.id.endsWith("brief") ? "short" : c.focus}
          </Text>
          <Button
            size="xs"
            variant={work.advice.main?.words === c.words ? "solid" : "outline"}
            onClick={() => give("main", c)}
            data-cue={c.id}
          >
            main
          </Button>
          <Button
            size="xs"
            variant={work.advice.second?.words === c.words ? "solid" : "outline"}
            disabled={!work.advice.main}
            onClick={() => give("second", c)}
          >
            second
          </Button>
        </Flex>
      ))}
    </Box>
  );
}

/** Given shows the advice and lets the coach put it in own words. */
function Given({ model, report, work, edit }: { model: Model; report: Report; work: Work; edit: Open["edit"] }) {
  return (
    <Box borderTop="1px solid" borderColor="seam" pt="10px">
      {(["main", "second"] as const).map((slot) => {
        const a = work.advice[slot];
        if (!a) return null;
        const fault = model.faults.find((f) => f.id === a.fault);
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
                  take away
                </Button>
              }
            >
              {slot === "main" ? "The cue" : "One more, when that is easy"}
            </Head>
            <Words value={a.words} onDone={(words) => words && put({ words })} />
            {a.backfire && (
              <Notice my="6px">
                <Text>If overdone: {a.backfire}</Text>
              </Notice>
            )}
            <Flex gap="8px">
              <Box flex="1">
                <Label>Drill</Label>
                <NativeSelect.Root size="sm">
                  <NativeSelect.Field
                    value={a.drill.name}
                    onChange={(e) =>
                      put({
                        drill: fault?.drills.find((d) => d.name === e.target.value) ?? { name: "", dose: "", feel: "" },
                      })
                    }
                    bg="raised"
                    borderColor="seam"
                  >
                    {(fault?.drills ?? []).map((d) => (
                      <option key={d.name}>{d.name}</option>
                    ))}
                    <option value="">no drill</option>
                  </NativeSelect.Field>
                  <NativeSelect.Indicator />
                </NativeSelect.Root>
              </Box>
              <Box flex="1">
                <Label>Dose</Label>
                <Line value={a.drill.dose} onDone={(dose) => put({ drill: { ...a.drill, dose } })} />
              </Box>
            </Flex>
            <Text fontSize="12px" mt="6px">
              <Text as="span" color="quiet">
                Next clip should show{" "}
              </Text>
              <Text as="span" color="amber" fontWeight="600">
                {cp.name.toLowerCase()} {goal(cp)}
              </Text>
              {s && (
                <Text as="span" color="quiet">
                  {" "}
                  (now {minus(s.value)}
                  {s.unit && " " + s.unit} {s.half})
                </Text>
              )}
            </Text>
          </Box>
        );
      })}
      <Label>A word to the athlete</Label>
      <Box data-testid="note">
        <Words
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
          size="xs"
          h="22px"
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
        <Button size="xs" h="22px" variant="ghost" onClick={() => keep.mutate({ says: note, keep: true })}>
          keep as a phrase
        </Button>
      )}
    </Flex>
  );
}

/** Words saves when the hand leaves it, not at each letter. */
function Words({ value, onDone, rows = 2 }: { value: string; onDone(v: string): void; rows?: number }) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  return (
    <Textarea
      value={text}
      rows={rows}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text.trim() !== value && onDone(text.trim())}
      fontWeight="500"
      maxLength={300}
    />
  );
}

function Line({ value, onDone }: { value: string; onDone(v: string): void }) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  return (
    <Input
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text !== value && onDone(text)}
      maxLength={120}
    />
  );
}
