import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { Key } from "../../ui/parts";
import { t } from "../../texts/texts";
import { useServerDraft } from "../drafting/api";
import type { Open } from "./context";
import { nextOf, stages, type Next, type Stage } from "./next";

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
