import { Box, Button, Flex, Input, NativeSelect, Text } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import type { Checkpoint, Directions, Failure, EventModel, Model } from "../../api/client";
import { events } from "../../api/events";
import { modelSourceURL, useChangeModel, useCheckModel, useModels } from "./api";
import { useAthletes } from "../athlete/api";
import { useMe, useSetDirections } from "../account/api";
import { goal } from "../../ui/numbers";
import { Key, Notice, Panel } from "../../ui/parts";
import { AddCheckpoint, AddFault, AddStyle, AddWords, Whom, type For } from "./add";
import { Causes, inOrder } from "./causes";
import poses from "./poses.gen.json";

/** Models: every technique model as a page that a coach can read and argue with:
 * phases as a strip, what is looked at and by whom, faults with their causes. */
export default function Models() {
  const models = useModels();
  const { id } = useParams();
  const go = useNavigate();
  const check = useCheckModel();
  const me = useMe();
  const speak = useSetDirections();
  const ids = Object.keys(events);
  const at = Math.max(0, ids.indexOf(id ?? ""));
  const held = models.data?.find((m) => m.model.id === ids[at]);
  const change = useChangeModel();
  const text = useRef("");
  const read = check.data?.model;
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if ((e.target as HTMLElement).closest("input, textarea, select")) return;
      if (e.key === "Escape") void go("/");
      else if (e.key === "ArrowDown" || e.key === "ArrowUp")
        void go(`/models/${ids[Math.min(ids.length - 1, Math.max(0, at + (e.key === "ArrowDown" ? 1 : -1)))]}`, {
          replace: true,
        });
      else return;
      e.preventDefault();
    };
    addEventListener("keydown", key);
    return () => removeEventListener("keydown", key);
  });
  return (
    <Flex direction="column" h="100vh" maxW="1280px" mx="auto" px="20px">
      <Flex h="58px" align="center" gap="12px" flexShrink={0}>
        <Button
          variant="ghost"
          px="4px"
          onClick={() => void go("/")}
          title="Back to the queue (Esc)"
          aria-label="Back to the queue"
        >
          <img src="/mark.svg" width={26} height={26} alt="" />
        </Button>
        <Text fontSize="17px" fontWeight="700">
          Models
        </Text>
        <Text color="quiet" fontSize="12px">
          what counts as good, where the number comes from, and what leads to what
        </Text>
        <Box flex="1" />
        <NativeSelect.Root size="xs" w="190px">
          <NativeSelect.Field
            aria-label="How directions are named"
            value={me.data?.user?.directions}
            bg="raised"
            borderColor="seam"
            onChange={(e) => speak.mutate(e.target.value as Directions)}
          >
            <option value="degrees">directions in degrees</option>
            <option value="clock-back">clock, 12 at the back</option>
            <option value="clock-throw">clock, 12 at the throw</option>
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Button size="xs" variant="outline" as="label" cursor="pointer">
          read a file
          <input
            type="file"
            accept=".yaml,.yml"
            data-testid="model-file"
            style={{ position: "absolute", width: 1, height: 1, opacity: 0 }}
            onChange={(e) =>
              void e.target.files?.[0]
                ?.text()
                .then((t) => check.mutate((text.current = t)))
                .finally(() => (e.target.value = ""))
            }
          />
        </Button>
        <Text color="quiet" fontSize="12px">
          <Key>↑</Key> <Key>↓</Key> next event
        </Text>
      </Flex>
      {models.error && <Notice tone="clay">{models.error.message}</Notice>}
      {check.error && <Notice tone="clay">{check.error.message}</Notice>}
      {check.data && !check.data.model && (
        <Panel p="10px 14px" mb="10px" maxH="40vh" overflowY="auto" data-testid="mistakes">
          <Flex mb="4px">
            <Text fontWeight="650" flex="1">
              {check.data.mistakes.length === 1 ? "One thing is" : `${check.data.mistakes.length} things are`} wrong in
              this file. Mend them and read it again.
            </Text>
            <Button size="xs" variant="ghost" onClick={() => check.reset()}>
              close
            </Button>
          </Flex>
          {check.data.mistakes.map((m, i) => (
            <Flex key={i} gap="10px" fontSize="12.5px">
              <Text color="amber" w="62px" flexShrink={0}>
                line {m.line}
              </Text>
              <Text>
                {m.says}{" "}
                <Text as="span" color="quiet">
                  {m.path}
                </Text>
              </Text>
            </Flex>
          ))}
        </Panel>
      )}
      {read && (
        <Box mb="10px">
          <Notice tone="moss" mb="6px">
            <Text flex="1">
              This file is a sound model of {read.name.toLowerCase()}, version {read.version}. It is shown below and not
              kept yet.
            </Text>
            <Button size="xs" variant="ghost" h="18px" onClick={() => check.reset()}>
              close
            </Button>
          </Notice>
          <Keep
            says="Keep it as your team's model"
            busy={change.isPending}
            error={change.error}
            onKeep={(reason) =>
              change.mutate(
                {
                  id: read.id,
                  body: { base: models.data?.find((m) => m.model.id === read.id)?.n ?? 0, reason, text: text.current },
                },
                { onSuccess: () => (check.reset(), void go(`/models/${read.id}`, { replace: true })) },
              )
            }
          />
        </Box>
      )}
      <Flex flex="1" minH="0" gap="12px" pb="16px">
        <Panel w="190px" p="8px" flexShrink={0} overflowY="auto" as="nav">
          {ids.map((e, i) => (
            <Button
              key={e}
              variant="ghost"
              w="100%"
              justifyContent="flex-start"
              h="34px"
              px="10px"
              bg={i === at ? "raised" : undefined}
              fontWeight={i === at ? "650" : "400"}
              onClick={() => void go(`/models/${e}`, { replace: true })}
              data-model={e}
            >
              {events[e as keyof typeof events]}
            </Button>
          ))}
        </Panel>
        {read ? (
          <One key="file" model={read} />
        ) : (
          held && <One key={held.model.id + held.n} model={held.model} held={held} />
        )}
      </Flex>
    </Flex>
  );
}

