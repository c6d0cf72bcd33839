import { Tabs as Parts } from "@chakra-ui/react";
import { memo } from "react";
import { offered } from "./registry";
import { t } from "../../../texts/texts";
import { Dot } from "../../../ui/parts";

/** Tabs choose the panel. The number of findings may change at every move of a joint. */
export const Tabs = memo(function Tabs({
  event,
  findings,
  questions,
  look,
}: {
  event: string;
  findings: number;
  questions: number;
  look: boolean; // the clip wants an answer
}) {
  return (
    <Parts.List
      display="flex"
      borderBottom="1px solid"
      borderColor="seam"
      px="4px"
      overflowX="auto"
      flexShrink={0}
      scrollbarWidth="none"
      aria-label={t("Panels")}
    >
      {offered(event).map((p) => (
        <Parts.Trigger
          key={p.id}
          value={p.id}
          display="inline-flex"
          alignItems="center"
          gap="6px"
          h="40px"
          px="3px"
          fontSize="12px"
          fontWeight="500"
          color="quiet"
          borderBottom="2px solid transparent"
          cursor="pointer"
          whiteSpace="nowrap"
          flexShrink={0}
          _selected={{ color: "chalk", borderBottomColor: "clay" }}
          title={`${p.label} (${p.key.toUpperCase()})`}
        >
          {p.label}
          {p.id === "findings" && findings > 0 && (
            <span style={{ color: "var(--chakra-colors-clay)" }}>{findings}</span>
          )}
          {p.id === "check" && questions > 0 && (
            <span style={{ color: "var(--chakra-colors-amber)" }}>{questions}</span>
          )}
          {p.id === "clip" && look && <Dot tone="amber" />}
        </Parts.Trigger>
      ))}
    </Parts.List>
  );
});
