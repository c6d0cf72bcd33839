import { Text } from "@chakra-ui/react";
import type { Drill } from "../api/client";
import { t } from "../texts/texts";

/** Ladder tells from which rung of a drill to which, when to go on and when to end it. */
export function Ladder({ drill, tone = "quiet" }: { drill: Drill; tone?: string }) {
  if (!drill.ladder?.length) return null;
  return (
    <Text fontSize="12px" color={tone} mt="3px">
      {t("{ladder}. Go on:", { ladder: drill.ladder.join(" → ") })} {drill.go_on}
      {t(". Stop:")} {drill.stop}.
    </Text>
  );
}