const basis = { trade: "practice", literature: "literature, from memory", definition: "rule" };

/** Keep asks for the reason of a change; it stays beside the version. */
function Keep({
  says,
  busy,
  error,
  onKeep,
}: {
  says: string;
  busy: boolean;
  error: Error | null;
  onKeep(reason: string): void;
}) {
  const [reason, setReason] = useState("");
  return (
    <Box>
      <Flex gap="8px">
        <Input
          size="sm"
          flex="1"
          value={reason}
          onChange={(e) => setReason(e.target.value)}
          placeholder="Why? It stays beside the version."
          aria-label="Reason of the change"
          maxLength={300}
        />
        <Button size="sm" disabled={reason.trim().length < 3} loading={busy} onClick={() => onKeep(reason.trim())}>
          {says}
        </Button>
      </Flex>
      {error && (
        <Notice tone="clay" mt="6px">
          <Text>{[error.message, ...((error as Failure).fields ?? [])].join(" ")}</Text>
        </Notice>
      )}
    </Box>
  );
}

type Band = Checkpoint["band"];

/** One is a model as a page. Of the model that the team holds, bands can be
 * changed; what differs from the shipped one is said beside it. */
function One({ model, held }: { model: Model; held?: EventModel }) {
  const change = useChangeModel();
  const [bands, setBands] = useState<Record<string, Band>>({});
  const changed = Object.keys(bands).length;
  const was = new Map(held?.shipped?.checkpoints.map((c) => [c.id, c]));
  const [style, setStyle] = useState(model.variants?.[0]?.id ?? "");
  const variant = model.variants?.find((v) => v.id === style);
  const has = (x: { only?: string[] | null }) => !x.only?.length || x.only.includes(style);
  const phases = inOrder(model).filter(has);
  const band = (c: Checkpoint) => bands[c.id] ?? variant?.bands?.[c.id] ?? c.band;
  // A repeated position stands once, under its own name.
  const positions = model.positions
    .filter(has)
    .flatMap((p) => (!p.group ? [p] : p.nth === 1 ? model.repeat!.positions.filter((q) => q.id === p.group) : []));
  const listed = positions.filter((p) => model.checkpoints.some((c) => c.position === p.id && has(c)));
  const faults = model.faults.filter(has);
  const [open, setOpen] = useState<string | null>(null);
  const [whom, setWhom] = useState<For>({});
  const [adding, setAdding] = useState<"checkpoint" | "fault" | "style" | "cue" | "drill" | null>(null);
  const keep = (body: Omit<Parameters<typeof change.mutate>[0]["body"], "base">, done?: () => void) =>
    held && change.mutate({ id: model.id, body: { base: held.n, ...body } }, { onSuccess: done });
  return (
    <Box flex="1" overflowY="auto" minW="0" pr="4px" data-testid="model">
      <Panel p="14px 18px" mb="12px">
        <Flex align="baseline" gap="10px">
          <Text fontSize="19px" fontWeight="700">
            {model.name}
          </Text>
          <Text color="quiet" fontSize="12px">
            {held && held.n > 0
              ? `your team's version ${held.n}, from ${held.versions[0].created_at.slice(0, 10)}: ${held.versions[0].reason}`
              : `version ${model.version}`}
          </Text>
          <Box flex="1" />
          <Button size="xs" variant="outline" asChild>
            <a href={modelSourceURL(model.id)} download={`${model.id}.yaml`}>
              YAML
            </a>
          </Button>
        </Flex>
        <Text maxW="78ch" mt="4px">
          {model.about}
        </Text>
        <Text maxW="78ch" mt="4px" color="quiet" fontSize="12px">
          Filming: {model.film}
        </Text>
        {(model.variants?.length ?? 0) > 1 && (
          <Flex gap="6px" mt="10px" wrap="wrap" align="center">
            {model.variants!.map((v) => (
              <Button
                key={v.id}
                size="xs"
                variant={v.id === style ? "solid" : "outline"}
                onClick={() => setStyle(v.id)}
                title={v.says}
                data-variant={v.id}
              >
                {v.name}
              </Button>
            ))}
            <Text fontSize="12px" color="quiet">
              {variant?.says}
            </Text>
          </Flex>
        )}
        {held &&
          (adding === "style" ? (
            <AddStyle
              model={model}
              busy={change.isPending}
              error={change.error}
              onLeave={() => setAdding(null)}
              onAdd={(v, reason) => keep({ reason, variants: [v] }, () => setAdding(null))}
            />
          ) : (
            <Button size="xs" variant="ghost" mt="6px" onClick={() => setAdding("style")} data-testid="add-style">
              add a style
            </Button>
          ))}
        <Strip model={model} phases={phases} />
        {held && held.n > 0 && (
          <Box mt="12px" fontSize="12px" data-testid="versions">
            {held.versions.slice(0, 4).map((v) => (
              <Text key={v.n} color="quiet">
                {v.n}. {v.created_at.slice(0, 10)}, {v.by || "a former colleague"}: {v.reason}
              </Text>
            ))}
            {held.shipped && held.versions[0].shipped < held.shipped.version && (
              <Notice mt="4px">
                <Text flex="1">
                  The shipped model has moved on to version {held.shipped.version} since. Take it over and your own
                  bands, checkpoints and faults stay.
                </Text>
                <Button
                  size="xs"
                  variant="outline"
                  h="22px"
                  loading={change.isPending}
                  onClick={() =>
                    keep({ reason: `Took over the shipped version ${held.shipped!.version}.`, take_over: true })
                  }
                >
                  take it over
                </Button>
              </Notice>
            )}
            <Button
              size="xs"
              variant="outline"
              mt="6px"
              loading={change.isPending}
              onClick={() =>
                change.mutate({
                  id: model.id,
                  body: { base: held.n, reason: "Back to the shipped model.", back: true },
                })
              }
            >
              back to the shipped model
            </Button>
          </Box>
        )}
        {(model.adjusted?.length ?? 0) > 0 && <Adjusted model={model} />}
        {held && changed > 0 && (
          <Box mt="12px" data-testid="changed">
            <Text fontSize="12px" mb="4px">
              {changed === 1 ? "One band" : `${changed} bands`} changed. New attempts will be judged by it; earlier ones
              keep theirs until you judge them anew.
            </Text>
            <Whom style={(model.variants?.length ?? 0) > 1 ? variant : undefined} value={whom} onValue={setWhom} />
            <Keep
              says="Keep for the team"
              busy={change.isPending}
              error={change.error}
              onKeep={(reason) => keep({ reason, bands, ...whom }, () => setBands({}))}
            />
          </Box>
        )}
      </Panel>

      <Flex gap="12px" align="flex-start">
        <Box flex="1.15" minW="0">
          {listed.map((p) => (
            <Panel key={p.id} p="10px 14px" mb="8px">
              <Flex align="baseline" gap="8px" mb="2px">
                <Text fontWeight="650">{p.name}</Text>
                <Text fontSize="11.5px" color="quiet" flex="1">
                  {p.hint}
                </Text>
                <Text fontSize="11px" color={p.find ? "moss" : "quiet"} whiteSpace="nowrap">
                  {p.find ? "found by the tool" : "flagged by you"}
                </Text>
              </Flex>
              {model.checkpoints
                .filter((c) => c.position === p.id && has(c))
                .map((c) => (
                  <Box key={c.id} py="4px" borderTop="1px solid" borderColor="seam" data-checkpoint={c.id}>
                    <Flex gap="8px" align="baseline">
                      <Text flex="1">{c.name}</Text>
                      {c.measure.kind !== "answer" && (
                        <BandOf
                          cp={{ ...c, band: band(c) }}
                          was={was.get(c.id)}
                          onBand={held && ((b) => setBands({ ...bands, [c.id]: b }))}
                        />
                      )}
                      <Text fontSize="11px" color="quiet" whiteSpace="nowrap">
                        {c.measure.kind === "answer" ? "by your eye" : (c.views ?? [model.view]).join(", ")} ·{" "}
                        {basis[c.basis]}
                      </Text>
                    </Flex>
                    {c.question && (
                      <Text fontSize="11.5px" color="quiet">
                        {c.question}
                      </Text>
                    )}
                  </Box>
                ))}
            </Panel>
          ))}
          {held &&
            (adding === "checkpoint" ? (
              <AddCheckpoint
                model={model}
                positions={positions}
                busy={change.isPending}
                error={change.error}
                onLeave={() => setAdding(null)}
                onAdd={(c, reason) => keep({ reason, checkpoints: [c] }, () => setAdding(null))}
              />
            ) : (
              <Button
                size="xs"
                variant="outline"
                mb="8px"
                onClick={() => setAdding("checkpoint")}
                data-testid="add-checkpoint"
              >
                add a checkpoint of your own
              </Button>
            ))}
          <Panel p="10px 14px" mb="8px">
            <Text fontWeight="650" mb="2px">
              Cautions
            </Text>
            {model.cautions.map((c) => (
              <Text key={c} fontSize="12px" color="quiet" mb="3px">
                {c}
              </Text>
            ))}
          </Panel>
        </Box>

        <Box flex="1" minW="0">
          <Panel p="10px 14px" mb="8px">
            <Text fontWeight="650" mb="6px">
              What leads to what
            </Text>
            <Causes
              model={model}
              faults={faults}
              phases={phases}
              open={open}
              onOpen={(f) => setOpen(open === f ? null : f)}
            />
          </Panel>
          {held &&
            (adding === "fault" ? (
              <AddFault
                model={model}
                phases={phases}
                busy={change.isPending}
                error={change.error}
                onLeave={() => setAdding(null)}
                onAdd={(f, reason) => keep({ reason, faults: [f] }, () => setAdding(null))}
              />
            ) : (
              <Button size="xs" variant="outline" mb="8px" onClick={() => setAdding("fault")} data-testid="add-fault">
                add a fault of your own
              </Button>
            ))}
          {faults.map((f) => (
            <Panel key={f.id} p="8px 14px" mb="6px" data-fault={f.id}>
              <Flex
                as="button"
                w="100%"
                textAlign="left"
                gap="8px"
                align="baseline"
                cursor="pointer"
                onClick={() => setOpen(open === f.id ? null : f.id)}
                aria-expanded={open === f.id}
              >
                <Text fontWeight="600" flex="1">
                  {f.name}
                </Text>
                <Text fontSize="11px" color="quiet" whiteSpace="nowrap">
                  {phases.find((p) => p.id === f.phase)?.name}
                </Text>
              </Flex>
              {open === f.id && (
                <Box fontSize="12.5px" mt="4px">
                  <Text color="quiet">{f.effect}</Text>
                  {f.strength && <Text mt="3px">{f.strength}</Text>}
                  {f.cues.map((c) => (
                    <Box key={c.words} mt="5px">
                      <Text>
                        “{c.words}”{" "}
                        <Text as="span" fontSize="11px" color="quiet">
                          {c.focus}
                        </Text>
                      </Text>
                      <Text fontSize="11.5px" color="quiet">
                        {c.backfire}
                      </Text>
                    </Box>
                  ))}
                  {f.drills.map((d) => (
                    <Text key={d.name} mt="5px">
                      {d.name}: {d.dose}{" "}
                      <Text as="span" color="quiet">
                        ({d.feel})
                      </Text>
                    </Text>
                  ))}
                  {held &&
                    (adding === "cue" || adding === "drill" ? (
                      <AddWords
                        kind={adding}
                        busy={change.isPending}
                        error={change.error}
                        onLeave={() => setAdding(null)}
                        onAdd={(x, reason) =>
                          keep(
                            {
                              reason,
                              ...(x.cue ? { cues: { [f.id]: x.cue } } : {}),
                              ...(x.drill ? { drills: { [f.id]: x.drill } } : {}),
                            },
                            () => setAdding(null),
                          )
                        }
                      />
                    ) : (
                      <Flex gap="4px" mt="5px">
                        <Button size="2xs" variant="outline" onClick={() => setAdding("cue")}>
                          add a cue
                        </Button>
                        <Button size="2xs" variant="outline" onClick={() => setAdding("drill")}>
                          add a drill
                        </Button>
                      </Flex>
                    ))}
                  <Text mt="5px" fontSize="11.5px" color="amber">
                    Seen next time by: {model.checkpoints.find((c) => c.id === f.target)?.name}
                  </Text>
                </Box>
              )}
            </Panel>
          ))}
        </Box>
      </Flex>
    </Box>
  );
}

