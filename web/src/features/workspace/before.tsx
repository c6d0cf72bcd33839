import { Flex, Text } from "@chakra-ui/react";
import type { Effect, Model, Workspace } from "../../api/client";
import { goal, show } from "../../ui/numbers";
import { t } from "../../texts/texts";
import { fixed } from "../../ui/written";
import { word } from "../../texts/words";

/** Before: the cue given last time with its target, and what became of it. */
export function Before({
  before,
  model,
  effect,
}: {
  before: NonNullable<Workspace["before"]>;
  model: Model;
  effect?: Effect;
}) {
  const cp = before.advice.checkpoint ?? model.checkpoints.find((c) => c.id === before.advice.target);
  if (!cp) return null;
  const was = before.value && show(before.value, cp.unit);
  const now = effect && show(effect.after, cp.unit);
  const tone = effect
    ? effect.verdict === "taken"
      ? "moss"
      : effect.verdict === "not_taken"
        ? "amber"
        : "clay"
    : "quiet";
  return (
    <Flex
      bg="raised"
      borderRadius="full"
      px="14px"
      py="4px"
      gap="10px"
      align="baseline"
      minW="0"
      data-testid="before"
      title={t("Given on {doneOn}. Wanted: {name} {cp}.{which}", {
        doneOn: before.done_on,
        name: cp.name.toLowerCase(),
        cp: goal(cp),
        which: effect
          ? t(" Smallest real difference: {smallest} {unit}.", { smallest: fixed(effect.smallest, 1), unit: cp.unit })
          : "",
      })}
    >
      <Text color="quiet" fontSize="11.5px" whiteSpace="nowrap" flexShrink={0}>
        {t("last cue")}
      </Text>
      <Text fontWeight="600" truncate>
        “{before.advice.words}”
      </Text>
      <Text fontSize="12px" color={tone} minW="0" truncate>
        {cp.name.toLowerCase()} {was ? was.value : "–"} →{" "}
        {now ? `${now.value} (±${fixed(effect.smallest, 0)})` : t("wanted {cp}", { cp: goal(cp) })}
      </Text>
      {effect && (
        <Text fontSize="12px" fontWeight="650" color={tone} whiteSpace="nowrap" flexShrink={0} data-testid="effect">
          {word(effect.verdict)}
        </Text>
      )}
    </Flex>
  );
}
