import { Box, Button, Flex, Grid, Heading, Input, Text } from "@chakra-ui/react";
import { useState, type ReactNode } from "react";
import { useNavigate } from "react-router";
import type { Me } from "../../api/client";
import { capOf } from "../../settings/keys";
import { change, useSettings, type Settings as Chosen } from "../../settings/settings";
import { languages, speak, t } from "../../texts/texts";
import { Choice, Named } from "../../ui/field";
import { Head, Notice, Panel } from "../../ui/parts";
import { useTitle } from "../../ui/title";
import { fixed, longDay, today } from "../../ui/written";
import { usePageKeys } from "../../ui/page_keys";
import { useSetDirections } from "../account/api";
import { allow, canTell, tellNews } from "../queue/news";
import { shortcuts } from "../workspace/shortcuts";

type Directions = NonNullable<Me["user"]>["directions"];

/** nameOf writes a language in itself, a country in the language of the page. */
const nameOf = (kind: "language" | "region", code: string, language: string) =>
  new Intl.DisplayNames([kind === "language" ? code : language], { type: kind }).of(code) ?? code;

// Where athletics is written in a way of its own; the browser knows any other by itself.
const regions = [
  "AU",
  "AT",
  "BE",
  "BR",
  "CA",
  "CZ",
  "DE",
  "DK",
  "ES",
  "FI",
  "FR",
  "GB",
  "IE",
  "IN",
  "IT",
  "JP",
  "KE",
  "NL",
  "NO",
  "NZ",
  "PL",
  "PT",
  "SE",
  "CH",
  "US",
  "ZA",
];

/** Settings are what this coach chose; all but the directions is kept in this browser. */
export default function Settings({ me }: { me: NonNullable<Me["user"]> }) {
  const s = useSettings();
  const go = useNavigate();
  const directions = useSetDirections();
  useTitle(t("Settings"));
  usePageKeys({ Escape: () => void go("/") });
  const spoken = s.language === "marked" ? "en" : s.language;
  return (
    <Box maxW="900px" mx="auto" px={{ base: "12px", md: "20px" }} pb="60px">
      <Flex as="header" h="58px" align="center" gap="12px">
        <Button variant="ghost" px="4px" onClick={() => void go("/")} aria-label={t("Back to the queue")}>
          <img src="/mark.svg" width={26} height={26} alt="" />
        </Button>
        <Heading as="h1" fontSize="17px" fontWeight="700">
          {t("Settings")}
        </Heading>
        <Text color="quiet" fontSize="12px">
          {t("kept in this browser; each device may have its own")}
        </Text>
      </Flex>
      <Grid
        as="main"
        className="grows"
        templateColumns={{ base: "1fr", md: "1fr 1fr" }}
        gap="14px"
        data-testid="settings"
      >
        <Part name={t("Language and numbers")}>
          <Named name={t("Language")} help={t("Names and cues of the models stay as they were written.")}>
            <Choice
              name="language"
              value={s.language}
              options={Object.fromEntries(
                [...new Set([...languages, s.language])].map((l) => [
                  l,
                  l === "marked" ? "⟦ ⟧" : nameOf("language", l, spoken),
                ]),
              )}
              onChange={(v) => void speak(v)}
            />
          </Named>
          <Named name={t("Dates and numbers as in")}>
            <Choice
              name="region"
              value={s.region}
              options={{
                "": t("this browser’s place"),
                ...Object.fromEntries(regions.map((r) => [r, nameOf("region", r, spoken)])),
              }}
              onChange={(region) => {
                change({ region });
                location.reload();
              }}
            />
          </Named>
          <Text color="quiet" fontSize="12.5px" data-testid="as-written">
            {t("Today is {day}; a step of {length} m is written like this. You may type 60.5 or 60,5 anywhere.", {
              day: longDay(today()),
              length: fixed(2.35, 2),
            })}
          </Text>
        </Part>
        <Part name={t("Units and names")}>
          <Pick
            name={t("Lengths")}
            of="units"
            options={{ metric: t("metres and centimetres"), feet: t("feet and inches") }}
          />
          <Pick name={t("Pull and force")} of="force" options={{ N: "N", kgf: "kgf", lbf: "lbf" }} />
          <Named name={t("Directions in the circle")} help={t("The whole account, on every device.")}>
            <Choice
              name="directions"
              value={me.directions}
              options={{
                degrees: t("directions in degrees"),
                "clock-back": t("clock, 12 at the back"),
                "clock-throw": t("clock, 12 at the throw"),
              }}
              onChange={(v) => directions.mutate(v as Directions)}
            />
          </Named>
          <Pick
            name={t("Phases are named after")}
            of="phases"
            options={{
              task: t("what is done: leg sweep, delivery, push"),
              support: t("what stands on the ground: single support, flight"),
            }}
          />
          {directions.error && <Notice tone="clay">{directions.error.message}</Notice>}
        </Part>
        <Part name={t("Look")}>
          <Pick
            name={t("Ground")}
            of="theme"
            options={{
              system: t("as the device has it"),
              dark: t("dark, for the evening"),
              light: t("light, for the sun"),
            }}
          />
          <Named
            name={t("Size of the texts")}
            help={t(
              "In panels, windows and pages. Picture, score and queue keep theirs; the browser’s own zoom makes all of it larger.",
            )}
          >
            <Flex gap="6px">
              {[1, 1.15, 1.3].map((k) => (
                <Button
                  key={k}
                  size="xs"
                  variant={s.text === k ? "outline" : "ghost"}
                  aria-pressed={s.text === k}
                  onClick={() => change({ text: k })}
                >
                  {t("{percent} %", { percent: Math.round(100 * k) })}
                </Button>
              ))}
            </Flex>
          </Named>
        </Part>
        <Part name={t("Notifications")}>
          <Tell />
        </Part>
        <Part name={t("Answers by eye")}>
          <label style={{ display: "flex", gap: 8, alignItems: "center" }}>
            <input type="checkbox" name="eye" checked={s.eye} onChange={(e) => change({ eye: e.target.checked })} />
            {t("My measured eye counts")}
          </label>
          <Text color="quiet" fontSize="12.5px" mt="4px">
            {t(
              "Where eye training has measured an event, your yes or no carries how often such answers are right; below 85 of 100 the verdict stays open.",
            )}
          </Text>
        </Part>
        <Part name={t("Keys")}>
          <label style={{ display: "flex", gap: 8, alignItems: "center" }}>
            <input
              type="checkbox"
              name="letters"
              checked={s.letters}
              onChange={(e) => change({ letters: e.target.checked })}
            />
            {t("Single letters and digits are keys")}
          </label>
          <Text color="quiet" fontSize="12.5px" mt="4px">
            {t(
              "Switch them off when you dictate or when keys are pressed by mistake; arrows, Space, Enter and Esc stay.",
            )}
          </Text>
        </Part>
        {s.letters && <OwnKeys />}
      </Grid>
    </Box>
  );
}