/** BandOf shows a band; pressed, it can be changed. */
function BandOf({ cp, was, onBand }: { cp: Checkpoint; was?: Checkpoint; onBand?: (b: Band) => void }) {
  const [open, setOpen] = useState(false);
  const differs = was && (was.band.lo !== cp.band.lo || was.band.hi !== cp.band.hi);
  if (open && onBand) return <BandForm cp={cp} onDone={(b) => (b && onBand(b), setOpen(false))} />;
  return (
    <Text fontWeight="600" whiteSpace="nowrap">
      {onBand ? (
        <Box
          as="button"
          cursor="pointer"
          textDecoration="underline dotted"
          textUnderlineOffset="3px"
          onClick={() => setOpen(true)}
          title="Change this band"
          data-band={cp.id}
        >
          {goal(cp)}
        </Box>
      ) : (
        goal(cp)
      )}
      {differs && (
        <Text as="span" fontWeight="400" fontSize="11px" color="amber">
          {" "}
          shipped: {goal(was)}
        </Text>
      )}
    </Text>
  );
}

function BandForm({ cp, onDone }: { cp: Checkpoint; onDone(b?: Band): void }) {
  const [lo, setLo] = useState(cp.band.lo?.toString() ?? "");
  const [hi, setHi] = useState(cp.band.hi?.toString() ?? "");
  const number = (s: string) => (s.trim() === "" ? undefined : Number(s.replace(",", ".").replace("−", "-")));
  const [a, b] = [number(lo), number(hi)];
  const wrong =
    Number.isNaN(a) || Number.isNaN(b)
      ? "Give numbers."
      : a !== undefined && b !== undefined && a >= b
        ? "The lower end must lie below the upper one."
        : "";
  return (
    <Flex
      as="form"
      gap="4px"
      align="center"
      onSubmit={(e) => {
        e.preventDefault();
        if (!wrong) onDone({ lo: a, hi: b });
      }}
    >
      {wrong && (
        <Text fontSize="11px" color="clay">
          {wrong}
        </Text>
      )}
      <Input
        size="2xs"
        w="58px"
        value={lo}
        onChange={(e) => setLo(e.target.value)}
        aria-label="from"
        placeholder="from"
        autoFocus
      />
      <Input size="2xs" w="58px" value={hi} onChange={(e) => setHi(e.target.value)} aria-label="to" placeholder="to" />
      <Text fontSize="11px">{cp.unit}</Text>
      <Button size="2xs" type="submit" disabled={!!wrong}>
        set
      </Button>
      <Button size="2xs" variant="ghost" onClick={() => onDone()}>
        leave
      </Button>
    </Flex>
  );
}

