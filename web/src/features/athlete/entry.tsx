import { Box, Button, Flex, Grid, Input, Text } from "@chakra-ui/react";
import { useEffect, useState, type KeyboardEvent } from "react";
import { Failure, type SessionEntry } from "../../api/client";
import { events, withImplement, type EventID } from "../../api/events";
import { useEnterSession } from "./api";
import { useModels } from "../models/api";
import { Choice, Named } from "../../ui/field";
import { Key, Notice } from "../../ui/parts";
import { recall, remember } from "../../ui/recall";
import { today } from "../../ui/written";
import { t } from "../../texts/texts";

type Draft = Omit<SessionEntry, "lines"> & { lines: { text: string; at: string }[] };

/** Entry types a whole session in: one line an attempt, Enter after each. What was
 * typed stays in this browser until it is stored. */
export function Entry({ athlete, event, onDone }: { athlete: string; event: EventID; onDone(): void }) {
  const kept = `neo.session.${athlete}`;
  const [d, setD] = useState<Draft>(() => {
    const blank: Draft = {
      athlete_id: athlete,
      event,
      done_on: today(),
      session: "",
      implement: "",
      setting: "practice",
      condition: "fresh",
      lines: [],
    };
    const old = recall<Partial<Draft>>(kept, {});
    return { ...blank, ...old, lines: Array.isArray(old.lines) ? old.lines : [] };
  });
  const [text, setText] = useState("");
  const store = useEnterSession();
  const variants = useModels().data?.find((m) => m.model.id === d.event)?.model.variants ?? [];
  const wrong = store.error instanceof Failure ? store.error.fields : [];
  const set = (c: Partial<Draft>) => setD({ ...d, ...c });
  useEffect(() => remember(kept, d), [kept, d]);
  const add = () => {
    if (!text.trim()) return;
    store.reset();
    // Only what is typed on the day itself has a time that clips can be matched by.
    set({ lines: [...d.lines, { text: text.trim(), at: d.done_on === today() ? new Date().toISOString() : "" }] });
    setText("");
  };
  const finish = (lines = d.lines) =>
    lines.length > 0 &&
    store.mutate(
      { ...d, lines: lines.map((l) => (l.at ? l : { text: l.text })) },
      {
        onSuccess: () => {
          localStorage.removeItem(kept);
          setD({ ...d, lines: [] });
          onDone();
        },
      },
    );
  const onKey = (e: KeyboardEvent) => {
    if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) {
      e.preventDefault();
      const last = text.trim() ? [...d.lines, { text: text.trim(), at: "" }] : d.lines;
      if (text.trim()) set({ lines: last });
      setText("");
      finish(last);
    } else if (e.key === "Enter") {
      e.preventDefault();
      add();
    } else if (e.key === "Backspace" && !text && d.lines.length) {
      e.preventDefault();
      setText(d.lines[d.lines.length - 1].text);
      set({ lines: d.lines.slice(0, -1) });
    }
  };
  return (
    <Box data-testid="entry">
      <Grid templateColumns="1fr 1fr 1fr" gap="8px" mb="10px">
        <Named name={t("Event")}>
          <Choice
            name="event"
            value={d.event}
            options={events}
            onChange={(v) => set({ event: v as EventID, variant: "" })}
          />
        </Named>
        <Named name={t("Date")}>
          <Input
            name="done_on"
            type="date"
            value={d.done_on}
            max={today()}
            onChange={(e) => set({ done_on: e.target.value })}
          />
        </Named>
        <Named name={t("Session")}>
          <Input name="session" value={d.session} maxLength={200} onChange={(e) => set({ session: e.target.value })} />
        </Named>
        {variants.length > 1 && (
          <Named name={t("Style")}>
            <Choice
              name="variant"
              value={d.variant || variants[0].id}
              options={Object.fromEntries(variants.map((v) => [v.id, v.name]))}
              onChange={(v) => set({ variant: v })}
            />
          </Named>
        )}
        {withImplement.has(d.event) && (
          <Named name={t("Implement or pole")}>
            <Input
              name="implement"
              value={d.implement}
              maxLength={120}
              onChange={(e) => set({ implement: e.target.value })}
            />
          </Named>
        )}
        <Named name={t("Setting")}>
          <Choice
            name="setting"
            value={d.setting}
            options={{ practice: t("practice"), competition: t("competition") }}
            onChange={(v) => set({ setting: v as "practice" })}
          />
        </Named>
        <Named name={t("Under a roof")}>
          <Choice
            name="indoor"
            value={d.indoor ? "yes" : ""}
            options={{ "": t("outdoor"), yes: t("indoor") }}
            onChange={(v) => set({ indoor: v === "yes" })}
          />
        </Named>
      </Grid>
      <Flex wrap="wrap" gap="5px" mb="6px">
        {d.lines.map((l, i) => {
          const bad = wrong.some((w) => w.startsWith(t("line {i}:", { i: i + 1 })));
          return (
            <Button
              key={i}
              size="xs"
              variant="outline"
              borderColor={bad ? "clay" : "seam"}
              title={t("Take it back to change it")}
              onClick={() => (setText(l.text), set({ lines: d.lines.filter((_, k) => k !== i) }))}
            >
              <Text as="span" color="quiet">
                {i + 1}
              </Text>
              {l.text}
            </Button>
          );
        })}
      </Flex>
      <Input
        name="line"
        autoFocus
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={onKey}
        placeholder={t("attempt {count}: 58.40   182-6   5.38 +1.2   x over the rim", { count: d.lines.length + 1 })}
        fontSize="17px"
        h="42px"
      />
      <Flex align="center" gap="10px" mt="8px">
        <Text fontSize="11.5px" color="quiet" flex="1">
          <Key>{t("Enter")}</Key> {t("next,")} <Key>⌫</Key> {t("back to the one before,")} <Key>{t("Ctrl")}</Key>{" "}
          <Key>{t("Enter")}</Key>{" "}
          {t("store. Metres or feet-inches; + or − is wind; x a foul with its reason, - a pass.")}
        </Text>
        <Button disabled={!d.lines.length} loading={store.isPending} onClick={() => finish()}>
          {t("Store {count} {which}", {
            count: d.lines.length || "",
            which: d.lines.length === 1 ? t("attempt") : t("attempts"),
          })}
        </Button>
      </Flex>
      {store.error && (
        <Notice tone="clay" mt="8px">
          {store.error.message}
        </Notice>
      )}
    </Box>
  );
}
