import { Box, Text } from "@chakra-ui/react";
import { useEffect } from "react";
import { Link } from "react-router";
import type { Question, Workshop } from "../../../api/client";
import { Opening } from "../../../ui/opening";
import { Head, Notice } from "../../../ui/parts";
import { t } from "../../../texts/texts";
import { useKnown } from "../../workshop/api";
import { Asked, useAnswers, useSheet } from "../../workshop/question";
import { useReckoner, type Reckoner } from "../../workshop/reckon";
import { useOpenClip } from "../context";

/** WhatIfPanel is the workshop's question of this event, with the numbers of this attempt. */
export function WhatIfPanel() {
  const { sheet, work, kept } = useOpenClip();
  const { athlete, attempt } = sheet;
  const known = useKnown(athlete.id, attempt.event, attempt.id);
  const { reckoner, failed } = useReckoner();
  // What a hand has placed counts as soon as the server has it.
  const { refetch } = known;
  useEffect(() => {
    const soon = setTimeout(() => void kept().then(() => refetch()), 400);
    return () => clearTimeout(soon);
  }, [work, kept, refetch]);
  const q = reckoner?.questions(attempt.event).find((x) => x.id === "blocks");
  if (failed) return <Notice tone="clay">{failed}</Notice>;
  if (!q || !reckoner || known.isPending) return <Opening inside back={null} what={t("the workshop")} />;
  return (
    <Box data-testid="whatif">
      <Head
        tone="sky"
        right={<Link to={`/workshop/${athlete.id}?attempt=${attempt.id}&q=blocks`}>{t("in the workshop")}</Link>}
      >
        {t("Move pedals, keep the hips")}
      </Head>
      {!known.data?.facts["front-knee"] && (
        <Notice mb="8px">
          {t(
            "The set is not measured yet: flag it, and place hips, knees and ankles. Until then these are usual numbers.",
          )}
        </Notice>
      )}
      {known.error && (
        <Text fontSize="12px" color="amber" mb="6px">
          {known.error.message}
        </Text>
      )}
      <Inside
        key={JSON.stringify(known.data?.facts)}
        q={q}
        reckoner={reckoner}
        known={known.data}
        attempt={attempt.id}
        event={attempt.event}
      />
    </Box>
  );
}

function Inside({
  q,
  reckoner,
  known,
  attempt,
  event,
}: {
  q: Question;
  reckoner: Reckoner;
  known?: Workshop;
  attempt: string;
  event: string;
}) {
  const [sheet, put] = useSheet(attempt, event, q, known);
  const answers = useAnswers(reckoner, q, sheet);
  return <Asked q={q} sheet={sheet} put={put} answers={answers} known={known} narrow />;
}
