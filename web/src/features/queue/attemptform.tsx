import { Box, Button, Flex, Grid, Input, Text, Textarea } from "@chakra-ui/react";
import { useState, type FormEvent } from "react";
import type { Attempt, NewAttempt } from "../../api/client";
import { events, factsOf, withImplement } from "../../api/events";
import { andThen, useRefresh } from "../../api/topic";
import { NumberField } from "../../ui/decimal";
import { Choice, Named } from "../../ui/field";
import { Notice } from "../../ui/parts";
import { useAthletes } from "../athlete/api";
import { AthleteForm } from "../athlete/form";
import { useModels } from "../models/api";
import { DropArea } from "../uploads/droparea";
import { send } from "../uploads/uploads";
import { useKept } from "../../ui/recall";
import { useWorkspace } from "../workspace/api";
import { useAddAttempt, useChangeAttempt } from "./api";
import { today } from "../../ui/written";
import { t } from "../../texts/texts";
import { word } from "../../texts/words";

const empty = (): NewAttempt => ({
  athlete_id: "",
  event: "sprint-start",
  done_on: today(),
  session: "",
  place: "",
  mark: "",
  implement: "",
  condition: "fresh",
  setting: "practice",
  coach_focus: "",
  injury_note: "",
});

/** ChangeAttempt corrects what was entered: another athlete, day, mark. */
export function ChangeAttempt({ id, onDone }: { id: string; onDone(): void }) {
  const sheet = useWorkspace(id);
  if (sheet.error) return <Notice tone="clay">{sheet.error.message}</Notice>;
  if (!sheet.data) return <Text color="quiet">{t("The attempt is loading …")}</Text>;
  return <AttemptForm files={[]} was={sheet.data.attempt} onDone={onDone} />;
}

