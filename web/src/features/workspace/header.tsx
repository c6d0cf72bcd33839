import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { memo, useState } from "react";
import { Link as RouterLink } from "react-router";
import type { Calls, Workspace } from "../../api/client";
import { longDay } from "../../ui/written";
import { HandTime } from "../queue/handtime";
import { Before } from "./before";
import { t } from "../../texts/texts";
import { word } from "../../texts/words";

/** Spent is the hand time on an attempt so far. */
function Spent({ sheet }: { sheet: Workspace }) {
  // What the server knew when the attempt was opened; the rest is counted here.
  const [before] = useState(sheet.spent);
  return <HandTime id={sheet.attempt.id} before={before} />;
}

/** wide is what a phone has no room for. */
const wide = { base: "none", md: "inline-flex" };

type HeaderProps = {
  sheet: Workspace;
  effect?: Calls["evaluate_answer"]["effect"];
  state: string;
  canUndo: boolean;
  canRedo: boolean;
  onUndo(): void;
  onRedo(): void;
  onHelp(): void;
  onFeedback(): void;
  onBeside(): void;
  onLink(): void;
  onWorkshop(): void;
};

/** Header: whose attempt it is, what became of the last cue, saving, undo. */
export const Header = memo(function Header({
  sheet,
  effect,
  state,
  canUndo,
  canRedo,
  onUndo,
  onRedo,
  onHelp,
  onFeedback,
  onBeside,
  onLink,
  onWorkshop,
}: HeaderProps) {
  const about = [
    sheet.model.name.toLowerCase(),
    sheet.attempt.session,
    longDay(sheet.attempt.done_on),
    sheet.attempt.mark,
    sheet.attempt.goal && t("aimed at {goal}", { goal: sheet.attempt.goal }),
    sheet.attempt.run_up && t("{runUp} steps", { runUp: sheet.attempt.run_up }),
    sheet.attempt.turns && t("{turns} turns", { turns: sheet.attempt.turns }),
  ]
    .filter(Boolean)
    .join(" · ");
  return (
    <Flex h="48px" align="center" gap="12px" px="16px" flexShrink={0} borderBottom="1px solid" borderColor="seam">
      <RouterLink to="/" title={t("Back to the queue")} aria-label={t("Back to the queue")}>
        <img src="/mark.svg" width={24} height={24} alt="" />
      </RouterLink>
      <Box minW="0" flex={{ base: "1", md: "0 1 auto" }}>
        {/* Both lines are the link: together they are as high as a finger. */}
        <RouterLink
          to={`/athlete/${sheet.athlete.id}`}
          title={t("The athlete's log (M)")}
          style={{ color: "inherit", textDecoration: "none", maxWidth: "100%" }}
        >
          <Box minW="0">
            <Text as="h1" fontSize="15px" fontWeight="700" lineHeight="1.15" truncate maxW="330px">
              {sheet.athlete.name}
            </Text>
            <Text fontSize="11.5px" color="quiet" truncate maxW="330px">
              {about}
            </Text>
          </Box>
        </RouterLink>
      </Box>
      <Box flex="1" display={{ base: "none", md: "flex" }} justifyContent="center" minW="0">
        {sheet.before && <Before before={sheet.before} model={sheet.model} effect={effect} />}
      </Box>
      <Box display={wide}>
        <Spent sheet={sheet} />
      </Box>
      <Text
        fontSize="11.5px"
        color={state === "kept" ? "amber" : "quiet"}
        data-testid="saving"
        data-state={state}
        role="status"
      >
        {state === "kept" ? t("kept here, not saved yet") : word(state)}
      </Text>
      <Button size="xs" variant="ghost" px="6px" disabled={!canUndo} onClick={onUndo} title={t("Undo (U)")}>
        {t("Undo")}
      </Button>
      <Button
        display={wide}
        size="xs"
        variant="ghost"
        px="6px"
        disabled={!canRedo}
        onClick={onRedo}
        title={t("Redo (Shift U)")}
      >
        {t("Redo")}
      </Button>
      <Button
        display={wide}
        size="xs"
        variant="ghost"
        px="6px"
        onClick={onLink}
        title={t("Copy a link to this moment (Shift L)")}
      >
        {t("Link")}
      </Button>
      <Button
        display={wide}
        size="xs"
        variant="ghost"
        px="6px"
        onClick={onHelp}
        title={t("Keys (?)")}
        data-testid="keys"
      >
        ?
      </Button>
      <Button
        display={wide}
        size="xs"
        variant="ghost"
        px="6px"
        onClick={onWorkshop}
        title={t("Run-ups, flights and what-ifs with the numbers of this attempt")}
      >
        {t("Workshop")}
      </Button>
      <Button
        display={wide}
        size="xs"
        variant="outline"
        onClick={onBeside}
        title={t("Compare with another attempt (Y)")}
      >
        {t("Compare")}
      </Button>
      <Button onClick={onFeedback} title={t("Feedback page (O)")}>
        {t("Feedback")}
      </Button>
    </Flex>
  );
});
