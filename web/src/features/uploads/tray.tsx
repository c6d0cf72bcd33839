import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useUploads } from "./uploads";
import { t } from "../../texts/texts";
import { fixed } from "../../ui/written";

/** Tray shows uploads under way, wherever the coach is. */
export function Tray() {
  const list = useUploads();
  if (!list.length) return null;
  return (
    <Box
      position="fixed"
      right="20px"
      bottom="16px"
      w="340px"
      bg="raised"
      border="1px solid"
      borderColor="seam"
      borderRadius="panel"
      p="10px"
      zIndex={20}
      display="grid"
      gap="8px"
      boxShadow="0 8px 28px rgba(0,0,0,.35)"
      data-testid="uploads"
    >
      {list.map((u) => (
        <Box key={u.key}>
          <Flex gap="8px" align="baseline">
            <Text flex="1" truncate fontWeight="500">
              {u.name}
            </Text>
            <Text fontSize="11.5px" color="quiet">
              {u.state === "done"
                ? t("sent")
                : u.state === "failed"
                  ? t("not sent")
                  : t("{sent} % of {count} MB", {
                      sent: Math.floor((100 * u.sent) / u.size),
                      count: fixed(u.size / 1e6, 0),
                    })}
            </Text>
            <Button size="xs" variant="ghost" h="20px" onClick={u.close}>
              {u.state === "sending" || u.state === "waiting" ? t("Stop") : t("Close")}
            </Button>
          </Flex>
          <Box h="3px" bg="seam" borderRadius="2px" mt="3px">
            <Box
              h="3px"
              borderRadius="2px"
              bg={u.state === "failed" ? "clay" : u.state === "waiting" ? "amber" : "moss"}
              w={`${(100 * u.sent) / Math.max(1, u.size)}%`}
            />
          </Box>
          {u.says && (
            <Text fontSize="11.5px" color={u.state === "failed" ? "clay" : "amber"} mt="2px">
              {u.says}
            </Text>
          )}
        </Box>
      ))}
    </Box>
  );
}
