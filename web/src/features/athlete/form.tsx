import { Box, Button, Flex, Grid, Input, Text } from "@chakra-ui/react";
import { useState, type FormEvent } from "react";
import type { Athlete, NewAthlete } from "../../api/client";
import { events, type EventID } from "../../api/events";
import { NumberField } from "../../ui/decimal";
import { Choice, Named } from "../../ui/field";
import { Notice } from "../../ui/parts";
import { useSaveAthlete } from "./api";
import ages from "../../api/gen/ages.gen.json";
import { andThen } from "../../api/topic";
import { today } from "../../ui/written";
import { t } from "../../texts/texts";
import { word } from "../../texts/words";

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
/** AthleteForm adds or changes an athlete. */
export function AthleteForm({ athlete, onDone }: { athlete?: Athlete; onDone(a: Athlete): void }) {
  const [a, setA] = useState<NewAthlete>(athlete ?? blank);
  const save = useSaveAthlete();
  const set = (c: Partial<NewAthlete>) => setA({ ...a, ...c });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    e.stopPropagation();
    // A height such as 178 is meant in centimetres.
    const height = a.height > 3 ? a.height / 100 : a.height;
    andThen(save.mutateAsync({ ...a, name: a.name.trim(), height, id: athlete?.id }), onDone);
  };
  const sides = { left: word("left"), right: word("right") };
  return (
    <form onSubmit={submit}>
      <Grid templateColumns="1fr 1fr 1fr" gap="10px">
        <Box gridColumn="span 2">
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
        <Named name={t("Year of birth")}>
          <NumberField
            name="born"
            whole
            least={1900}
            most={new Date().getFullYear()}
            value={a.born}
            onValue={(born) => set({ born: born as number })}
            required
          />
        </Named>
        <Named name={t("Standing height, m")}>
          <NumberField
            name="height"
            value={a.height}
            onValue={(height) => set({ height: height as number })}
            required
          />
        </Named>
        <Named name={t("Mass, kg")}>
          <NumberField
            name="mass"
            least={10}
            most={250}
            value={a.mass}
            onValue={(mass) => set({ mass: mass as number })}
            required
          />
        </Named>
        <Named name={t("Body proportions")}>
          <Choice
            name="sex"
            value={a.sex}
            options={{ female: word("female"), male: word("male") }}
            onChange={(v) => set({ sex: v as NewAthlete["sex"] })}
          />
        </Named>
        <Named name={t("Leg in the front block")}>
          <Choice
            name="front_leg"
            value={a.front_leg}
            options={sides}
            onChange={(v) => set({ front_leg: v as "left" })}
          />
        </Named>
        <Named name={t("Throwing hand")}>
          <Choice
            name="throwing_hand"
            value={a.throwing_hand}
            options={sides}
            onChange={(v) => set({ throwing_hand: v as "left" })}
          />
        </Named>
        <Named name={t("Take-off leg")}>
          <Choice
            name="takeoff_leg"
            value={a.takeoff_leg}
            options={sides}
            onChange={(v) => set({ takeoff_leg: v as "left" })}
          />
        </Named>
      </Grid>
      <Grid templateColumns="1fr" gap="10px" mt="10px">
        <Named name={t("What this season is for")}>
          <Input name="aim" value={a.aim ?? ""} maxLength={300} onChange={(e) => set({ aim: e.target.value })} />
        </Named>
        <Begun begun={a.begun ?? {}} onChange={(begun) => set({ begun })} />
      </Grid>
      {new Date().getFullYear() - a.born <= ages.adult && (
        <Grid templateColumns="2fr 1fr" gap="10px" mt="10px">
          <Named
            name={t("Guardian who agreed that clips are shared")}
            help={t("a minor's page is shared only with this")}
          >
            <Input
              name="consent_by"
              value={a.consent_by ?? ""}
              maxLength={200}
              onChange={(e) =>
                set({ consent_by: e.target.value, consent_on: e.target.value ? (a.consent_on ?? today()) : undefined })
              }
            />
          </Named>
          <Named name={t("Agreed on")}>
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
          {athlete ? t("Save") : t("Add athlete")}
        </Button>
      </Flex>
    </form>
  );
}

/** Begun asks since when somebody has done an event: in the first two years some bands are wider. */
function Begun({ begun, onChange }: { begun: Record<string, number>; onChange(b: Record<string, number>): void }) {
  const open = (Object.keys(events) as EventID[]).filter((id) => !(id in begun));
  return (
    <Box data-testid="begun">
      <Text fontSize="12px" color="quiet" mb="4px">
        {t("Year in which each event was begun: in the first two years some bands are wider")}
      </Text>
      <Flex gap="6px" wrap="wrap" align="center">
        {Object.entries(begun).map(([id, year]) => (
          <Flex key={id} align="center" gap="4px" bg="raised" borderRadius="panel" px="8px" h="30px" fontSize="12.5px">
            {events[id as EventID] ?? id}
            <NumberField
              w="92px"
              h="24px"
              whole
              least={1900}
              most={new Date().getFullYear()}
              aria-label={t("{events} begun in", { events: events[id as EventID] ?? id })}
              value={year || undefined}
              onValue={(y) => onChange({ ...begun, [id]: y ?? 0 })}
            />
            <Button
              size="2xs"
              variant="ghost"
              aria-label={t("forget since when {events}", { events: events[id as EventID] ?? id })}
              onClick={() => onChange(Object.fromEntries(Object.entries(begun).filter(([k]) => k !== id)))}
            >
              ×
            </Button>
          </Flex>
        ))}
        {open.length > 0 && (
          <Choice
            name="begun"
            value=""
            options={{ "": t("add an event"), ...Object.fromEntries(open.map((id) => [id, events[id]])) }}
            onChange={(id) => id && onChange({ ...begun, [id]: new Date().getFullYear() })}
          />
        )}
      </Flex>
    </Box>
  );
}
