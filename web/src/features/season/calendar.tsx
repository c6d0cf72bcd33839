import { Box, Button, Link, Text } from "@chakra-ui/react";
import type { SeasonView } from "../../api/client";
import { Once } from "../../ui/once";
import { Notice } from "../../ui/parts";
import { day } from "../../ui/written";
import { t } from "../../texts/texts";
import { useFollow, useUnfollow } from "./api";

/** Calendar gives a season to a calendar: by an address that it follows, or once as a file. */
export function Calendar({ v }: { v: SeasonView }) {
  const follow = useFollow(v.athlete.id);
  const unfollow = useUnfollow(v.athlete.id);
  const error = follow.error ?? unfollow.error;
  const link = "/api/athletes/" + v.athlete.id + "/season.ics";
  return (
    <Box data-testid="calendar" fontSize="13px">
      {error && (
        <Notice tone="clay" mb="8px">
          {error.message}
        </Notice>
      )}
      <Text mb="8px">
        {t(
          "A calendar that follows an address looks again several times a day: what moves in the plan moves there. Whoever has the address can read the sessions and the cue, without an account.",
        )}
      </Text>
      {follow.data && (
        <Once
          says={t("Subscribe to this address in the calendar.")}
          path={`/api/shared/${follow.data.secret}/season.ics`}
        />
      )}
      {v.address && (
        <Text color="quiet" mb="8px" data-testid="address">
          {v.address.seen_at
            ? t("Address of {day}, last fetched on {seen}.", {
                day: day(v.address.created_at),
                seen: day(v.address.seen_at),
              })
            : t("Address of {day}, not fetched yet.", { day: day(v.address.created_at) })}
        </Text>
      )}
      <Box display="flex" gap="8px" flexWrap="wrap" alignItems="center">
        <Button size="sm" loading={follow.isPending} onClick={() => follow.mutate()} data-testid="follow">
          {v.address ? t("A new address; the old one ends") : t("Make an address")}
        </Button>
        {v.address && (
          <Button
            size="sm"
            variant="outline"
            loading={unfollow.isPending}
            data-testid="unfollow"
            onClick={() => unfollow.mutate(undefined, { onSuccess: () => follow.reset() })}
          >
            {t("Take it back")}
          </Button>
        )}
      </Box>
      <Text mt="14px">
        <Link href={link} download display="inline-flex" alignItems="center" minH="44px" textDecoration="underline">
          {t("Once, as a file")}
        </Link>
      </Text>
    </Box>
  );
}
