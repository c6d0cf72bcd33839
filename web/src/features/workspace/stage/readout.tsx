import { Flex, Text } from "@chakra-ui/react";
import { memo } from "react";
import { minus } from "../../../ui/numbers";
import { speedNames, speeds, usePlayer, type Player } from "./player";

/** Readout: the frame under the cursor, its true time, and how fast it plays. */
const copies: Record<string, string> = { r: "shown once more", b: "a mix of two pictures" };

export const Readout = memo(function Readout({
  player,
  zero,
  rate,
  pictures,
}: {
  player: Player;
  zero?: number;
  rate: number;
  pictures: string; // a letter for each frame, empty when all are their own
}) {
  const { frame, speed } = usePlayer(player, (s) => s);
  const t = player.times[frame] - (zero !== undefined ? player.times[zero] : 0);
  return (
    <Flex
      position="absolute"
      top="10px"
      right="10px"
      bg="panel"
      opacity={0.94}
      borderRadius="full"
      px="14px"
      py="4px"
      gap="12px"
      pointerEvents="none"
      data-testid="readout"
    >
      <Text fontWeight="650">frame {frame}</Text>
      {copies[pictures[frame]] && <Text color="amber">{copies[pictures[frame]]}</Text>}
      <Text color="quiet" minW="64px" textAlign="right">
        {rate ? `${minus((t >= 0 ? "+" : "") + t.toFixed(3))} s` : "time unknown"}
      </Text>
      {rate > 0 && <Text color="quiet">{rate}/s</Text>}
      {speed !== 1 && <Text color="quiet">{speedNames[speeds.indexOf(speed)]} speed</Text>}
    </Flex>
  );
});
