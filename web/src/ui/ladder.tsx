import { Text } from "@chakra-ui/react";
import type { Drill } from "../api/client";

/** Ladder tells from which rung of a drill to which, when to go on and when to end it. */
export function Ladder({ drill, tone = "quiet" }: { drill: Drill; tone?: string }) {
  if (!drill.ladder?.length) return null;
  return (
    <Text fontSize="12px" color={tone} mt="3px">
      {drill.ladder.join(" → ")}. Go on: {drill.go_on}. Stop: {drill.stop}.
    </Text>
  );
}
