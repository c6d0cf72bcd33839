import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { memo, useState } from "react";
import { recall, remember } from "../../../ui/recall";
import type { Player } from "./player";
import { t } from "../../../texts/texts";

const guide = [t("full"), t("slow"), t("frames"), t("slow again")];
const kept = "neo.guide";

/** Guide walks the coach through full, slow, frames, slow again. */
export const Guide = memo(function Guide({ player, watch }: { player: Player; watch?: string[] | null }) {
  const [watched, setWatched] = useState<number | null>(() => (recall<string>(kept, "on") === "off" ? null : 0));
  if (watched === null) return null;
  return (
    <Box position="absolute" top="10px" left="10px" maxW="52%" display={{ base: "none", md: "block" }}>
      <Flex
        w="fit-content"
        bg="panel"
        opacity={0.94}
        borderRadius="full"
        px="6px"
        py="3px"
        gap="2px"
        align="center"
        data-testid="guide"
      >
        {guide.map((g, i) => (
          <Button
            key={i}
            size="2xs"
            variant="ghost"
            px="8px"
            color={i === watched ? "chalk" : "quiet"}
            fontWeight={i === watched ? "650" : "400"}
            onClick={() => {
              setWatched(i);
              if (i === 2) return player.pause();
              player.jump(0);
              player.setSpeed(i === 0 ? 1 : 0.25);
              player.play();
            }}
          >
            {i < watched ? "✓ " : `${i + 1} `}
            {g}
          </Button>
        ))}
        <Button
          size="2xs"
          px="6px"
          variant="ghost"
          title={t("Hide the watching guide")}
          aria-label={t("Hide the watching guide")}
          onClick={() => {
            remember(kept, "off");
            setWatched(null);
          }}
        >
          ×
        </Button>
      </Flex>
      {watch?.[watched] && (
        <Text
          mt="4px"
          w="fit-content"
          bg="panel"
          opacity={0.94}
          borderRadius="12px"
          px="12px"
          py="3px"
          fontSize="12px"
          data-testid="watch"
        >
          {watch[watched]}
        </Text>
      )}
    </Box>
  );
});
