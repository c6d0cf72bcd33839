import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Failure } from "../../api/client";
import { Notice } from "../../ui/parts";
import { t } from "../../texts/texts";

/** ReasonForm asks for the reason of a change; it stays beside the version. */
export function ReasonForm({
  says,
  busy,
  error,
  onKeep,
}: {
  says: string;
  busy: boolean;
  error: Error | null;
  onKeep(reason: string): void;
}) {
  const [reason, setReason] = useState("");
  return (
    <Box>
      <Flex gap="8px">
        <Input
          size="sm"
          flex="1"
          value={reason}
          onChange={(e) => setReason(e.target.value)}
          placeholder={t("Why? It stays beside the version.")}
          aria-label={t("Reason of the change")}
          maxLength={300}
        />
        <Button size="sm" disabled={reason.trim().length < 3} loading={busy} onClick={() => onKeep(reason.trim())}>
          {says}
        </Button>
      </Flex>
      {error && (
        <Notice tone="clay" mt="6px">
          <Text>{[error.message, ...((error as Failure).fields ?? [])].join(" ")}</Text>
        </Notice>
      )}
    </Box>
  );
}
