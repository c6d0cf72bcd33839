import { Box, Flex, Text } from "@chakra-ui/react";
import type { Model } from "../../api/client";
import poses from "./poses.gen.json";
import { cssColor } from "../../ui/color";
import { t } from "../../texts/texts";

/** Strip shows the phases in order with a small figure each, a repeated group in a
 * frame with its number. */
export function Strip({ model, phases }: { model: Model; phases: Model["phases"] }) {
  const group = new Set(model.repeat?.phases.map((p) => p.id));
  const first = phases.findIndex((p) => group.has(p.id));
  const before = first < 0 ? phases : phases.slice(0, first);
  const after = first < 0 ? [] : phases.slice(first + group.size);
  const box = (p: { id: string; name: string }) => (
    <Flex
      key={p.id}
      direction="column"
      align="center"
      px="8px"
      pt="2px"
      pb="4px"
      bg="raised"
      borderRadius="4px"
      fontSize="11.5px"
      maxW="104px"
      textAlign="center"
      lineHeight="1.2"
    >
      <Figure pose={(poses as Record<string, Record<string, number[][]>>)[model.id]?.[p.id]} />
      {p.name}
    </Flex>
  );
  return (
    <Flex gap="4px" mt="12px" wrap="wrap" align="stretch" data-testid="strip">
      {before.map(box)}
      {model.repeat && (
        <Flex gap="4px" p="4px 6px" border="1.5px solid" borderColor="clay" borderRadius="6px" align="stretch">
          {model.repeat.phases.map(box)}
          <Text fontSize="11.5px" color="clay" alignSelf="center" w="34px" lineHeight="1.2">
            {t("each {name}", { name: model.repeat.name })}
          </Text>
        </Flex>
      )}
      {after.map(box)}
    </Flex>
  );
}

/** Figure is the simulated athlete in the middle of a phase: the left side in clay
 * and solid, the right in sky and dashed. */
function Figure({ pose }: { pose?: number[][] }) {
  if (!pose) return <Box h="62px" w="70px" />;
  const at = (i: number) => `${pose[i][0]} ${-pose[i][1]}`;
  const line = (...list: number[]) => list.map((i, k) => (k ? "L" : "M") + at(i)).join("");
  const body = pose.slice(0, 13);
  const top = Math.max(112, ...body.map((q) => q[1] + 8));
  const low = Math.min(0, ...body.map((q) => q[1]));
  const half = 62 * Math.max(1, (top - low) / 118);
  const side = (list: number[][], c: string, dash?: string) =>
    list.map((l, i) => (
      <path
        key={i}
        d={line(...l)}
        fill="none"
        stroke={cssColor(c)}
        strokeWidth={5}
        strokeLinecap="round"
        strokeLinejoin="round"
        strokeDasharray={dash}
      />
    ));
  return (
    <svg width={70} height={62} viewBox={`${-half} ${-top} ${2 * half} ${top - low + 6}`} aria-hidden>
      {side(
        [
          [1, 5, 6],
          [2, 10, 11, 12],
        ],
        "sky",
        "7 5",
      )}
      {side(
        [
          [1, 3, 4],
          [2, 7, 8, 9],
        ],
        "clay",
      )}
      <path d={line(1, 2)} stroke="var(--chakra-colors-chalk)" strokeWidth={6} strokeLinecap="round" />
      <circle cx={pose[0][0]} cy={-pose[0][1]} r={7} fill="var(--chakra-colors-chalk)" />
      {pose[13] && Math.abs(pose[13][0]) < half && pose[13][1] < top && (
        <circle cx={pose[13][0]} cy={-pose[13][1]} r={5} fill="var(--chakra-colors-amber)" />
      )}
    </svg>
  );
}
