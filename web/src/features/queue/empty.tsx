import { Box, Button, Flex, Grid, Heading, Text } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { andThen } from "../../api/topic";
import { events, type EventID } from "../../api/events";
import { t } from "../../texts/texts";
import { Doubt } from "../../ui/doubt";
import { Notice, Panel } from "../../ui/parts";
import { Standing } from "../../ui/standing";
import { useModels } from "../models/api";
import { useAddSample } from "./api";

/** Empty is the queue of a team that has no attempt yet: what to film, how it goes on, and a
 * clip to try. */
export function Empty({ onAdd }: { onAdd(): void }) {
  const [event, setEvent] = useState<EventID>("sprint-start");
  const models = useModels();
  const sample = useAddSample();
  const go = useNavigate();
  const film = models.data?.find((m) => m.model.id === event)?.model.film;
  return (
    <Grid templateColumns={{ base: "1fr", md: "1fr 1fr" }} gap="14px" mb="40px" data-testid="first-evening">
      <Panel p={{ base: "18px", md: "28px" }}>
        <Heading as="h2" fontSize="18px" fontWeight="650" mb="10px">
          {t("No attempt yet")}
        </Heading>
        <Box as="ol" ps="18px" mb="16px" listStyleType="decimal" css={{ "& li": { marginBottom: "8px" } }}>
          <li>{t("Film one attempt in slow motion, the phone still.")}</li>
          <li>{t("Drop the clip anywhere here. Its joints are drafted while you do something else.")}</li>
          <li>{t("Answer a few questions, look at the first cause, choose one cue, send the page.")}</li>
        </Box>
        <Flex gap="8px" wrap="wrap">
          <Button onClick={onAdd} h={{ base: "44px", md: "32px" }}>
            {t("Add the first attempt")}
          </Button>
          <Button
            variant="outline"
            h={{ base: "44px", md: "32px" }}
            loading={sample.isPending}
            onClick={() => andThen(sample.mutateAsync(undefined), (a) => void go(`/attempt/${a.id}`))}
            data-testid="try-sample"
          >
            {t("Try it with a sample clip")}
          </Button>
        </Flex>
        {sample.error && (
          <Notice tone="clay" mt="10px">
            {sample.error.message}
          </Notice>
        )}
        <Box mt="22px" pt="16px" borderTop="1px solid" borderColor="seam">
          <Heading as="h3" fontSize="13px" fontWeight="650" mb="4px">
            {t("What ± means")}
          </Heading>
          <Doubt />
        </Box>
      </Panel>
      <Panel p={{ base: "18px", md: "28px" }}>
        <Heading as="h2" fontSize="18px" fontWeight="650" mb="10px">
          {t("Where to stand with the phone")}
        </Heading>
        <Flex gap="4px" wrap="wrap" mb="12px">
          {Object.entries(events).map(([id, name]) => (
            <Button
              key={id}
              size="xs"
              h={{ base: "44px", md: "26px" }}
              variant={id === event ? "outline" : "ghost"}
              aria-pressed={id === event}
              onClick={() => setEvent(id as EventID)}
            >
              {name}
            </Button>
          ))}
        </Flex>
        <Standing event={event} />
        <Text mt="10px" fontSize="13.5px">
          {film}
        </Text>
      </Panel>
    </Grid>
  );
}
