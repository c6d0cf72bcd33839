import {
  Box,
  Button,
  CloseButton,
  Dialog,
  Field,
  Flex,
  Grid,
  Input,
  NativeSelect,
  Portal,
  Text,
  Textarea,
} from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useState, type FormEvent, type ReactNode } from "react";
import type { Athlete, NewAthlete, NewAttempt } from "../api/client";
import { events, withImplement } from "../api/events";
import { useAddAttempt, useAthletes, useModels, useSaveAthlete } from "../api/queries";
import { Notice } from "../ui/parts";
import { send } from "./uploads";

export function Sheet({
  title,
  open,
  onClose,
  children,
  wide,
  focus,
}: {
  title: string;
  open: boolean;
  onClose(): void;
  children: ReactNode;
  wide?: boolean | "screen";
  focus?: string;
}) {
  return (
    <Dialog.Root
      initialFocusEl={focus ? () => document.querySelector<HTMLElement>(focus) : undefined}
      open={open}
      onOpenChange={(d) => !d.open && onClose()}
      size={wide === "screen" ? "xl" : wide ? "lg" : "md"}
    >
      <Portal>
        <Dialog.Backdrop bg="rgba(8,11,12,.6)" />
        <Dialog.Positioner>
          <Dialog.Content bg="panel" borderRadius="10px" maxW={wide === "screen" ? "94vw" : undefined}>
            <Dialog.Header pb="6px">
              <Dialog.Title fontSize="16px">{title}</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body pb="18px">{children}</Dialog.Body>
            <Dialog.CloseTrigger asChild>
              <CloseButton size="sm" />
            </Dialog.CloseTrigger>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}

export const Named = ({ name, help, children }: { name: string; help?: string; children: ReactNode }) => (
  <Field.Root gap="2px">
    <Field.Label fontSize="12px" color="quiet" fontWeight="400">
      {name}
    </Field.Label>
    {children}
    {help && (
      <Text fontSize="11px" color="quiet">
        {help}
      </Text>
    )}
  </Field.Root>
);

export const Choice = ({
  value,
  options,
  onChange,
  name,
  small,
}: {
  value: string;
  options: Record<string, string>;
  onChange(v: string): void;
  name?: string;
  small?: boolean;
}) => (
  <NativeSelect.Root size={small ? "xs" : "sm"}>
    <NativeSelect.Field
      name={name}
      {...(small ? { h: "26px", fontSize: "12px" } : { h: "32px", fontSize: "13px" })}
      value={value}
      onChange={(e) => onChange(e.target.value)}
      bg="raised"
      borderColor="seam"
      borderRadius="panel"
    >
      {Object.entries(options).map(([v, t]) => (
        <option key={v} value={v}>
          {t}
        </option>
      ))}
    </NativeSelect.Field>
    <NativeSelect.Indicator />
  </NativeSelect.Root>
);

const blank: NewAthlete = {
  name: "",
  born: 2006,
  sex: "female",
  height: 1.7,
  mass: 60,
  front_leg: "left",
  throwing_hand: "right",
  takeoff_leg: "left",
};
const num = (s: string) => Number(s.replace(",", "."));

/** AthleteForm adds or changes an athlete. */
export function AthleteForm({ athlete, onDone }: { athlete?: Athlete; onDone(a: Athlete): void }) {
  const [a, setA] = useState<NewAthlete>(athlete ?? blank);
  const [height, setHeight] = useState(String(a.height));
  const save = useSaveAthlete();
  const set = (c: Partial<NewAthlete>) => setA({ ...a, ...c });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    e.stopPropagation();
    const h = num(height);
    // A height such as 178 is meant in centimetres.
    save.mutate({ ...a, name: a.name.trim(), height: h > 3 ? h / 100 : h, id: athlete?.id }, { onSuccess: onDone });
  };
  const sides = { left: "left", right: "right" };
  return (
    <form onSubmit={submit}>
      <Grid templateColumns="1fr 1fr 1fr" gap="10px">
        <Box gridColumn="span 2">
          <Named name="Name">
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
        <Named name="Year of birth">
          <Input
            name="born"
            type="number"
            value={a.born}
            onChange={(e) => set({ born: Number(e.target.value) })}
            required
          />
        </Named>
        <Named name="Standing height, m">
          <Input
            name="height"
            value={height}
            onChange={(e) => setHeight(e.target.value)}
            inputMode="decimal"
            required
          />
        </Named>
        <Named name="Mass, kg">
          <Input
            name="mass"
            type="number"
            step="0.5"
            value={a.mass}
            onChange={(e) => set({ mass: Number(e.target.value) })}
            required
          />
        </Named>
        <Named name="Body proportions">
          <Choice
            name="sex"
            value={a.sex}
            options={{ female: "female", male: "male" }}
            onChange={(v) => set({ sex: v as NewAthlete["sex"] })}
          />
        </Named>
        <Named name="Leg in the front block">
          <Choice
            name="front_leg"
            value={a.front_leg}
            options={sides}
            onChange={(v) => set({ front_leg: v as "left" })}
          />
        </Named>
        <Named name="Throwing hand">
          <Choice
            name="throwing_hand"
            value={a.throwing_hand}
            options={sides}
            onChange={(v) => set({ throwing_hand: v as "left" })}
          />
        </Named>
        <Named name="Take-off leg">
          <Choice
            name="takeoff_leg"
            value={a.takeoff_leg}
            options={sides}
            onChange={(v) => set({ takeoff_leg: v as "left" })}
          />
        </Named>
      </Grid>
      {new Date().getFullYear() - a.born <= 18 && (
        <Grid templateColumns="2fr 1fr" gap="10px" mt="10px">
          <Named name="Guardian who agreed that clips are shared" help="a minor's page is shared only with this">
            <Input
              name="consent_by"
              value={a.consent_by ?? ""}
              maxLength={200}
              onChange={(e) =>
                set({ consent_by: e.target.value, consent_on: e.target.value ? (a.consent_on ?? today()) : undefined })
              }
            />
          </Named>
          <Named name="Agreed on">
            <Input
              name="consent_on"
              type="date"
              max={today()}
              value={a.consent_on ?? ""}
              onChange={(e) => set({ consent_on: e.target.value || undefined })}
            />
          </Named>
        </Grid>
      )}
      {save.error && (
        <Notice tone="clay" mt="10px">
          {save.error.message}
        </Notice>
      )}
      <Flex justify="flex-end" mt="14px">
        <Button type="submit" loading={save.isPending}>
          {athlete ? "Save" : "Add athlete"}
        </Button>
      </Flex>
    </form>
  );
}

