import { Box, Button, Flex, Input, Link, Text } from "@chakra-ui/react";
import { type RefObject } from "react";
import { Link as RouterLink } from "react-router";
import type { Chapter, Clip } from "../../api/client";
import { proxyURL } from "../../api/media";
import { useChapters, useDropChapter, useTrim, voiceURL } from "./api";
import { Notice } from "../../ui/parts";
import { Films } from "./films";
import { Replay } from "./replay";
import { useDraft } from "../../ui/draft";
import { t } from "../../texts/texts";

/** Talk is the coach's own talk on the feedback page: hear it, cut it, say a chapter
 * again, draw it as a film. */
export function Talk({ attempt, clips, name }: { attempt: string; clips: Clip[]; name: string }) {
  const chapters = useChapters(attempt);
  if (!chapters.data?.length)
    return (
      <Text className="screen" maxW="860px" mx="auto" mb="12px" px="16px" fontSize="12.5px" color="quiet">
        {t("On the Bench press Z and talk: what you say and show goes with this page.")}
      </Text>
    );
  return (
    <Box
      className="screen"
      bg="panel"
      borderRadius="panel"
      maxW="860px"
      mx="auto"
      mb="12px"
      p="14px 16px"
      data-testid="talk"
    >
      <Replay chapters={chapters.data} clips={clips} voice={voiceURL} video={proxyURL}>
        {(c, audio) => <Cut key={c.id} c={c} audio={audio} attempt={attempt} />}
      </Replay>
      <Box borderTop="1px solid" borderColor="seam" mt="12px" pt="10px">
        <Films
          attempt={attempt}
          order={{ kind: "talk" }}
          says={t("The same as a film with voice, lines and numbers, for those who want a file.")}
          name={name}
        />
        <Link href={`/api/attempts/${attempt}/talk.vtt`} download={`${name}.vtt`} fontSize="12px" color="quiet">
          {t("chapters as subtitles (WebVTT)")}
        </Link>
      </Box>
    </Box>
  );
}

/** Cut is what can be done with one chapter. */
function Cut({ c, audio, attempt }: { c: Chapter; audio: RefObject<HTMLAudioElement | null>; attempt: string }) {
  const trim = useTrim();
  const drop = useDropChapter();
  const [name, setName] = useDraft(c.name);
  const put = (change: Partial<Chapter>) =>
    trim.mutate({ id: c.id, name: name.trim() || c.name, starts: c.starts, ends: c.ends, ...change });
  const round = (v: number) => Math.round(v * 100) / 100;
  const cut = c.starts > 0 || c.ends < c.seconds;
  return (
    <Box mt="10px">
      <Flex gap="6px" align="center" wrap="wrap">
        <Input
          size="xs"
          w="230px"
          value={name}
          maxLength={120}
          aria-label={t("name of the chapter")}
          onChange={(e) => setName(e.target.value)}
          onBlur={() => name.trim() && name.trim() !== c.name && put({})}
        />
        <Button
          size="xs"
          variant="outline"
          onClick={() => put({ starts: round(audio.current?.currentTime ?? 0) })}
          title={t("What comes before this moment is left out")}
        >
          {t("Begin here")}
        </Button>
        <Button
          size="xs"
          variant="outline"
          onClick={() => put({ ends: round(audio.current?.currentTime ?? 0) })}
          title={t("What comes after this moment is left out")}
        >
          {t("End here")}
        </Button>
        {cut && (
          <Button size="xs" variant="ghost" onClick={() => put({ starts: 0, ends: c.seconds })}>
            {t("Whole again")}
          </Button>
        )}
        <Box flex="1" />
        <Button asChild size="xs" variant="outline">
          <RouterLink to={`/attempt/${attempt}?again=${c.id}`}>{t("Say it again")}</RouterLink>
        </Button>
        <Button size="xs" variant="ghost" loading={drop.isPending} onClick={() => drop.mutate(c.id)}>
          {t("Remove")}
        </Button>
      </Flex>
      {(trim.error ?? drop.error) && (
        <Notice tone="clay" mt="6px">
          {(trim.error ?? drop.error)!.message}
        </Notice>
      )}
    </Box>
  );
}
