import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Checkpoint, EventModel, Model } from "../../api/client";
import { modelSourceURL, useChangeModel } from "./api";
import { Notice, Panel } from "../../ui/parts";
import { AddCheckpoint, AddFault, AddStyle, AddWords, Whom, type For } from "./add";
import { Causes, inOrder } from "./causes";
import { Adjusted, BandOf, type Band } from "./band";
import { ReasonForm } from "./reason";
import { Strip } from "./strip";
import { Ladder } from "../../ui/ladder";
import { t } from "../../texts/texts";

const basis = { trade: "practice", literature: t("literature, from memory"), definition: "rule" };

/** ModelPage is a model as a page. Of the model that the team holds, bands can be
 * changed; what differs from the shipped one is said beside it. */
export function ModelPage({ model, held }: { model: Model; held?: EventModel }) {
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
              ? t("your team's version {n}, from {createdAt}: {reason}", {
                  n: held.n,
                  createdAt: held.versions[0].created_at.slice(0, 10),
                  reason: held.versions[0].reason,
                })
              : t("version {version}", { version: model.version })}
          </Text>
          <Box flex="1" />
          <Button size="xs" variant="outline" asChild>
            <a href={modelSourceURL(model.id)} download={`${model.id}.yaml`}>
              {t("YAML")}
            </a>
          </Button>
        </Flex>
        <Text maxW="78ch" mt="4px">
          {model.about}
        </Text>
        <Text maxW="78ch" mt="4px" color="quiet" fontSize="12px">
          {t("Filming: {film}", { film: model.film })}
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
              {t("Add a style")}
            </Button>
          ))}
        <Strip model={model} phases={phases} />
        {held && held.n > 0 && (
          <Box mt="12px" fontSize="12px" data-testid="versions">
            {held.versions.slice(0, 4).map((v) => (
              <Text key={v.n} color="quiet">
                {v.n}. {v.created_at.slice(0, 10)}, {v.by || t("a former colleague")}: {v.reason}
              </Text>
            ))}
            {held.shipped && held.versions[0].shipped < held.shipped.version && (
              <Notice mt="4px">
                <Text flex="1">
                  {t(
                    "The shipped model has moved on to version {version} since. Take it over and your own bands, checkpoints and faults stay.",
                    { version: held.shipped.version },
                  )}
                </Text>
                <Button
                  size="2xs"
                  variant="outline"
                  loading={change.isPending}
                  onClick={() =>
                    keep({
                      reason: t("Took over the shipped version {version}.", { version: held.shipped!.version }),
                      take_over: true,
                    })
                  }
                >
                  {t("Take it over")}
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
                  body: { base: held.n, reason: t("Back to the shipped model."), back: true },
                })
              }
            >
              {t("Back to the shipped model")}
            </Button>
          </Box>
        )}
        {(model.adjusted?.length ?? 0) > 0 && <Adjusted model={model} />}
        {held && changed > 0 && (
          <Box mt="12px" data-testid="changed">
            <Text fontSize="12px" mb="4px">
              {t(
                "{which} changed. New attempts will be judged by it; earlier ones keep theirs until you judge them anew.",
                { which: changed === 1 ? t("One band") : t("{changed} bands", { changed }) },
              )}
            </Text>
            <Whom style={(model.variants?.length ?? 0) > 1 ? variant : undefined} value={whom} onValue={setWhom} />
            <ReasonForm
              says={t("Keep for the team")}
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
                  {p.find ? t("found by the tool") : t("flagged by you")}
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
                        {c.measure.kind === "answer" ? t("by your eye") : (c.views ?? [model.view]).join(", ")} ·{" "}
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
                {t("Add a checkpoint of your own")}
              </Button>
            ))}
          <Panel p="10px 14px" mb="8px">
            <Text fontWeight="650" mb="2px">
              {t("Cautions")}
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
              {t("What leads to what")}
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
                {t("Add a fault of your own")}
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
                    <Box key={d.name} mt="5px">
                      <Text>
                        {d.name}: {d.dose.says}{" "}
                        <Text as="span" color="quiet">
                          ({d.feel})
                        </Text>
                      </Text>
                      <Ladder drill={d} />
                    </Box>
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
                          {t("Add a cue")}
                        </Button>
                        <Button size="2xs" variant="outline" onClick={() => setAdding("drill")}>
                          {t("Add a drill")}
                        </Button>
                      </Flex>
                    ))}
                  <Text mt="5px" fontSize="11.5px" color="amber">
                    {t("Seen next time by:")} {model.checkpoints.find((c) => c.id === f.target)?.name}
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