const Part = ({ name, children }: { name: string; children: ReactNode }) => (
  <Panel p="14px" as="section" aria-label={name}>
    <Head tone="chalk">{name}</Head>
    <Flex direction="column" gap="10px">
      {children}
    </Flex>
  </Panel>
);

/** Tell chooses what this device tells while the coach looks elsewhere; the browser must allow it. */
function Tell() {
  const { notify } = useSettings();
  const [refused, setRefused] = useState(false);
  const choose = async (to: Chosen["notify"]) => {
    const may = to === "none" || (await allow());
    setRefused(!may);
    if (!may) return;
    change({ notify: to });
    void tellNews(); // from here on
  };
  return (
    <>
      <Named name={t("Told on this device")} help={t("While a page of this application is open, also behind others.")}>
        <Choice
          name="notify"
          value={notify}
          options={{
            none: t("nothing"),
            answers: t("what athletes write back"),
            all: t("what athletes write back, and that clips are drafted"),
          }}
          onChange={(v) => void choose(v as Chosen["notify"])}
        />
      </Named>
      {refused && (
        <Notice>
          {canTell()
            ? t("The browser does not allow notifications of this site. Allow them in its settings for this address.")
            : t("Notifications need an address with https.")}
        </Notice>
      )}
    </>
  );
}

/** Pick is a choice of one setting. */
function Pick<K extends "units" | "force" | "theme" | "phases">({
  name,
  of,
  options,
}: {
  name: string;
  of: K;
  options: Record<Chosen[K], string>;
}) {
  const s = useSettings();
  return (
    <Named name={name}>
      <Choice name={of} value={s[of]} options={options} onChange={(v) => change({ [of]: v } as Partial<Chosen>)} />
    </Named>
  );
}

const letters = shortcuts.flatMap((s) =>
  Object.keys(s.keys)
    .filter((k) => /^[a-z.,]$/.test(k))
    .map((key) => ({ key, does: s.each?.[key] ?? s.does })),
);

/** OwnKeys lets each letter of the Bench be another one. */
function OwnKeys() {
  const { keys } = useSettings();
  const put = (usual: string, typed: string) => {
    const to = typed.slice(-1).toLowerCase();
    const rest = Object.fromEntries(Object.entries(keys).filter(([k]) => k !== usual));
    change({ keys: to && to !== usual ? { ...rest, [usual]: to } : rest });
  };
  const cap = (k: string) => capOf(k);
  const twice = letters.filter((a) => letters.some((b) => b.key !== a.key && cap(b.key) === cap(a.key)));
  return (
    <Panel p="14px" as="section" gridColumn="1 / -1" aria-label={t("Keys of the Bench")}>
      <Head
        tone="chalk"
        right={
          Object.keys(keys).length > 0 && (
            <Button size="xs" variant="outline" onClick={() => change({ keys: {} })}>
              {t("Back to the usual keys")}
            </Button>
          )
        }
      >
        {t("Keys of the Bench")}
      </Head>
      {twice.length > 0 && (
        <Notice mb="8px">
          {t("{keys} is there twice; the first of the two acts.", {
            keys: [...new Set(twice.map((x) => cap(x.key)))].join(", "),
          })}
        </Notice>
      )}
      <Box columnCount={{ base: 1, md: 2 }} columnGap="24px">
        {letters.map(({ key, does }) => (
          <Flex key={key} gap="10px" align="center" mb="4px" breakInside="avoid" as="label" fontSize="12.5px">
            <Input
              size="sm"
              w="44px"
              flexShrink={0}
              textAlign="center"
              textTransform="uppercase"
              data-key={key}
              value={keys[key] ?? key}
              onChange={(e) => put(key, e.target.value)}
              onFocus={(e) => e.target.select()}
            />
            {does}
          </Flex>
        ))}
      </Box>
    </Panel>
  );
}