const today = () => new Date().toLocaleDateString("sv");

/** AttemptForm adds an attempt, with its files if they are at hand. */
export function AttemptForm({ files, onDone }: { files: File[]; onDone(id: string): void }) {
  const athletes = useAthletes();
  const queries = useQueryClient();
  const add = useAddAttempt();
  const [fresh, setFresh] = useState(false);
  const [clips, setClips] = useState<File[]>(files);
  const [a, setA] = useState<NewAttempt>({
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
  const set = (c: Partial<NewAttempt>) => setA({ ...a, ...c });
  const variants = useModels().data?.find((m) => m.model.id === a.event)?.model.variants ?? [];
  const athlete = a.athlete_id || athletes.data?.[0]?.id || "";
  if (fresh || athletes.data?.length === 0)
    return (
      <>
        <Text color="quiet" mb="8px">
          {athletes.data?.length === 0 ? "First, whose attempt is it?" : "A new athlete"}
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
    add.mutate(
      { ...a, athlete_id: athlete },
      {
        onSuccess: (made) => {
          send(made.id, clips, () => void queries.invalidateQueries());
          onDone(made.id);
        },
      },
    );
  };
  return (
    <form onSubmit={submit}>
      <Grid templateColumns="1fr 1fr 1fr" gap="10px">
        <Box gridColumn="span 2">
          <Named name="Athlete">
            <Flex gap="6px" w="100%">
              <Choice
                name="athlete"
                value={athlete}
                options={Object.fromEntries((athletes.data ?? []).map((x) => [x.id, x.name]))}
                onChange={(v) => set({ athlete_id: v })}
              />
              <Button variant="outline" onClick={() => setFresh(true)}>
                new
              </Button>
            </Flex>
          </Named>
        </Box>
        <Named name="Event">
          <Choice
            name="event"
            value={a.event}
            options={events}
            onChange={(v) => set({ event: v as NewAttempt["event"], variant: "" })}
          />
        </Named>
        {variants.length > 1 && (
          <Box gridColumn="span 3">
            <Named name="Style">
              <Choice
                name="variant"
                value={a.variant || variants[0].id}
                options={Object.fromEntries(variants.map((v) => [v.id, `${v.name}: ${v.says}`]))}
                onChange={(v) => set({ variant: v })}
              />
            </Named>
          </Box>
        )}
        <Named name="Date">
          <Input
            name="done_on"
            type="date"
            value={a.done_on}
            onChange={(e) => set({ done_on: e.target.value })}
            required
          />
        </Named>
        <Named name="Session">
          <Input name="session" value={a.session} onChange={(e) => set({ session: e.target.value })} maxLength={200} />
        </Named>
        <Named name="Place">
          <Input name="place" value={a.place} onChange={(e) => set({ place: e.target.value })} maxLength={200} />
        </Named>
        <Named name="Mark or time">
          <Input name="mark" value={a.mark} onChange={(e) => set({ mark: e.target.value })} maxLength={40} />
        </Named>
        <Named name="State">
          <Choice
            value={a.condition}
            options={{ fresh: "fresh", tired: "tired" }}
            onChange={(v) => set({ condition: v as "fresh" })}
          />
        </Named>
        <Named name="Setting">
          <Choice
            value={a.setting}
            options={{ practice: "practice", competition: "competition" }}
            onChange={(v) => set({ setting: v as "practice" })}
          />
        </Named>
        {withImplement.has(a.event) && (
          <Box gridColumn="span 3">
            <Named name="Implement or pole">
              <Input
                name="implement"
                value={a.implement}
                onChange={(e) => set({ implement: e.target.value })}
                maxLength={120}
                placeholder="hammer 7.26 kg"
              />
            </Named>
          </Box>
        )}
        <Box gridColumn="span 3">
          <Named name="What the athlete's own coach works on now">
            <Input
              name="coach_focus"
              value={a.coach_focus}
              onChange={(e) => set({ coach_focus: e.target.value })}
              maxLength={2000}
            />
          </Named>
        </Box>
        <Box gridColumn="span 3">
          <Named name="Injuries to mind">
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
      <DropArea files={clips} onFiles={(f) => setClips([...clips, ...f])} />
      {(add.error || athletes.error) && (
        <Notice tone="clay" mt="10px">
          {(add.error ?? athletes.error)!.message}
        </Notice>
      )}
      <Flex justify="flex-end" mt="12px">
        <Button type="submit" loading={add.isPending}>
          {clips.length ? `Add and send ${clips.length} ${clips.length > 1 ? "files" : "file"}` : "Add attempt"}
        </Button>
      </Flex>
    </form>
  );
}

/** DropArea takes files by hand or by dropping. */
export function DropArea({ files, onFiles }: { files: File[]; onFiles(f: File[]): void }) {
  const [over, setOver] = useState(false);
  return (
    <Box
      as="label"
      display="block"
      mt="12px"
      p="14px"
      border="1.5px dashed"
      borderColor={over ? "clay" : "seam"}
      borderRadius="panel"
      textAlign="center"
      color="quiet"
      cursor="pointer"
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        e.stopPropagation();
        setOver(false);
        onFiles([...e.dataTransfer.files]);
      }}
    >
      {files.length
        ? files.map((f) => f.name).join(", ")
        : "Drop clips here, or press to choose (MP4, MOV, WebM, up to 2 GB each)"}
      <input
        type="file"
        multiple
        accept="video/*,.mp4,.mov,.webm,.mkv,.avi"
        style={{ position: "absolute", width: 1, height: 1, opacity: 0 }}
        data-testid="files"
        onChange={(e) => onFiles([...(e.target.files ?? [])])}
      />
    </Box>
  );
}
