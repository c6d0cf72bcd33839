import { Box, Button, Flex } from "@chakra-ui/react";
import { memo } from "react";
import type { PanelID } from "../state";
import { offered } from "./registry";

/** Tabs choose the panel. The number of findings may change at every move of a joint. */
export const Tabs = memo(function Tabs({
  event,
  panel,
  findings,
  questions,
  look,
  onPanel,
}: {
  event: string;
  panel: PanelID;
  findings: number;
  questions: number;
  look: boolean; // the clip wants an answer
  onPanel(p: PanelID): void;
}) {
  return (
    <Flex borderBottom="1px solid" borderColor="seam" px="4px" role="tablist">
      {offered(event).map((p) => {
        const on = p.id === panel;
        return (
          <Button
            key={p.id}
            role="tab"
            aria-selected={on}
            variant="plain"
            h="40px"
            px="3px"
            fontSize="12px"
            borderRadius="0"
            border="0"
            color={on ? "chalk" : "quiet"}
            borderBottom="2px solid"
            borderBottomColor={on ? "clay" : "transparent"}
            onClick={() => onPanel(p.id)}
            title={`${p.label} (${p.key.toUpperCase()})`}
          >
            {p.label}
            {p.id === "findings" && findings > 0 && (
              <span style={{ color: "var(--chakra-colors-clay)" }}>{findings}</span>
            )}
            {p.id === "check" && questions > 0 && (
              <span style={{ color: "var(--chakra-colors-amber)" }}>{questions}</span>
            )}
            {p.id === "clip" && look && <Box w="7px" h="7px" borderRadius="full" bg="amber" />}
          </Button>
        );
      })}
    </Flex>
  );
});
