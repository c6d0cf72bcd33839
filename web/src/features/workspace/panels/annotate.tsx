import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Annotation, Calls } from "../../../api/client";
import type { Core, Input as CoreInput } from "../../../core/core";
import { Head, Notice } from "../../../ui/parts";
import { usePlayer } from "../stage/player";
import { useOpenClip } from "../context";
import type { Overlay } from "../stage/tools";
import { t } from "../../../texts/texts";
import { written, fixed } from "../../../ui/written";

type AnnotationReading = Calls["annotations_answer"]["readings"][number];

// The joint that a limb turns about.
const parent: Record<string, string> = {
  wrist: "elbow",
  elbow: "shoulder",
  hand: "wrist",
  ankle: "knee",
  knee: "hip",
  toe: "ankle",
  heel: "ankle",
  shoulder: "hip",
  hip: "shoulder",
  ear: "shoulder",
};
const alone: Record<string, string> = { tip: "tail", tail: "tip", ball: "grip" };
const label = (id: string) => id.replaceAll("_", " ");

export const pivot = (id: string) => {
  const [side, part] = id.split("_");
  return part && parent[part] ? `${side}_${parent[part]}` : alone[id];
};

const names: Record<Annotation["kind"], string> = { pin: t("pin"), line: t("line to hold"), should: t("should be") };

/** tell writes what a mark says at a frame. */
export function tell(s: AnnotationReading): string {
  const parts: string[] = [];
  if (s.distance)
    parts.push(
      `${fixed(s.distance.value, s.distance.half95 < 1 ? 1 : 0)} ${s.unit} ±${fixed(s.distance.half95, s.distance.half95 < 1 ? 1 : 0)}${s.direction ? " " + s.direction : ""}`,
    );
  if (s.angle) parts.push(`${fixed(s.angle.value)}° ±${fixed(s.angle.half95)}`);
  return parts.join(", ") || s.missing;
}

/** overlays draws the marks of a clip over a frame. */
export function overlays(
  core: Core | null,
  input: CoreInput | null,
  shows: Record<string, Annotation>,
  frame: number,
): Overlay[] {
  const list = Object.entries(shows);
  if (!core || !input || !list.length) return [];
  const { readings: shown } = core.annotations({ input, annotations: list.map(([, s]) => s), frame });
  return list.flatMap(([key, s], i) => {
    if (s.kind === "should" && Math.abs(s.frame - frame) > 2) return [];
    const [still, now] = shown[i].lines as [number, number][][];
    const out: Overlay[] = [];
    if (still) out.push({ key: key + "s", lines: [still], style: s.kind === "should" ? "now" : "still" });
    if (now && now.length > 1)
      out.push({ key: key + "n", lines: [now], style: s.kind === "should" ? "still" : "now", label: tell(shown[i]) });
    return out;
  });
}