/** AttemptForm adds an attempt, with its files if they are at hand, or changes one. */
export function AttemptForm({ files, was, onDone }: { files: File[]; was?: Attempt; onDone(id: string): void }) {
  const athletes = useAthletes();
  const refresh = useRefresh();
  const add = useAddAttempt();
  const change = useChangeAttempt();
  const [fresh, setFresh] = useState(false);
  const [clips, setClips] = useState<File[]>(files);
  const [a, setA, letGo] = useKept<NewAttempt>(`neo.form.attempt.${was?.id ?? "new"}`, was ? entered(was) : empty());
  const set = (c: Partial<NewAttempt>) => setA({ ...a, ...c });
  const variants = useModels().data?.find((m) => m.model.id === a.event)?.model.variants ?? [];
  const athlete = a.athlete_id || athletes.data?.[0]?.id || "";
  if (fresh || athletes.data?.length === 0)
    return (
      <>
        <Text color="quiet" mb="8px">
          {athletes.data?.length === 0 ? t("First, whose attempt is it?") : t("A new athlete")}
        </Text>
        <AthleteForm
          onDone={(n) => {
            set({ athlete_id: n.id });
            setFresh(false);
          }}
        />
      </>
    );
  const submit = (e: FormEvent) => {
    e.preventDefault();
    if (was)
      return andThen(change.mutateAsync({ id: was.id, body: { ...a, athlete_id: athlete } }), () => {
        letGo();
        onDone(was.id);
      });
    andThen(add.mutateAsync({ ...a, athlete_id: athlete }), (made) => {
      letGo();
      send(made.id, clips, () => refresh("queue", "workspace", "log"));
      onDone(made.id);
    });
  };
  return (
    <form onSubmit={submit}>
      <Grid templateColumns="1fr 1fr 1fr" gap="10px">
        <Box gridColumn="span 2">
          <Named name={t("Athlete")}>
            <Flex gap="6px" w="100%">
              <Choice
                name="athlete"
                value={athlete}
                options={Object.fromEntries((athletes.data ?? []).map((x) => [x.id, x.name]))}
                onChange={(v) => set({ athlete_id: v })}
              />
              <Button variant="outline" onClick={() => setFresh(true)}>
                {t("New")}
              </Button>
            </Flex>
          </Named>
        </Box>
        <Named name={t("Event")}>
          <Choice
            name="event"
            value={a.event}
            options={events}
            onChange={(v) => set({ event: v as NewAttempt["event"], variant: "" })}
          />
        </Named>
        {variants.length > 1 && (
          <Box gridColumn="span 3">
            <Named name={t("Style")}>
              <Choice
                name="variant"
                value={a.variant || variants[0].id}
                options={Object.fromEntries(variants.map((v) => [v.id, `${v.name}: ${v.says}`]))}
                onChange={(v) => set({ variant: v })}
              />
            </Named>
          </Box>
        )}
        <Named name={t("Date")}>
          <Input
            name="done_on"
            type="date"
            value={a.done_on}
            onChange={(e) => set({ done_on: e.target.value })}
            required
          />
        </Named>
        <Named name={t("Session")}>
          <Input name="session" value={a.session} onChange={(e) => set({ session: e.target.value })} maxLength={200} />
        </Named>
        <Named name={t("Place")}>
          <Input name="place" value={a.place} onChange={(e) => set({ place: e.target.value })} maxLength={200} />
        </Named>
        <Named name={t("Mark or time")}>
          <Input name="mark" value={a.mark} onChange={(e) => set({ mark: e.target.value })} maxLength={40} />
        </Named>
        <Named name={t("Mark that was aimed at")}>
          <Input name="goal" value={a.goal ?? ""} onChange={(e) => set({ goal: e.target.value })} maxLength={40} />
        </Named>
        {factsOf(a.event).runway && (
          <Count
            name="run_up"
            label={t("Steps of the run-up")}
            most={40}
            value={a.run_up}
            onChange={(run_up) => set({ run_up })}
          />
        )}
        {factsOf(a.event).turned && (
          <Count name="turns" label={t("Turns")} most={6} value={a.turns} onChange={(turns) => set({ turns })} />
        )}
        <Named name={t("Condition")}>
          <Choice
            value={a.condition}
            options={{ fresh: word("fresh"), tired: word("tired") }}
            onChange={(v) => set({ condition: v as "fresh" })}
          />
        </Named>
        <Named name={t("Setting")}>
          <Choice
            value={a.setting}
            options={{ practice: t("practice"), competition: t("competition") }}
            onChange={(v) => set({ setting: v as "practice" })}
          />
        </Named>
        <Named name={t("Under a roof")}>
          <Choice
            name="indoor"
            value={a.indoor ? "yes" : ""}
            options={{ "": t("outdoor"), yes: t("indoor") }}
            onChange={(v) => set({ indoor: v === "yes" })}
          />
        </Named>
        {withImplement.has(a.event) && (
          <Box gridColumn="span 3">
            <Named name={t("Implement or pole")}>
              <Input
                name="implement"
                value={a.implement}
                onChange={(e) => set({ implement: e.target.value })}
                maxLength={120}
                placeholder={t("hammer 7.26 kg")}
              />
            </Named>
          </Box>
        )}
        <Box gridColumn="span 3">
          <Named name={t("Current focus of the athlete’s own coach")}>
            <Input
              name="coach_focus"
              value={a.coach_focus}
              onChange={(e) => set({ coach_focus: e.target.value })}
              maxLength={2000}
            />
          </Named>
        </Box>
        <Box gridColumn="span 3">
          <Named name={t("Injuries to consider")}>
            <Textarea
              name="injury_note"
              rows={2}
              value={a.injury_note}
              onChange={(e) => set({ injury_note: e.target.value })}
              maxLength={2000}
            />
          </Named>
        </Box>
      </Grid>
      {!was && <DropArea files={clips} onFiles={(f) => setClips([...clips, ...f])} />}
      {(add.error || change.error || athletes.error) && (
        <Notice tone="clay" mt="10px">
          {(add.error ?? change.error ?? athletes.error)!.message}
        </Notice>
      )}
      <Flex justify="flex-end" mt="12px">
        <Button type="submit" loading={add.isPending || change.isPending}>
          {was
            ? t("Save")
            : clips.length
              ? t("Add and send {count} {which}", {
                  count: clips.length,
                  which: clips.length > 1 ? t("files") : t("file"),
                })
              : t("Add attempt")}
        </Button>
      </Flex>
    </form>
  );
}

/** entered is what a coach entered of an attempt. */
const entered = (a: Attempt): NewAttempt => {
  const { goal, run_up, turns, variant, felt, kept, words, indoor } = a;
  const out = { ...empty(), goal, run_up, turns, variant, felt, kept, words, indoor };
  for (const k of Object.keys(out) as (keyof NewAttempt)[]) Object.assign(out, { [k]: a[k] });
  return out;
};

/** Count asks for a small whole number that may be left open. */
const Count = ({
  name,
  label,
  most,
  value,
  onChange,
}: {
  name: string;
  label: string;
  most: number;
  value?: number;
  onChange(n: number | undefined): void;
}) => (
  <Named name={label}>
    <NumberField name={name} whole least={0} most={most} value={value} onValue={onChange} />
  </Named>
);
