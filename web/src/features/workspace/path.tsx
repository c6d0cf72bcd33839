import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { Key } from "../../ui/parts";
import { t } from "../../texts/texts";
import { useServerDraft } from "../drafting/api";
import { asked } from "./questions";
import type { Open } from "./context";

// The way of an attempt from its clip to what the athlete gets.

export const stages = ["clip", "rate", "draft", "check", "findings", "cue", "send"] as const;
export type Stage = (typeof stages)[number];

/** Next is the stage that an attempt has come to, and what it needs there; do is null while
 * there is only waiting. */
export type Next = { stage: Stage | null; says: string; act: string } & (
  { do: "clip" | "settings" | "send" | "next" | null } | { do: "panel"; panel: "check" | "findings" | "track" }
);

/** nextOf tells what the attempt needs next. drafting is how far the server's draft is. */
export function nextOf(
  w: Pick<Open, "sheet" | "clip" | "evaluation" | "work" | "state">,
  drafting: number | null,
): Next {
  const { sheet, clip, evaluation, work, state } = w;
  const { report, points } = evaluation;
  const waits = (stage: Stage, says: string): Next => ({ stage, says, act: "", do: null });
  if (!clip)
    return { stage: "clip", says: t("Film the attempt, then add the clip."), act: t("add a clip"), do: "clip" };
  if (clip.state === "waiting" || clip.state === "importing")
    return waits("clip", t("The clip is being read, {progress} %.", { progress: Math.round(100 * clip.progress) }));
  if (clip.state !== "ready")
    return { stage: "clip", says: t("The clip could not be read."), act: t("see why"), do: "settings" };
  if (clip.capture_rate === 0)
    return {
      stage: "rate",
      says: t("How many frames a second did the camera take?"),
      act: t("answer"),
      do: "settings",
    };
  if (clip.view === "side" && clip.direction === 0)
    return { stage: "rate", says: t("Which way does the athlete move?"), act: t("answer"), do: "settings" };
  if (drafting !== null)
    return waits("draft", t("The joints are being drafted, {progress} %.", { progress: Math.round(100 * drafting) }));
  if (!report) return waits("draft", t("The numbers are being computed."));
  if (Object.keys(points).length === 0)
    return { stage: "draft", says: t("No joint is placed yet."), act: t("draft them"), do: "panel", panel: "track" };
  const open = report.questions.filter((q) => !state.later.includes(clip.id + q.id)).length;
  if (asked(report, state.later, clip.id))
    return {
      stage: "check",
      says:
        open === 1
          ? t("One question to you, then the numbers stand.")
          : t("{open} questions to you, the weightiest first.", { open }),
      act: t("answer"),
      do: "panel",
      panel: "check",
    };
  const listed = evaluation.listed ?? [];
  const decided = Object.keys(work.findings).length > 0;
  if (!work.advice.main)
    return listed.length > 0 && !decided
      ? {
          stage: "findings",
          says: t("Is the first cause right? Accept or refuse it."),
          act: t("findings"),
          do: "panel",
          panel: "findings",
        }
      : {
          stage: "cue",
          says:
            listed.length > 0
              ? t("Choose the cue that the athlete takes along.")
              : t("No certain fault. Keep what is good, or say what you saw."),
          act: t("cue"),
          do: "panel",
          panel: "findings",
        };
  if (sheet.attempt.state !== "sent")
    return { stage: "send", says: t("Ready: look at the page and send it."), act: t("feedback"), do: "send" };
  return { stage: null, says: t("Sent. On to the next attempt."), act: t("next"), do: "next" };
}

const names: Record<Stage, string> = {
  clip: t("clip"),
  rate: t("frame rate and direction"),
  draft: t("joints drafted"),
  check: t("questions answered"),
  findings: t("findings decided"),
  cue: t("cue chosen"),
  send: t("sent"),
};

/** useNext is what the attempt needs next. */
export function useNext(w: Open): Next {
  const draft = useServerDraft(w.clip?.state === "ready" ? w.clip.id : "");
  return nextOf(w, draft.running ? draft.data!.progress : null);
}

/** Path shows how far the attempt is, and does what it needs next with one key. */
export function Path({ next, onNext }: { next: Next; onNext(): void }) {
  const at = next.stage ? stages.indexOf(next.stage) : stages.length;
  return (
    <Box px="14px" pt="10px" data-testid="path" data-stage={next.stage ?? "done"}>
      <Flex as="ol" gap="3px" listStyleType="none" aria-label={t("Way of this attempt")}>
        {stages.map((s, i) => (
          <Box
            as="li"
            key={s}
            flex="1"
            h="4px"
            borderRadius="full"
            bg={i < at ? "moss" : i === at ? "amber" : "seam"}
            title={names[s]}
            aria-label={
              i < at
                ? t("{stage}: done", { stage: names[s] })
                : i === at
                  ? t("{stage}: now", { stage: names[s] })
                  : names[s]
            }
            aria-current={i === at ? "step" : undefined}
          />
        ))}
      </Flex>
      <Flex align="center" gap="8px" minH="36px" pt="5px">
        <Text flex="1" fontSize="12.5px" lineHeight="1.3" role="status">
          {next.says}
        </Text>
        {next.do && (
          <Button size="2xs" variant="outline" onClick={onNext} data-testid="next">
            {next.act} <Key>⏎</Key>
          </Button>
        )}
      </Flex>
    </Box>
  );
}
