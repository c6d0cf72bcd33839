import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import type { FormEvent, ReactNode } from "react";
import { Named } from "../../ui/field";
import { Notice } from "../../ui/parts";
import { t } from "../../texts/texts";

/** Door is the frame of everything that is seen before one is in. */
export const Door = ({ says, children }: { says: ReactNode; children: ReactNode }) => (
  <Flex as="main" minH="100%" align="center" justify="center" p="20px">
    <Box w="360px" maxW="100%">
      <Flex align="center" gap="12px" mb="6px">
        <img src="/mark.svg" width={38} height={38} alt="" />
        <Text as="h1" fontSize="26px" fontWeight="700">
          {t("Neokinema")}
        </Text>
      </Flex>
      <Text color="quiet" mb="22px">
        {says}
      </Text>
      {children}
    </Box>
  </Flex>
);

/** DoorForm is a form at the door. */
export const DoorForm = ({
  onSubmit,
  error,
  children,
}: {
  onSubmit(): void;
  error?: Error | null;
  children: ReactNode;
}) => (
  <form
    onSubmit={(e: FormEvent) => {
      e.preventDefault();
      onSubmit();
    }}
  >
    <Box display="grid" gap="10px" bg="panel" p="16px" borderRadius="panel">
      {children}
      {error && <Notice tone="clay">{error.message}</Notice>}
    </Box>
  </form>
);

/** Field is one line of such a form. */
export const Field = ({
  name,
  label,
  help,
  type = "text",
  complete = "off",
  value,
  set,
}: {
  name: string;
  label: string;
  help?: string;
  type?: string;
  complete?: string;
  value: string;
  set(v: string): void;
}) => (
  <Named name={label} help={help}>
    <Input
      name={name}
      type={type}
      value={value}
      onChange={(e) => set(e.target.value)}
      required
      autoComplete={complete}
      maxLength={200}
    />
  </Named>
);

export const goodPassword = t("10 characters or more; three or four unrelated words are good");

/** Small is a way to another form. */
export const Small = ({ onClick, children }: { onClick(): void; children: ReactNode }) => (
  <Button variant="ghost" size="xs" onClick={onClick}>
    {children}
  </Button>
);
