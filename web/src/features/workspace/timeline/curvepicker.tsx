import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { memo, useState } from "react";
import type { Calls } from "../../../api/client";
import { Panel } from "../../../ui/parts";
import { mostCurves } from "../state";
import { t } from "../../../texts/texts";

type Kinds = Calls["catalogue_answer"]["curves"];

/** CurvePicker chooses the curves on the score and gives it away as a file. */
export const CurvePicker = memo(function CurvePicker({
  kinds,
  on,
  placed,
  onPick,
  onKeep,
  vtt,
}: {
  kinds: Kinds;
  on: readonly string[];
  placed: string;
  onPick(id: string): void;
  onKeep(k: "svg" | "png"): void;
  vtt: string;
}) {
  const [open, setOpen] = useState(false);
  const groups = [...new Set(kinds.map((k) => k.group))];
  const shown = (k: Kinds[number]) => k.group !== "single points" || placed.split(" ").includes(k.id.slice(2));
  return (
    <Box position="relative">
      <Button
        size="xs"
        variant={on.length ? "solid" : "outline"}
        onClick={() => setOpen(!open)}
        title={t("Curves on the score, and the score as a file")}
        data-testid="staves"
      >
        {t("Curves")} {on.length > 0 && on.length}
      </Button>
      {open && (
        <Panel
          position="absolute"
          right="0"
          bottom="32px"
          w="420px"
          maxH="430px"
          overflowY="auto"
          p="12px 14px"
          border="1px solid"
          borderColor="seam"
          zIndex={5}
          boxShadow="0 8px 30px rgba(0,0,0,.4)"
        >
          <Flex gap="6px" mb="8px" align="center">
            <Text flex="1" fontSize="12px" color="quiet">
              {t("up to {mostCurves} at a time", { mostCurves })}
            </Text>
            <Button size="2xs" variant="outline" onClick={() => onKeep("svg")}>
              {t("SVG")}
            </Button>
            <Button size="2xs" variant="outline" onClick={() => onKeep("png")}>
              {t("PNG")}
            </Button>
            <Button size="2xs" variant="outline" asChild>
              <a href={vtt} download>
                {t("WebVTT")}
              </a>
            </Button>
            <Button size="2xs" variant="ghost" onClick={() => setOpen(false)} aria-label={t("close")}>
              ×
            </Button>
          </Flex>
          {groups.map((g) => {
            const list = kinds.filter((k) => k.group === g && shown(k));
            return (
              list.length > 0 && (
                <Box key={g} mb="8px">
                  <Text fontSize="11.5px" color="quiet" mb="3px">
                    {g}
                  </Text>
                  <Flex gap="3px" wrap="wrap">
                    {list.map((k) => (
                      <Button
                        key={k.id}
                        size="2xs"
                        px="8px"
                        fontSize="11.5px"
                        variant={on.includes(k.id) ? "solid" : "outline"}
                        onClick={() => onPick(k.id)}
                        data-curve={k.id}
                      >
                        {k.name}
                      </Button>
                    ))}
                  </Flex>
                </Box>
              )
            );
          })}
        </Panel>
      )}
    </Box>
  );
});