/** Adjusted lists bands that hold for some only. */
function Adjusted({ model }: { model: Model }) {
  const athletes = useAthletes();
  return (
    <Box mt="10px" fontSize="12px" data-testid="adjusted">
      {model.adjusted!.map((a) => {
        const c = model.checkpoints.find((x) => x.id === a.checkpoint);
        return (
          <Text key={a.checkpoint + a.under + a.athlete}>
            {a.athlete
              ? (athletes.data?.find((x) => x.id === a.athlete)?.name ?? "an athlete who has left")
              : `under ${a.under}`}
            : {c?.name} {c && goal({ ...c, band: a.band })}{" "}
            <Text as="span" color="quiet">
              {a.reason}
            </Text>
          </Text>
        );
      })}
    </Box>
  );
}

/** Strip shows the phases in order with a small figure each, a repeated group in a
 * frame with its number. */
function Strip({ model, phases }: { model: Model; phases: Model["phases"] }) {
  const group = new Set(model.repeat?.phases.map((p) => p.id));
  const first = phases.findIndex((p) => group.has(p.id));
  const before = first < 0 ? phases : phases.slice(0, first);
  const after = first < 0 ? [] : phases.slice(first + group.size);
  const box = (p: { id: string; name: string }) => (
    <Flex
      key={p.id}
      direction="column"
      align="center"
      px="8px"
      pt="2px"
      pb="4px"
      bg="raised"
      borderRadius="4px"
      fontSize="11.5px"
      maxW="104px"
      textAlign="center"
      lineHeight="1.2"
    >
      <Figure pose={(poses as Record<string, Record<string, number[][]>>)[model.id]?.[p.id]} />
      {p.name}
    </Flex>
  );
  return (
    <Flex gap="4px" mt="12px" wrap="wrap" align="stretch" data-testid="strip">
      {before.map(box)}
      {model.repeat && (
        <Flex gap="4px" p="4px 6px" border="1.5px solid" borderColor="clay" borderRadius="6px" align="stretch">
          {model.repeat.phases.map(box)}
          <Text fontSize="11.5px" color="clay" alignSelf="center" w="34px" lineHeight="1.2">
            each {model.repeat.name}
          </Text>
        </Flex>
      )}
      {after.map(box)}
    </Flex>
  );
}

