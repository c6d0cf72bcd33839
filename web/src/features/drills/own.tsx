import { Box, Button, Flex, Grid, Input, Text, Textarea } from "@chakra-ui/react";
import { useState, type FormEvent } from "react";
import type { NewOwnDrill, OwnDrill } from "../../api/client";
import { events, type EventID } from "../../api/events";
import { frameURL } from "../../api/media";
import { andThen } from "../../api/topic";
import { NumberField } from "../../ui/decimal";
import { Choice, Named } from "../../ui/field";
import { Notice } from "../../ui/parts";
import { useKept } from "../../ui/recall";
import { day } from "../../ui/written";
import { t } from "../../texts/texts";
import { useModels } from "../models/api";
import { useLines } from "../queue/api";
import { useClipSheet, useKeepDrill } from "./api";
import { levels } from "./levels";

/** Entered is what is filled in: lists as lines of text. */
type Entered = {
  name: string;
  event: EventID;
  faults: string[];
  needs: string;
  level: NewOwnDrill["level"];
  sets: number | undefined;
  reps: number | undefined;
  of: string;
  effort: number | undefined;
  ladder: string;
  feel: string;
  mistake: string;
  go_on: string;
  stop: string;
  clip: string;
  first: number;
  last: number;
};

const blank = (event: string, clip: string): Entered => ({
  name: "",
  event: (event || "sprint-start") as EventID,
  faults: [],
  needs: "",
  level: "new",
  sets: 3,
  reps: 4,
  of: "",
  effort: undefined,
  ladder: "",
  feel: "",
  mistake: "",
  go_on: "",
  stop: "",
  clip,
  first: 0,
  last: -1,
});

const entered = (d: OwnDrill): Entered => ({
  name: d.name,
  event: d.events[0] as EventID,
  faults: d.for.map((f) => f.fault),
  needs: d.needs.join("\n"),
  level: d.level,
  sets: d.dose.sets,
  reps: d.dose.reps,
  of: d.dose.of ?? "",
  effort: d.dose.effort,
  ladder: d.ladder.join("\n"),
  feel: d.feel,
  mistake: d.mistake,
  go_on: d.go_on,
  stop: d.stop,
  clip: d.clip ?? "",
  first: d.first,
  last: d.clip ? d.last : -1,
});

