import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { t } from "../texts/texts";
import { Notice } from "./parts";

/** Once shows a link that is told once. */
export const Once = ({ says, path }: { says: string; path: string }) => {
  const link = location.origin + path;
  return (
    <Notice tone="moss" mb="8px">
      <Box>
        {t("{says} It is shown once.", { says })}
        <Flex gap="8px" mt="4px" align="center">
          <Text fontFamily="mono" fontSize="11.5px" overflowWrap="anywhere" data-testid="once">
            {link}
          </Text>
          <Button size="2xs" variant="outline" onClick={() => void navigator.clipboard?.writeText(link)}>
            {t("Copy")}
          </Button>
        </Flex>
      </Box>
    </Notice>
  );
};
