import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { memo, type ReactNode } from "react";
import type { Model } from "../../../api/client";
import { Key } from "../../../ui/parts";
import { speedNames, speeds, usePlayer, type Player } from "../stage/player";
import { t } from "../../../texts/texts";

type Props = {
  model: Model;
  player: Player;
  ready: boolean;
  flags: Record<string, number>;
  own: Record<string, number>;
  children?: ReactNode;
  chosen: string;
  placing: boolean;
  next?: string; // position to be flagged next
  problem?: string;
  onFlag(id: string, frame: number | null): void;
  onPlacing(): void;
};

/** Toolbar: playing, and what can be done at the frame under the cursor. */
export const Toolbar = memo(function Toolbar({
  model,
  player,
  ready,
  flags,
  own,
  chosen,
  placing,
  problem,
  next: nextID,
  onFlag,
  onPlacing,
  children,
}: Props) {
  const onChosen = usePlayer(player, (s) => !s.playing && flags[chosen] === s.frame);
  const next = model.positions.find((p) => p.id === nextID);
  const extra = model.positions.find((p) => p.id === chosen && p.id !== next?.id && flags[chosen] === undefined);
  return (
    <Flex gap="6px" align="center" mb="4px" wrap={{ base: "wrap", md: "nowrap" }}>
      <Transport player={player} />
      <Box flex="1" />
      {problem && (
        <Text fontSize="12px" color="clay" truncate>
          {problem}
        </Text>
      )}
      {ready && next && !placing && (
        <Button
          size="xs"
          variant="outline"
          onClick={() => onFlag(next.id, player.get().frame)}
          title={`${next.hint} (F)`}
          data-testid="flag-next"
          data-flag-here={next.id}
        >
          {t("Flag “{which}” here", { which: extra ? next.short : next.name })} <Key>F</Key>
        </Button>
      )}
      {ready && onChosen && (
        <Button
          size="xs"
          variant="ghost"
          onClick={() => onFlag(chosen, own[chosen] === undefined ? -1 : null)}
          title={
            own[chosen] === undefined
              ? t("The tool found it here; say that it is not in this clip")
              : t("Take your flag away")
          }
        >
          {own[chosen] === undefined ? t("Not here") : t("Remove the flag")}
        </Button>
      )}
      {ready && extra && (
        <Button
          size="xs"
          variant="outline"
          onClick={() => onFlag(chosen, player.get().frame)}
          title={extra.hint}
          data-flag-here={extra.id}
        >
          {t("Flag “{short}” here", { short: extra.short })}
        </Button>
      )}
      {ready && (
        <Button
          size="xs"
          variant={placing ? "solid" : "outline"}
          disabled={Object.keys(flags).length === 0}
          onClick={onPlacing}
          title={t("Place points, guided (P)")}
          data-testid="place"
        >
          {placing ? t("Stop placing") : t("Place points")} <Key>P</Key>
        </Button>
      )}
      {children}
    </Flex>
  );
});

function Transport({ player }: { player: Player }) {
  const playing = usePlayer(player, (s) => s.playing);
  const speed = usePlayer(player, (s) => s.speed);
  const loop = usePlayer(player, (s) => s.loop);
  return (
    <>
      <Button
        size="xs"
        variant="outline"
        px="8px"
        onClick={() => player.step(-1)}
        title={t("One frame back (←)")}
        aria-label={t("one frame back")}
      >
        ‹
      </Button>
      <Button size="xs" variant="outline" w="58px" onClick={() => player.toggle()} title={t("Play or stop (Space)")}>
        {playing ? t("Stop") : t("Play")}
      </Button>
      <Button
        size="xs"
        variant="outline"
        px="8px"
        onClick={() => player.step(1)}
        title={t("One frame on (→)")}
        aria-label={t("one frame on")}
      >
        ›
      </Button>
      {speeds.map((s, i) => (
        <Button
          key={s}
          size="xs"
          variant="ghost"
          px="7px"
          color={speed === s ? "chalk" : "quiet"}
          fontWeight={speed === s ? "650" : "400"}
          onClick={() => player.setSpeed(s)}
          title={t("{speedNames} of true speed ({i})", { speedNames: speedNames[i], i: i + 1 })}
        >
          {["1", "½", "¼", "⅛"][i]}
        </Button>
      ))}
      {loop && (
        <Button
          size="xs"
          variant="ghost"
          color="amber"
          onClick={() => player.setLoop(null)}
          title={t("End the loop (R)")}
        >
          {t("Loop {loop}–{loop2} ×", { loop: loop[0], loop2: loop[1] })}
        </Button>
      )}
    </>
  );
}
