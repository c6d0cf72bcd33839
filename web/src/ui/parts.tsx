import { Box, Flex, Text, type BoxProps, type FlexProps } from "@chakra-ui/react";
import type { ReactNode } from "react";

export const Panel = (p: BoxProps) => <Box bg="panel" borderRadius="panel" {...p} />;

/** Dot is a sign of a state in its colour, which forced colours leave alone; a word or a title says
 * the same. */
export const Dot = ({ tone, ...p }: { tone: string } & BoxProps) => (
  <Box className="dot" w="8px" h="8px" borderRadius="full" bg={tone} flexShrink={0} {...p} />
);

/** Key shows a key cap. */
export const Key = ({ children }: { children: ReactNode }) => (
  <Box
    as="kbd"
    fontFamily="body"
    fontSize="10.5px"
    border="1px solid"
    borderColor="currentColor"
    borderRadius="4px"
    px="4px"
    minW="16px"
    textAlign="center"
    display="inline-block"
  >
    {children}
  </Box>
);

/** Notice is a plain sentence that wants a look. */
export const Notice = ({ tone = "amber", children, ...p }: { tone?: "amber" | "clay" | "moss" } & FlexProps) => (
  <Flex
    bg={tone + "Faint"}
    color="chalk"
    borderLeft="3px solid"
    borderColor={tone}
    borderRadius="4px"
    px="10px"
    py="6px"
    fontSize="12px"
    align="flex-start"
    gap="8px"
    role="status"
    {...p}
  >
    {children}
  </Flex>
);

export const Label = ({ children }: { children: ReactNode }) => (
  <Text fontSize="11.5px" color="quiet" mb="2px">
    {children}
  </Text>
);

/** Head is the small heading of a part of a panel. */
export const Head = ({
  children,
  tone = "quiet",
  right,
}: {
  children: ReactNode;
  tone?: string;
  right?: ReactNode;
}) => (
  <Flex justify="space-between" align="baseline" mb="6px">
    <Text as="h2" fontSize="13px" fontWeight="650" color={tone}>
      {children}
    </Text>
    {right}
  </Flex>
);