/** AnnotatePanel lists the annotations of a clip and makes new ones. */
export function AnnotatePanel() {
  const {
    clip,
    clipWork: work,
    core,
    input,
    player,
    model,
    report,
    edit,
    tool,
    work: { advice },
  } = useOpenClip();
  const findings = report?.findings ?? [];
  const frame = usePlayer(player, (s) => s.frame);
  const [says, setSays] = useState("");
  const list = Object.entries(work.annotations);
  const shown = list.length ? core.annotations({ input, annotations: list.map(([, s]) => s), frame }).readings : [];
  const put = (s: Annotation) => {
    tool(null);
    setSays("");
    edit({ kind: "annotation", clip: clip.id, key: crypto.randomUUID?.() ?? String(Math.random()).slice(2), value: s });
  };
  const here = () => player.get().frame;
  const tools: [string, string, () => void][] = [
    [
      "pin",
      t("Stays where the joint is now, to see it leave"),
      () =>
        tool({
          kind: "joint",
          says: t("Click the joint to pin"),
          done: (id) => put({ kind: "pin", frame: here(), landmark: id }),
        }),
    ],
    [
      "line",
      t("Lies along two joints and stays"),
      () =>
        tool({
          kind: "joint",
          says: t("Click the lower joint of the line"),
          done: (a) =>
            tool({
              kind: "joint",
              says: t("From {a} to which joint?", { a: label(a) }),
              done: (b) =>
                a === b
                  ? setSays(t("A line needs two different joints."))
                  : put({ kind: "line", frame: here(), landmark: b, other: a }),
            }),
        }),
    ],
    [
      t("plumb"),
      t("Hangs straight through a joint and stays"),
      () =>
        tool({
          kind: "joint",
          says: t("Click the joint that the plumb line goes through"),
          done: (id) => put({ kind: "line", frame: here(), landmark: id }),
        }),
    ],
    [
      t("should be"),
      t("Drag a limb to where it ought to be"),
      () =>
        tool({
          kind: "limb",
          says: t("Drag the end of a limb to where it should be"),
          done: (id, x, y) => {
            const other = pivot(id);
            if (other) put({ kind: "should", frame: here(), landmark: id, other, x, y });
            else setSays(t("The {id} has no joint to turn about.", { id: label(id) }));
          },
        }),
    ],
  ];
  const target = (s: Annotation) => {
    const a = core.target({ input, annotation: s });
    const cp = a.checkpoint;
    if (!cp) return setSays(a.missing ?? t("This cannot become a target."));
    const old = advice.main;
    const f = model.faults.find((x) => x.id === findings[0]?.fault);
    const cue = f?.cues[0];
    edit({
      kind: "advice",
      key: "main",
      value: {
        fault: old?.fault ?? f?.id ?? "",
        focus: old?.focus ?? cue?.focus ?? "inward",
        words: old?.words ?? s.note ?? t("Bring the {landmark} to the line", { landmark: label(s.landmark) }),
        backfire: old?.backfire ?? cue?.backfire ?? "",
        drill: old?.drill ?? f?.drills[0] ?? { name: "", dose: {}, feel: "" },
        target: cp.id,
        checkpoint: cp,
      },
    });
    setSays(
      t("The main cue now aims at: {name}, {lo} to {hi}°.", {
        name: cp.name,
        lo: written(cp.band.lo!.toFixed(0)),
        hi: written(cp.band.hi!.toFixed(0)),
      }),
    );
  };
  return (
    <Box data-testid="shows">
      <Head tone="chalk">{t("Show on the picture")}</Head>
      <Flex gap="5px" wrap="wrap" mb="8px">
        {tools.map(([name, hint, f]) => (
          <Button key={name} size="xs" variant="outline" title={hint} onClick={f} data-show={name}>
            {name}
          </Button>
        ))}
      </Flex>
      {says && <Notice mb="8px">{says}</Notice>}
      {list.length === 0 && (
        <Text fontSize="12px" color="quiet">
          {t(
            "A pin shows how far a joint drifts and since when. A line stays along a trunk, a leg or a shaft. A should-be shows the limb where it ought to be, with the difference. All are kept with the attempt and go into stills and feedback.",
          )}
        </Text>
      )}
      {list.map(([key, s], i) => (
        <Box key={key} py="6px" borderTop="1px solid" borderColor="seam" data-mark={s.kind}>
          <Flex align="baseline" gap="8px">
            <Text flex="1" fontSize="12.5px">
              <b>{s.kind === "line" && !s.other ? t("plumb line") : names[s.kind]}</b> {label(s.landmark)}
              {s.other && s.kind === "line" ? `–${label(s.other)}` : ""}
              <Text as="span" color="quiet" fontSize="11.5px">
                {" "}
                {t("from frame {frame}", { frame: s.frame })}
              </Text>
            </Text>
            <Button size="xs" h="20px" px="6px" variant="ghost" onClick={() => player.jump(s.frame)}>
              {t("Go")}
            </Button>
            <Button
              size="xs"
              h="20px"
              px="6px"
              variant="ghost"
              aria-label={t("take the mark away")}
              onClick={() => edit({ kind: "annotation", clip: clip.id, key, value: null })}
            >
              ×
            </Button>
          </Flex>
          <Text fontSize="12.5px" color="amber" data-testid="shown">
            {tell(shown[i])}
            {shown[i].since !== undefined && (
              <Button
                size="xs"
                h="18px"
                px="5px"
                variant="ghost"
                color="quiet"
                onClick={() => player.jump(shown[i].since!)}
              >
                {t("Since frame {since}", { since: shown[i].since })}
              </Button>
            )}
          </Text>
          <Flex gap="6px" mt="3px">
            <Input
              h="24px"
              fontSize="12px"
              placeholder={t("a word to it")}
              defaultValue={s.note ?? ""}
              maxLength={200}
              onBlur={(e) =>
                e.target.value !== (s.note ?? "") &&
                edit({ kind: "annotation", clip: clip.id, key, value: { ...s, note: e.target.value || undefined } })
              }
            />
            {s.kind === "should" && (
              <Button size="xs" h="24px" variant="outline" onClick={() => target(s)}>
                {t("Make it the target")}
              </Button>
            )}
          </Flex>
        </Box>
      ))}
    </Box>
  );
}
