import { Box, Button, Flex, Input, Link, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { NewTraining, PlanSession, SeasonView, Training } from "../../api/client";
import { events, withImplement, type EventID } from "../../api/events";
import { NumberField } from "../../ui/decimal";
import { Choice, Named } from "../../ui/field";
import { Head, Notice } from "../../ui/parts";
import { useTakeAway } from "../../ui/undo";
import { DrillName } from "../drills/link";
import { dayOfWeek, weekday } from "../../ui/written";
import { t } from "../../texts/texts";
import { useDropTraining, usePutTraining } from "./api";
import { kinds, titled, toneOf, weekDays } from "./words";

/** Day is what is planned on a day, and what was done. */
export function Day({
  v,
  on,
  onMove,
  onLost,
}: {
  v: SeasonView;
  on: string;
  onMove(to: string): void;
  onLost(lost: boolean): void;
}) {
  const week = v.plan.weeks.find((w) => weekDays(w.monday).includes(on));
  const list = week?.sessions.filter((s) => s.day === on) ?? [];
  const lost = v.outline.lost.includes(on);
  const moves = list.some((s) => s.kind !== "compete");
  return (
    <Box bg="panel" borderRadius="panel" p="12px 16px 16px" data-testid="day">
      <Head
        right={
          list.length > 0 && (
            <Link
              href={`/api/athletes/${v.athlete.id}/card.pdf?day=${on}`}
              target="_blank"
              fontSize="12px"
              color="quiet"
              display="inline-flex"
              alignItems="center"
              minH="32px"
              css={{ "@media (pointer: coarse)": { minHeight: "44px" } }}
            >
              {t("Card to print")}
            </Link>
          )
        }
      >
        {weekday(on)}
      </Head>
      {week?.says.map((s) => (
        <Notice key={s} mb="8px">
          {s}
        </Notice>
      ))}
      {list.map((s, i) => (
        <Planned key={i} s={s} v={v} />
      ))}
      {list.length === 0 && (
        <Text color="quiet" mb="10px">
          {lost ? t("This day falls out.") : t("Free.")}
        </Text>
      )}
      <Flex gap="6px" wrap="wrap" align="center" mb="14px">
        {(moves || lost) && (
          <Button size="xs" variant="outline" onClick={() => onLost(!lost)}>
            {lost ? t("The day is there again") : t("The day falls out")}
          </Button>
        )}
        {moves &&
          weekDays(on)
            .filter((d) => d !== on)
            .map((d) => (
              <Button
                key={d}
                size="xs"
                variant="ghost"
                px="6px"
                title={t("Move to {day}", { day: weekday(d) })}
                onClick={() => onMove(d)}
              >
                → {dayOfWeek(d)}
              </Button>
            ))}
      </Flex>
      <Done key={on} v={v} on={on} planned={list} />
    </Box>
  );
}

function Planned({ s, v }: { s: PlanSession; v: SeasonView }) {
  const c = v.changes.find((x) => x.id === s.change);
  return (
    <Box borderLeft="3px solid" borderColor={toneOf(s)} pl="10px" mb="12px">
      <Text fontWeight="650" fontSize="14px">
        {titled(s)}
        <Text as="span" color="quiet" fontWeight="400" fontSize="12px">
          {" "}
          {t("{minutes} min, effort {effort} of 10", { minutes: s.minutes, effort: Math.round(s.effort) })}
        </Text>
      </Text>
      {c && (
        <Text fontSize="15px" color="clay" fontWeight="600" my="3px">
          “{c.words}”
        </Text>
      )}
      {s.parts.map((p, i) => (
        <Flex key={i} justify="space-between" fontSize="12.5px">
          <span>{p.name}</span>
          <Text as="span" color="quiet">
            {p.tries || ""}
          </Text>
        </Flex>
      ))}
      {(s.heavy || s.easy) && (
        <Text fontSize="12px" color="quiet">
          {[
            s.heavy ? t("{count} with a heavier implement", { count: s.heavy }) : "",
            s.easy ? t("{count} with a lighter one", { count: s.easy }) : "",
          ]
            .filter(Boolean)
            .join(", ")}
        </Text>
      )}
      {s.drill && (
        <Text fontSize="12.5px" mt="3px">
          <DrillName name={s.drill} />, {s.dose}
          {s.rung && (
            <Text as="span" color="quiet">
              {" "}
              · {s.rung}
            </Text>
          )}
        </Text>
      )}
    </Box>
  );
}

/** start is what was planned, as though it had been done. */
const start = (v: SeasonView, on: string, planned: PlanSession[]): NewTraining => {
  const s = planned.find((x) => x.kind !== "lift") ?? planned[0];
  return {
    done_on: on,
    event: s?.event ?? v.outline.events[0] ?? "",
    kind: s?.kind ?? "technique",
    tries: s?.tries ?? 0,
    full: s?.full ?? 0,
    implements: "",
    effort: Math.round(s?.effort ?? 5),
    minutes: s?.minutes ?? 60,
    felt: "",
    ...(s?.change ? { attempt_id: s.change } : {}),
  };
};

/** efforts stand beside each other as far as there is room; under a finger each has 44 px. */
const efforts = {
  gridTemplateColumns: "repeat(auto-fill, minmax(30px, 1fr))",
  "@media (pointer: coarse)": { gridTemplateColumns: "repeat(auto-fill, minmax(44px, 1fr))" },
};

/** Done takes in what was done: the planned numbers stand there already, so that one press may do. */
function Done({ v, on, planned }: { v: SeasonView; on: string; planned: PlanSession[] }) {
  const put = usePutTraining();
  const drop = useDropTraining();
  const { gone, take } = useTakeAway();
  const [f, setF] = useState(() => start(v, on, planned));
  const had = v.trainings.filter((x) => x.done_on === on && !gone.has(x.id));
  const set = (c: Partial<NewTraining>) => setF({ ...f, ...c });
  const lifting = f.kind === "lift" || f.kind === "other";
  const store = () =>
    put.mutate({ athlete: v.athlete.id, id: crypto.randomUUID(), ...f, event: lifting ? "" : f.event });
  if (on > v.today)
    return (
      <Text fontSize="12px" color="quiet">
        {t("What was done is typed on the day itself.")}
      </Text>
    );
  const options: Record<string, string> = {};
  for (const e of new Set([...v.outline.events, ...(f.event ? [f.event] : [])])) options[e] = events[e as EventID];
  return (
    <Box borderTop="1px solid" borderColor="seam" pt="10px" data-testid="done">
      <Head>{t("Done")}</Head>
      {had.map((x) => (
        <Flex key={x.id} align="center" gap="8px" fontSize="12.5px" mb="4px">
          <Text color="moss">✓</Text>
          <Text flex="1">{said(x)}</Text>
          <Button
            size="xs"
            variant="ghost"
            aria-label={t("Take this session out")}
            onClick={() => take(x.id, t("Session taken out"), (done) => drop.mutate(x.id, { onSettled: done }))}
          >
            ×
          </Button>
        </Flex>
      ))}
      <form
        onSubmit={(e) => {
          e.preventDefault();
          store();
        }}
      >
        <Flex gap="8px" mb="8px">
          <Box flex="1" minW="0">
            <Named name={t("What")}>
              <Choice name="kind" value={f.kind} options={kinds} onChange={(k) => set({ kind: k as "full" })} />
            </Named>
          </Box>
          {!lifting && Object.keys(options).length > 0 && (
            <Box flex="1" minW="0">
              <Named name={t("Event")}>
                <Choice name="event" value={f.event} options={options} onChange={(event) => set({ event })} />
              </Named>
            </Box>
          )}
        </Flex>
        <Flex gap="8px" mb="8px">
          {!lifting && (
            <>
              <Whole name="tries" label={t("Tries")} value={f.tries} set={(tries) => set({ tries })} />
              <Whole name="full" label={t("of these full")} value={f.full} set={(full) => set({ full })} />
            </>
          )}
          <Whole name="minutes" label={t("Minutes")} value={f.minutes} set={(minutes) => set({ minutes })} />
        </Flex>
        <Text fontSize="12px" color="quiet">
          {t("How hard it was")}
        </Text>
        <Box
          display="grid"
          css={efforts}
          gap="2px"
          mb="8px"
          role="radiogroup"
          aria-label={t("How hard it was, 0 to 10")}
        >
          {[0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10].map((n) => (
            <Button
              key={n}
              type="button"
              role="radio"
              aria-checked={f.effort === n}
              size="xs"
              minW="0"
              px="0"
              variant={f.effort === n ? "solid" : "outline"}
              onClick={() => set({ effort: n })}
            >
              {n}
            </Button>
          ))}
        </Box>
        <Flex gap="8px" mb="8px">
          <Input
            name="felt"
            size="sm"
            value={f.felt}
            maxLength={300}
            placeholder={t("how it felt")}
            onChange={(e) => set({ felt: e.target.value })}
          />
          {withImplement.has(f.event) && !lifting && (
            <Input
              name="implements"
              size="sm"
              w="120px"
              value={f.implements}
              maxLength={120}
              placeholder={t("implements")}
              onChange={(e) => set({ implements: e.target.value })}
            />
          )}
        </Flex>
        <Button type="submit" size="sm" loading={put.isPending}>
          {had.length ? t("Keep another") : t("Done so")}
        </Button>
      </form>
      {put.error && (
        <Notice tone="clay" mt="8px">
          {put.error.message}
        </Notice>
      )}
    </Box>
  );
}

const said = (x: Training) =>
  [
    x.event ? events[x.event as EventID] : kinds[x.kind],
    x.tries ? t("{tries} tries, {full} full", { tries: x.tries, full: x.full }) : "",
    x.implements,
    t("{minutes} min at {effort}", { minutes: x.minutes, effort: x.effort }),
    x.felt && `“${x.felt}”`,
  ]
    .filter(Boolean)
    .join(" · ");

function Whole({
  name,
  label,
  value,
  set,
  max = 1000,
}: {
  name: string;
  label: string;
  value: number;
  set(n: number): void;
  max?: number;
}) {
  return (
    <Box flex="1" minW="0">
      <Named name={label}>
        <NumberField
          name={name}
          whole
          least={0}
          most={max}
          size="sm"
          value={value}
          onValue={(n) => n !== undefined && set(n)}
        />
      </Named>
    </Box>
  );
}
