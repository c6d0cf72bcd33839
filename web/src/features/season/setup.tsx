import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Competition, FreeDay, Outline } from "../../api/client";
import { events, type EventID } from "../../api/events";
import { Choice, Named } from "../../ui/field";
import { Head, Notice } from "../../ui/parts";
import { dayOfWeek, later, monday } from "../../ui/written";
import { t } from "../../texts/texts";
import { places, weekDays } from "./words";

/** Setup is what a coach enters of a season. */
export function Setup({
  outline,
  error,
  busy,
  onSave,
}: {
  outline: Outline;
  error?: string;
  busy: boolean;
  onSave(o: Outline): void;
}) {
  const [o, setO] = useState(outline);
  const set = (c: Partial<Outline>) => setO({ ...o, ...c });
  const names = weekDays(o.from);
  const freeOn = (n: number) => o.free.find((f) => f.weekday === n);
  const put = (n: number, f: FreeDay | null) =>
    set({ free: [...o.free.filter((x) => x.weekday !== n), ...(f ? [f] : [])].sort((a, b) => a.weekday - b.weekday) });
  const other = Object.fromEntries(Object.entries(events).filter(([e]) => !o.events.includes(e)));
  return (
    <form
      data-testid="setup"
      onSubmit={(e) => {
        e.preventDefault();
        onSave(o);
      }}
    >
      <Flex gap="10px" mb="12px" wrap="wrap">
        <Box flex="1 1 130px">
          <Named name={t("From")}>
            <Input
              name="from"
              type="date"
              value={o.from}
              onChange={(e) => e.target.value && set({ from: e.target.value })}
            />
          </Named>
        </Box>
        <Box flex="1 1 130px">
          <Named name={t("To")}>
            <Input name="to" type="date" value={o.to} onChange={(e) => e.target.value && set({ to: e.target.value })} />
          </Named>
        </Box>
        <Box flex="2 1 200px">
          <Named name={t("Events, the main one first")}>
            <Flex gap="4px" wrap="wrap">
              {o.events.map((e) => (
                <Button
                  key={e}
                  type="button"
                  size="xs"
                  variant="outline"
                  title={t("Take it out")}
                  onClick={() => set({ events: o.events.filter((x) => x !== e) })}
                >
                  {events[e as EventID]} ×
                </Button>
              ))}
              {o.events.length < 5 && (
                <Box w="130px">
                  <Choice
                    small
                    name="event"
                    label={t("Another event")}
                    value=""
                    options={{ "": t("add …"), ...other }}
                    onChange={(e) => e && set({ events: [...o.events, e] })}
                  />
                </Box>
              )}
            </Flex>
          </Named>
        </Box>
      </Flex>
      <Head>{t("Competitions")}</Head>
      {o.competitions.map((c) => (
        <Meeting
          key={c.id}
          c={c}
          events={o.events}
          onChange={(to) => set({ competitions: o.competitions.map((x) => (x.id === c.id ? to : x)) })}
          onDrop={() => set({ competitions: o.competitions.filter((x) => x.id !== c.id) })}
        />
      ))}
      <Button
        type="button"
        size="xs"
        variant="outline"
        mb="14px"
        onClick={() =>
          set({
            competitions: [
              ...o.competitions,
              {
                id: crypto.randomUUID().slice(0, 8),
                name: t("Competition"),
                event: o.events[0] ?? "",
                day: later(monday(o.to), 5),
                weight: o.competitions.some((c) => c.weight === "A") ? "B" : "A",
              },
            ],
          })
        }
      >
        {t("Add a competition")}
      </Button>
      <Head>{t("Days that are free, with the places that are")}</Head>
      <Box mb="14px">
        {names.map((d, n) => {
          const f = freeOn(n);
          return (
            <Flex key={n} align="center" gap="8px" wrap="wrap" py="2px">
              <Button
                type="button"
                size="xs"
                w="64px"
                aria-pressed={!!f}
                variant={f ? "solid" : "outline"}
                onClick={() => put(n, f ? null : { weekday: n, places: [], minutes: 90 })}
              >
                {dayOfWeek(d)}
              </Button>
              {f && (
                <>
                  <Input
                    aria-label={t("Minutes on {day}", { day: dayOfWeek(d) })}
                    type="number"
                    w="72px"
                    size="sm"
                    min={15}
                    max={300}
                    value={f.minutes}
                    onChange={(e) => put(n, { ...f, minutes: Math.round(Number(e.target.value) || 0) })}
                  />
                  <Text fontSize="12px" color="quiet">
                    {t("min")}
                  </Text>
                  {Object.entries(places).map(([p, name]) => {
                    const has = f.places.length === 0 || f.places.includes(p as FreeDay["places"][number]);
                    return (
                      <Button
                        key={p}
                        type="button"
                        size="xs"
                        px="7px"
                        variant={has ? "subtle" : "ghost"}
                        color={has ? "chalk" : "quiet"}
                        textDecoration={has ? undefined : "line-through"}
                        aria-pressed={has}
                        onClick={() => {
                          const all = Object.keys(places) as FreeDay["places"];
                          const now = f.places.length ? f.places : all;
                          const next = has ? now.filter((x) => x !== p) : [...now, p as FreeDay["places"][number]];
                          put(n, { ...f, places: next.length === all.length || next.length === 0 ? [] : next });
                        }}
                      >
                        {name}
                      </Button>
                    );
                  })}
                </>
              )}
            </Flex>
          );
        })}
      </Box>
      {error && (
        <Notice tone="clay" mb="8px">
          {error}
        </Notice>
      )}
      <Button type="submit" loading={busy}>
        {t("Plan this season")}
      </Button>
    </form>
  );
}

function Meeting({
  c,
  events: own,
  onChange,
  onDrop,
}: {
  c: Competition;
  events: string[];
  onChange(c: Competition): void;
  onDrop(): void;
}) {
  const list: Record<string, string> = {};
  for (const e of new Set([...own, ...(c.event ? [c.event] : [])])) list[e] = events[e as EventID];
  return (
    <Flex gap="6px" mb="6px" wrap="wrap" align="center" data-testid="meeting">
      <Box w="62px">
        <Choice
          name="weight"
          label={t("Weight of the competition")}
          value={c.weight}
          options={{ A: "A", B: "B", C: "C" }}
          onChange={(w) => onChange({ ...c, weight: w as "A" })}
        />
      </Box>
      <Input
        name="meeting"
        aria-label={t("Name of the competition")}
        flex="1 1 160px"
        size="sm"
        value={c.name}
        maxLength={120}
        onChange={(e) => onChange({ ...c, name: e.target.value })}
      />
      <Input
        name="day"
        aria-label={t("Day of the competition")}
        type="date"
        w="140px"
        size="sm"
        value={c.day}
        onChange={(e) => e.target.value && onChange({ ...c, day: e.target.value })}
      />
      {Object.keys(list).length > 1 && (
        <Box w="120px">
          <Choice
            name="of"
            label={t("Event of the competition")}
            value={c.event}
            options={list}
            onChange={(event) => onChange({ ...c, event })}
          />
        </Box>
      )}
      <Button
        type="button"
        size="xs"
        variant={c.indoor ? "solid" : "ghost"}
        aria-pressed={!!c.indoor}
        onClick={() => onChange({ ...c, indoor: !c.indoor })}
      >
        {t("indoor")}
      </Button>
      <Button type="button" size="xs" variant="ghost" aria-label={t("Take this competition out")} onClick={onDrop}>
        ×
      </Button>
    </Flex>
  );
}
