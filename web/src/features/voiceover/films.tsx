import { Box, Button, Flex, Link, Text } from "@chakra-ui/react";
import type { Film, ExportRequest } from "../../api/client";
import { filmURL, useDrawFilm, useDropFilm, useFilms } from "./api";
import { Notice } from "../../ui/parts";
import { t } from "../../texts/texts";
import { moment, fixed } from "../../ui/written";

/** Films offers an attempt's films of one kind: draw one, see how far it is, take it. */
export function Films({
  attempt,
  order,
  says,
  name,
}: {
  attempt: string;
  order: ExportRequest;
  says: string;
  name: string;
}) {
  const films = useFilms(attempt);
  const draw = useDrawFilm();
  const drop = useDropFilm();
  const mine = (films.data ?? []).filter((f) => f.kind === order.kind);
  const state = (f: Film) =>
    ({
      waiting: t("waits for its turn"),
      drawing: `drawing, ${Math.round(f.progress * 100)} %`,
      ready: `${fixed(f.bytes / 1e6, 1)} MB`,
      failed: f.problem,
      cancelled: t("stopped"),
    })[f.state];
  return (
    <Box data-testid="films">
      <Flex align="center" gap="10px">
        <Text flex="1" fontSize="12.5px" color="quiet">
          {says}
        </Text>
        <Button
          size="xs"
          variant="outline"
          loading={draw.isPending}
          onClick={() => draw.mutate({ id: attempt, ...order })}
          data-testid="draw-film"
        >
          {t("Draw a film")}
        </Button>
      </Flex>
      {draw.error && (
        <Notice tone="clay" mt="6px">
          {draw.error.message}
        </Notice>
      )}
      {mine.map((f) => (
        <Flex key={f.id} align="center" gap="10px" mt="6px" fontSize="12.5px" data-film={f.state}>
          <Text w="110px" color="quiet">
            {moment(f.created_at)}
          </Text>
          <Box flex="1">
            <Text color={f.state === "failed" ? "clay" : undefined}>{state(f)}</Text>
            {f.state === "drawing" && (
              <Box h="3px" bg="seam" borderRadius="full" mt="3px">
                <Box h="3px" bg="moss" borderRadius="full" w={`${100 * f.progress}%`} />
              </Box>
            )}
          </Box>
          {f.state === "ready" && (
            <Link href={filmURL(f.id)} download={`${name}.mp4`} fontSize="12.5px">
              {t("MP4")}
            </Link>
          )}
          <Button
            size="2xs"
            variant="ghost"
            aria-label={t("stop or remove this film")}
            onClick={() => drop.mutate(f.id)}
          >
            ×
          </Button>
        </Flex>
      ))}
    </Box>
  );
}
