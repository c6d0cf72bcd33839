import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useEffect, useState, useSyncExternalStore } from "react";
import { Link as RouterLink } from "react-router";
import { Key, Notice } from "../../ui/parts";
import type { Recorder } from "./recorder";
import { t } from "../../texts/texts";

/** TalkBar tells over the stage that a talk is being recorded, and what waits. */
export function TalkBar({
  recorder,
  said,
  attempt,
  again,
  onAgain,
}: {
  recorder: Recorder;
  said: number;
  attempt: string;
  again?: string;
  onAgain(): void;
}) {
  const s = useSyncExternalStore(recorder.subscribe, recorder.get);
  const [now, setNow] = useState(0);
  useEffect(() => {
    if (s.phase !== "talking") return;
    const i = setInterval(() => setNow(performance.now()), 200);
    return () => clearInterval(i);
  }, [s.phase]);
  useEffect(() => {
    if (s.phase !== "talking" && !s.waiting) return;
    const stay = (e: BeforeUnloadEvent) => e.preventDefault();
    addEventListener("beforeunload", stay);
    return () => removeEventListener("beforeunload", stay);
  }, [s.phase, s.waiting]);
  const seconds = Math.max(0, Math.floor((now - s.since) / 1000));
  if (s.phase === "idle" && !s.trouble && !again && !said) return null;
  return (
    <Box
      position="absolute"
      left="10px"
      right="10px"
      bottom="10px"
      pointerEvents="none"
      data-testid="talk-bar"
      data-phase={s.phase}
    >
      {s.trouble && (
        <Notice tone="clay" mb="6px" pointerEvents="auto">
          <Text flex="1">{s.trouble}</Text>
          {s.waiting > 0 && (
            <Button size="2xs" variant="outline" onClick={() => void recorder.keep()}>
              {t("Try again")}
            </Button>
          )}
        </Notice>
      )}
      <Flex justify="center">
        {(s.phase !== "idle" || again || said > 0) && (
          <Flex
            bg="panel"
            borderRadius="full"
            px="14px"
            py="5px"
            gap="10px"
            align="center"
            border="1px solid"
            borderColor={s.phase === "talking" ? "clay" : "seam"}
            pointerEvents="auto"
            maxW="100%"
          >
            {s.phase === "talking" && (
              <>
                <Box w="9px" h="9px" borderRadius="full" bg="clay" animation="pulse 1.4s infinite" />
                <Text fontWeight="650" fontVariantNumeric="tabular-nums">
                  {Math.floor(seconds / 60)}:{String(seconds % 60).padStart(2, "0")}
                </Text>
                <Text truncate>{s.name}</Text>
                <Button size="2xs" onClick={() => void recorder.stop()}>
                  {t("Done talking")} <Key>Z</Key>
                </Button>
              </>
            )}
            {s.phase === "asking" && <Text color="quiet">{t("The browser asks for the microphone …")}</Text>}
            {s.phase === "keeping" && (
              <Text color="quiet">{t("Keeping {waiting} …", { waiting: s.waiting || "" })}</Text>
            )}
            {s.phase === "idle" && again && (
              <Button size="2xs" onClick={onAgain}>
                {t("Record “{again}” again", { again })} <Key>Z</Key>
              </Button>
            )}
            {s.phase === "idle" && !again && (
              <RouterLink to={`/attempt/${attempt}/feedback`} style={{ color: "inherit", fontSize: 12 }}>
                {t("{said} {which} spoken", { said, which: said === 1 ? t("chapter") : t("chapters") })}
              </RouterLink>
            )}
          </Flex>
        )}
      </Flex>
    </Box>
  );
}