/** OwnForm adds a drill of the team's own, or changes one. */
export function OwnForm({
  was,
  event,
  clip,
  onDone,
}: {
  was?: OwnDrill;
  event: string;
  clip: string;
  onDone(d: OwnDrill): void;
}) {
  const [a, setA, letGo] = useKept<Entered>(
    `neo.form.drill.${was?.id ?? (clip || "new")}`,
    was ? entered(was) : blank(event, clip),
  );
  const set = (c: Partial<Entered>) => setA({ ...a, ...c });
  const keep = useKeepDrill();
  const faults = useModels().data?.find((m) => m.model.id === a.event)?.model.faults ?? [];
  const lines = useLines(a.event, "");
  const sheet = useClipSheet(a.clip);
  const end = (sheet.data?.stamps.length ?? 0) - 1;
  const last = a.last < 0 ? end : Math.min(a.last, end);
  const [looks, setLooks] = useState<"first" | "last">("first");
  const clips: Record<string, string> = { "": t("no clip") };
  if (a.clip) clips[a.clip] = sheet.data?.name ?? t("this clip");
  for (const l of lines.data?.lines ?? [])
    if (l.poster) clips[l.poster] = [l.athlete, day(l.done_on), l.session].filter(Boolean).join(", ");
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const list = (text: string) =>
      text
        .split("\n")
        .map((l) => l.trim())
        .filter(Boolean);
    const body: NewOwnDrill = {
      name: a.name.trim(),
      event: a.event,
      faults: a.faults.filter((f) => faults.some((x) => x.id === f)),
      needs: list(a.needs),
      level: a.level,
      dose: { sets: a.sets, reps: a.reps, of: a.of || undefined, effort: a.effort },
      ladder: list(a.ladder),
      feel: a.feel,
      mistake: a.mistake,
      go_on: a.go_on,
      stop: a.stop,
      clip_id: a.clip || undefined,
      first: a.clip ? Math.min(a.first, last) : 0,
      last: a.clip ? Math.max(0, last) : 0,
    };
    andThen(keep.mutateAsync({ id: was?.id, body }), (d) => {
      letGo();
      onDone(d);
    });
  };
  const text = (name: "feel" | "mistake" | "go_on" | "stop", says: string) => (
    <Named name={says}>
      <Input name={name} value={a[name]} onChange={(e) => set({ [name]: e.target.value })} maxLength={300} />
    </Named>
  );
  const edge = (which: "first" | "last", says: string) => (
    <label style={{ display: "block", fontSize: 12 }}>
      {says} {(which === "first" ? a.first : last) + 1}
      <input
        type="range"
        name={which}
        min={0}
        max={Math.max(0, end)}
        value={which === "first" ? a.first : last}
        style={{ width: "100%", height: 32 }}
        onChange={(e) => {
          const n = Number(e.target.value);
          setLooks(which);
          set(which === "first" ? { first: n, last: Math.max(n, last) } : { last: n, first: Math.min(n, a.first) });
        }}
      />
    </label>
  );
  return (
    <form onSubmit={submit} data-testid="own-drill-form">
      <Grid templateColumns={{ base: "1fr", md: "1fr 1fr" }} gap="10px">
        <Box gridColumn={{ md: "span 2" }}>
          <Named name={t("Name")}>
            <Input
              name="name"
              value={a.name}
              onChange={(e) => set({ name: e.target.value })}
              required
              maxLength={120}
              autoFocus
            />
          </Named>
        </Box>
        <Named name={t("Event")}>
          <Choice
            name="drill-event"
            label={t("Event")}
            value={a.event}
            options={events}
            onChange={(v) => set({ event: v as EventID, faults: [] })}
          />
        </Named>
        <Named name={t("From when on")}>
          <Choice
            name="drill-level"
            label={t("From when on")}
            value={a.level}
            options={levels}
            onChange={(v) => set({ level: v as Entered["level"] })}
          />
        </Named>
        <Box gridColumn={{ md: "span 2" }}>
          <Named name={t("For which faults")}>
            <Choice
              name="drill-fault"
              label={t("For which faults")}
              value=""
              options={{
                "": a.faults.length < 6 ? t("add a fault") : t("six are enough"),
                ...Object.fromEntries(faults.filter((f) => !a.faults.includes(f.id)).map((f) => [f.id, f.name])),
              }}
              onChange={(v) => v && a.faults.length < 6 && set({ faults: [...a.faults, v] })}
            />
          </Named>
          <Flex gap="6px" wrap="wrap" mt="6px">
            {a.faults.map((id) => (
              <Button
                key={id}
                type="button"
                size="xs"
                variant="outline"
                h="auto"
                minH="28px"
                whiteSpace="normal"
                aria-label={t("{fault}: take away", { fault: faults.find((f) => f.id === id)?.name ?? id })}
                onClick={() => set({ faults: a.faults.filter((f) => f !== id) })}
              >
                {faults.find((f) => f.id === id)?.name ?? id} ×
              </Button>
            ))}
          </Flex>
        </Box>
        <Flex gap="8px" gridColumn={{ md: "span 2" }} wrap="wrap">
          <Box w="84px">
            <Named name={t("Sets")}>
              <NumberField name="sets" whole least={1} most={20} value={a.sets} onValue={(sets) => set({ sets })} />
            </Named>
          </Box>
          <Box w="84px">
            <Named name={t("In a set")}>
              <NumberField name="reps" whole least={1} most={200} value={a.reps} onValue={(reps) => set({ reps })} />
            </Named>
          </Box>
          <Box flex="1 1 120px">
            <Named name={t("What is counted (throws, s, m)")}>
              <Input name="of" value={a.of} onChange={(e) => set({ of: e.target.value })} maxLength={40} />
            </Named>
          </Box>
          <Box w="120px">
            <Named name={t("% of full effort")}>
              <NumberField
                name="effort"
                whole
                least={1}
                most={100}
                value={a.effort}
                onValue={(effort) => set({ effort })}
              />
            </Named>
          </Box>
        </Flex>
        {text("feel", t("You should feel"))}
        {text("mistake", t("Often instead"))}
        {text("go_on", t("Go on when"))}
        {text("stop", t("Stop when"))}
        <Named name={t("Ladder, a rung on each line, the easiest first")}>
          <Textarea
            name="ladder"
            rows={3}
            value={a.ladder}
            onChange={(e) => set({ ladder: e.target.value })}
            maxLength={900}
          />
        </Named>
        <Named name={t("You need, a thing on each line")}>
          <Textarea
            name="needs"
            rows={3}
            value={a.needs}
            onChange={(e) => set({ needs: e.target.value })}
            maxLength={400}
          />
        </Named>
        <Box gridColumn={{ md: "span 2" }}>
          <Named
            name={t("Clip")}
            help={t(
              "Of the newest attempts at the event; of any other by “Make a drill of it” beside the clip on the Bench.",
            )}
          >
            <Choice
              name="drill-clip"
              label={t("Clip")}
              value={a.clip}
              options={clips}
              onChange={(v) => set({ clip: v, first: 0, last: -1 })}
            />
          </Named>
          {a.clip && end > 0 && (
            <Grid templateColumns="minmax(0, 200px) minmax(0, 1fr)" gap="12px" mt="8px" alignItems="center">
              <img
                src={frameURL(a.clip, looks === "first" ? a.first : last, 400)}
                alt={t("picture {n}", { n: (looks === "first" ? a.first : last) + 1 })}
                style={{ width: "100%", borderRadius: 6 }}
              />
              <Box>
                {edge("first", t("from picture"))}
                {edge("last", t("to picture"))}
              </Box>
            </Grid>
          )}
          {sheet.error && <Notice mt="6px">{sheet.error.message}</Notice>}
        </Box>
      </Grid>
      {keep.error && (
        <Notice tone="clay" mt="10px">
          {keep.error.message}
        </Notice>
      )}
      <Flex justify="space-between" align="center" gap="10px" mt="14px">
        <Text fontSize="12px" color="quiet">
          {t("Seen by your team’s coaches and assistants alone.")}
        </Text>
        <Button type="submit" loading={keep.isPending}>
          {t("Save")}
        </Button>
      </Flex>
    </form>
  );
}