/** Figure is the simulated athlete in the middle of a phase: the left side in clay
 * and solid, the right in sky and dashed. */
function Figure({ pose }: { pose?: number[][] }) {
  if (!pose) return <Box h="62px" w="70px" />;
  const at = (i: number) => `${pose[i][0]} ${-pose[i][1]}`;
  const line = (...list: number[]) => list.map((i, k) => (k ? "L" : "M") + at(i)).join("");
  const body = pose.slice(0, 13);
  const top = Math.max(112, ...body.map((q) => q[1] + 8));
  const low = Math.min(0, ...body.map((q) => q[1]));
  const half = 62 * Math.max(1, (top - low) / 118);
  const side = (list: number[][], c: string, dash?: string) =>
    list.map((l, i) => (
      <path
        key={i}
        d={line(...l)}
        fill="none"
        stroke={`var(--chakra-colors-${c})`}
        strokeWidth={5}
        strokeLinecap="round"
        strokeLinejoin="round"
        strokeDasharray={dash}
      />
    ));
  return (
    <svg width={70} height={62} viewBox={`${-half} ${-top} ${2 * half} ${top - low + 6}`} aria-hidden>
      {side(
        [
          [1, 5, 6],
          [2, 10, 11, 12],
        ],
        "sky",
        "7 5",
      )}
      {side(
        [
          [1, 3, 4],
          [2, 7, 8, 9],
        ],
        "clay",
      )}
      <path d={line(1, 2)} stroke="var(--chakra-colors-chalk)" strokeWidth={6} strokeLinecap="round" />
      <circle cx={pose[0][0]} cy={-pose[0][1]} r={7} fill="var(--chakra-colors-chalk)" />
      {pose[13] && Math.abs(pose[13][0]) < half && pose[13][1] < top && (
        <circle cx={pose[13][0]} cy={-pose[13][1]} r={5} fill="var(--chakra-colors-amber)" />
      )}
    </svg>
  );
}
