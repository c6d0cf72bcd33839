import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import type { Clip, Model, Track } from "../../../api/client";
import { useClipPlayer } from "../hooks/useClipPlayer";
import { usePlayer, type Player } from "./player";
import { looking, Stage } from "./stage";
import { t } from "../../../texts/texts";

const nothing = () => [];

/** BesideStage shows another clip of the attempt at the moment that the main stage shows. */
export function BesideStage({
  clip,
  offset,
  bySound,
  problem,
  main,
  model,
  points,
  bones,
  onOpen,
  onClose,
}: {
  clip: Clip;
  /** how much later a moment stands on this clip's clock, s; nothing while no moment joins the clips */
  offset: number | undefined;
  /** only the sound of both clips says so */
  bySound: boolean;
  problem: string | undefined;
  main: Player;
  model: Model;
  points: Record<string, Track>;
  bones: boolean;
  onOpen(frame: number): void;
  onClose(): void;
}) {
  const player = useClipPlayer(clip);
  const [outside, setOutside] = useState("");
  useEffect(() => {
    if (offset === undefined) return setOutside("");
    const follow = () => {
      const there = main.times[main.get().frame] + offset;
      const slack = 0.51 * (player.times[1] ?? 1);
      setOutside(
        there < -slack
          ? t("this clip begins later")
          : there > player.times[player.last] + slack
            ? t("this clip has ended")
            : "",
      );
      player.jump(player.nearest(there));
    };
    follow();
    return main.subscribe(follow);
  }, [main, player, offset]);
  const frame = usePlayer(player, (s) => s.frame);
  return (
    <Box className="beside" data-testid="beside" data-frame={frame}>
      <Stage
        clip={clip}
        player={player}
        points={points}
        model={model}
        {...looking}
        far={clip.view === "side" && clip.direction !== 0 ? (clip.direction > 0 ? "left" : "right") : null}
        bones={bones}
        overlays={nothing}
      />
      {outside && (
        <Flex position="absolute" inset="0" bg="panel" opacity={0.85} align="center" justify="center">
          <Text color="quiet">{outside}</Text>
        </Flex>
      )}
      <Flex
        position="absolute"
        top="10px"
        right="10px"
        bg="panel"
        opacity={0.94}
        borderRadius="full"
        pl="14px"
        pr="4px"
        py="2px"
        gap="8px"
        align="center"
      >
        <Text fontWeight="650">{clip.view}</Text>
        <Text color="quiet">{t("frame {frame}", { frame })}</Text>
        {bySound && (
          <Text
            color="quiet"
            title={t("Good to some 60 ms. The same moment flagged in both clips brings them exactly into step.")}
          >
            {t("in step by sound")}
          </Text>
        )}
        <Button size="2xs" variant="ghost" onClick={() => onOpen(frame)} title={t("Work in this clip at this frame")}>
          {t("Make it large")}
        </Button>
        <Button size="2xs" variant="ghost" onClick={onClose} aria-label={t("One clip only")}>
          ×
        </Button>
      </Flex>
      {offset === undefined && (
        <Box position="absolute" bottom="10px" left="10px" right="10px" bg="panel" borderRadius="6px" p="8px 12px">
          <Text fontSize="12px" color="amber">
            {problem
              ? t("The clips do not step together: {problem}.", { problem })
              : t(
                  "The clips step together once the same moment, such as the release, is flagged in both and both rates are known. Their sound does not tell how they belong together.",
                )}
          </Text>
          <Flex gap="4px" mt="4px">
            <Button size="2xs" variant="outline" onClick={() => player.step(-1)}>
              {t("Back")}
            </Button>
            <Button size="2xs" variant="outline" onClick={() => player.step(1)}>
              {t("On")}
            </Button>
          </Flex>
        </Box>
      )}
    </Box>
  );
}
