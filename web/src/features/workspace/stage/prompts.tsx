import { Button, Flex, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";
import type { Model } from "../../../api/client";
import { Key } from "../../../ui/parts";
import type { Ask, Tool } from "./tools";
import { t } from "../../../texts/texts";

const Pill = ({ children, ...data }: { children: ReactNode } & Record<`data-${string}`, unknown>) => (
  <Flex position="absolute" top="10px" left="0" right="0" justify="center" pointerEvents="none">
    <Flex
      bg="panel"
      borderRadius="full"
      px="14px"
      py="5px"
      gap="10px"
      align="center"
      border="1px solid"
      borderColor="clay"
      pointerEvents="auto"
      {...data}
    >
      {children}
    </Flex>
  </Flex>
);

/** Asked says which landmark guided placing wants. */
export const Asked = ({
  asked,
  model,
  hidden,
  onHide,
  onSkip,
}: {
  asked: Ask;
  model: Model;
  hidden: boolean;
  onHide(): void;
  onSkip(): void;
}) => (
  <Pill data-testid="ask" data-landmark={asked.landmark} data-frame={asked.frame}>
    <Text color="quiet">{model.positions.find((p) => p.id === asked.position)?.name}</Text>
    <Text fontWeight="650" fontSize="14px" color={asked.landmark.startsWith("left") ? "clay" : "sky"}>
      {asked.label}
    </Text>
    <Text color="quiet">{t("{nth} of {of}", { nth: asked.nth, of: asked.of })}</Text>
    <Button
      size="2xs"
      variant={hidden ? "solid" : "outline"}
      onClick={onHide}
      title={t("It is covered: I guess the place (H)")}
    >
      {t("Hidden")}
    </Button>
    <Button size="2xs" variant="outline" onClick={onSkip} title={t("Skip it (K)")}>
      {t("Skip")}
    </Button>
  </Pill>
);

/** ToolPrompt says what the next press on the picture does. */
export const ToolPrompt = ({ tool, onLeave }: { tool: Tool; onLeave(): void }) => (
  <Pill data-testid="tool">
    <Text fontWeight="600">{tool.says}</Text>
    <Button size="2xs" variant="outline" onClick={onLeave}>
      {t("Cancel")} <Key>{t("Esc")}</Key>
    </Button>
  </Pill>
);
