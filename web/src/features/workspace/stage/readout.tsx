import { Flex, Text } from "@chakra-ui/react";
import { memo } from "react";
import { speedNames, speeds, usePlayer, type Player } from "./player";
import { t } from "../../../texts/texts";
import { written } from "../../../ui/written";

/** Readout: the frame under the cursor, its true time, and how fast it plays. */
const copies: Record<string, string> = { r: t("shown once more"), b: t("a mix of two pictures") };

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
  const since = player.times[frame] - (zero !== undefined ? player.times[zero] : 0);
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
      <Text fontWeight="650">{t("frame {frame}", { frame })}</Text>
      {copies[pictures[frame]] && <Text color="amber">{copies[pictures[frame]]}</Text>}
      <Text color="quiet" minW="64px" textAlign="right">
        {rate ? t("{minus} s", { minus: written((since >= 0 ? "+" : "") + since.toFixed(3)) }) : t("time unknown")}
      </Text>
      {rate > 0 && <Text color="quiet">{t("{rate}/s", { rate })}</Text>}
      {speed !== 1 && (
        <Text color="quiet">{t("{speedNames} speed", { speedNames: speedNames[speeds.indexOf(speed)] })}</Text>
      )}
    </Flex>
  );
});
