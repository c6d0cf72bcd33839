import { Box, Skeleton, Text, VisuallyHidden } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Link as RouterLink } from "react-router";
import { useOnline } from "./online";
import { Notice } from "./parts";
import { t } from "../texts/texts";

/** slow is how long something may load before it is said that the connection is slow, ms. */
const slow = 4000;

/** Opening stands where a page will be: what loads, that the connection is slow or gone, or why
 * it cannot be shown, with a way out. */
export function Opening({
  what,
  error,
  back = { to: "/", name: t("Back to the queue") },
  inside,
}: {
  what: string;
  error?: Error | null;
  back?: { to: string; name: string } | null;
  /** it stands within a page that is there already */
  inside?: boolean;
}) {
  const online = useOnline();
  const [late, setLate] = useState(false);
  useEffect(() => {
    const t = setTimeout(() => setLate(true), slow);
    return () => clearTimeout(t);
  }, []);
  return (
    <Box as={inside ? "div" : "main"} p="40px" maxW="760px" mx="auto" data-testid="opening">
      {!inside && <VisuallyHidden as="h1">{what[0].toUpperCase() + what.slice(1)}</VisuallyHidden>}
      {error ? (
        <Notice tone="clay" mb="12px">
          {error.message}
        </Notice>
      ) : (
        <Box role="status" display="grid" gap="10px" mb="12px">
          <Text color="quiet">
            {!online
              ? t("No connection: {what} opens as soon as it is back.", { what })
              : late
                ? t("{toUpperCase} is still loading; the connection is slow.", {
                    toUpperCase: what[0].toUpperCase() + what.slice(1),
                  })
                : t("{toUpperCase} is loading …", { toUpperCase: what[0].toUpperCase() + what.slice(1) })}
          </Text>
          <Skeleton h="180px" bg="panel" borderRadius="panel" />
          <Skeleton h="14px" w="70%" bg="panel" />
          <Skeleton h="14px" w="45%" bg="panel" />
        </Box>
      )}
      {back && (error || !online || late) && <RouterLink to={back.to}>{back.name}</RouterLink>}
    </Box>
  );
}
