import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { type Clip, type Report, type Workspace } from "../../api/client";
import { Player, speeds, usePlayer } from "../workspace/stage/player";
import { looking, Stage } from "../workspace/stage/stage";
import type { Overlay } from "../workspace/stage/tools";
import { t } from "../../texts/texts";

export const nothing = () => {};

/** Side is one of the pictures. */
export function Side({
  sheet,
  clip,
  report,
  player,
  bones,
  flip,
  missing,
  overlays,
  onClip,
  onRemove,
  name,
}: {
  sheet: Workspace;
  clip: Clip;
  report: Report;
  player: Player;
  bones: boolean;
  flip?: boolean;
  missing?: boolean;
  overlays(f: number): Overlay[];
  onClip(id: string): void;
  onRemove?(): void;
  name: string;
}) {
  const frame = usePlayer(player, (s) => s.frame);
  return (
    <Flex direction="column" minW="0" minH="0" data-side={name} data-frame={frame}>
      <Flex align="baseline" gap="8px" mb="3px">
        <Text fontWeight="650" truncate>
          {sheet.athlete.name}
        </Text>
        <Text fontSize="12px" color="quiet" truncate flex="1">
          {[sheet.attempt.session, sheet.attempt.mark].filter(Boolean).join(" · ")}
        </Text>
        {sheet.clips.length > 1 &&
          sheet.clips
            .filter((c) => c.state === "ready")
            .map((c, i) => (
              <Button
                key={c.id}
                size="2xs"
                variant="outline"
                bg={c.id === clip.id ? "raised" : undefined}
                onClick={() => onClip(c.id)}
              >
                {i + 1} {c.view}
              </Button>
            ))}
        {onRemove && (
          <Button size="2xs" variant="ghost" aria-label={t("take the {name} away", { name })} onClick={onRemove}>
            ×
          </Button>
        )}
      </Flex>
      <Box
        flex="1"
        minH="0"
        position="relative"
        transform={flip ? "scaleX(-1)" : undefined}
        opacity={missing ? 0.35 : 1}
      >
        <Stage
          clip={clip}
          player={player}
          points={sheet.work.clips[clip.id]?.points ?? {}}
          model={sheet.model}
          report={report}
          {...looking}
          far={null}
          bones={bones}
          overlays={overlays}
        />
      </Box>
      <Text fontSize="11.5px" color="quiet">
        {t("frame {frame}", { frame })}
        {missing && t(", the other clip continues")}
      </Text>
    </Flex>
  );
}

export function Transport({ player }: { player: Player }) {
  const { playing, speed } = usePlayer(player, (s) => s);
  return (
    <Flex gap="4px" align="center">
      <Button size="xs" variant="outline" w="64px" onClick={() => player.toggle()}>
        {playing ? t("Stop") : t("Play")}
      </Button>
      {speeds.map((v) => (
        <Button
          key={v}
          size="xs"
          px="6px"
          variant="ghost"
          color={v === speed ? "chalk" : "quiet"}
          onClick={() => player.setSpeed(v)}
        >
          {v === 1 ? "1" : v === 0.5 ? "½" : v === 0.25 ? "¼" : "⅛"}
        </Button>
      ))}
    </Flex>
  );
}
