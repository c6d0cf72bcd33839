import { Popover, Portal, Text } from "@chakra-ui/react";
import { t } from "../texts/texts";

/** Doubt says in three sentences what ± means. */
export const Doubt = () => (
  <Text fontSize="13px" color="quiet">
    {t("74° ±5 says: in 95 of 100 such readings the true angle lies between 69 and 79.")}{" "}
    {t(
      "A verdict is certain only when the whole of that lies outside the range; else it stays open, and the tool asks.",
    )}{" "}
    {t(
      "It shrinks with a larger and sharper picture, a camera square to the movement, more frames a second, and a point that you place by hand.",
    )}
  </Text>
);

/** WhatIsDoubt explains ± where somebody asks. */
export const WhatIsDoubt = () => (
  <Popover.Root lazyMount unmountOnExit positioning={{ placement: "bottom-end" }}>
    <Popover.Trigger asChild>
      <button
        type="button"
        style={{
          fontSize: 12,
          color: "var(--chakra-colors-quiet)",
          textDecoration: "underline dotted",
          cursor: "pointer",
        }}
        data-testid="what-is-doubt"
      >
        {t("what is ±?")}
      </button>
    </Popover.Trigger>
    <Portal>
      <Popover.Positioner>
        <Popover.Content bg="raised" maxW="320px">
          <Popover.Body p="14px">
            <Doubt />
          </Popover.Body>
        </Popover.Content>
      </Popover.Positioner>
    </Portal>
  </Popover.Root>
);
