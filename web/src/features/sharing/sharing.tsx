import { Box, Button, Flex, Text, Textarea } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { Link as RouterLink, useParams } from "react-router";
import type { SharedPage } from "../../api/client";
import { events, type EventID } from "../../api/events";
import { andThen } from "../../api/topic";
import { useAnswerShared, useMine, useNextShared, useShared, useSharedTalk } from "./api";
import { useSignOut } from "../account/api";
import { Paper } from "../feedback/paper";
import { Replay } from "../voiceover/replay";
import { Tray } from "../uploads/tray";
import { send } from "../uploads/uploads";
import { Notice } from "../../ui/parts";
import { longDay } from "../../ui/written";
import { Opening } from "../../ui/opening";
import { t } from "../../texts/texts";

/** Shared is the page an athlete sees, by a link or in an account, mostly on a phone. */
export default function Shared() {
  const { key = "" } = useParams();
  const page = useShared(key);
  if (page.error)
    return (
      <Flex minH="100%" align="center" justify="center" p="24px" direction="column" gap="10px">
        <img src="/mark.svg" width={34} height={34} alt="" />
        <Text maxW="340px" textAlign="center">
          {page.error.message}
        </Text>
      </Flex>
    );
  if (!page.data) return <Opening what={t("your page")} back={null} />;
  const p = page.data;
  return (
    <Box as="main" minH="100%" bg="ground" pb="40px">
      <Paper p={p} frame={(clip, n) => `/api/shared/${key}/frames/${n}?clip=${clip}`} phone />
      <Said link={key} />
      {p.clip_id && <Loop p={p} src={`/api/shared/${key}/clip.mp4`} />}
      <Back p={p} link={key} />
      <Tray />
    </Box>
  );
}

/** Said is what the coach says to it, played in the page. */
function Said({ link }: { link: string }) {
  const talk = useSharedTalk(link);
  if (!talk.data?.chapters.length) return null;
  return (
    <Box maxW="860px" mx="auto" mt="14px" px={{ base: "12px", md: 0 }}>
      <Text fontWeight="650" mb="6px">
        {t("Your coach talks you through it")}
      </Text>
      <Replay
        chapters={talk.data.chapters}
        clips={talk.data.clips}
        voice={(c) => `/api/shared/${link}/voices/${c}`}
        video={(c) => `/api/shared/${link}/clip.mp4?clip=${c}`}
      />
    </Box>
  );
}

/** Loop plays the moment over and over, slowly. */
function Loop({ p, src }: { p: SharedPage; src: string }) {
  const video = useRef<HTMLVideoElement>(null);
  const [whole, setWhole] = useState(false);
  // The clip plays at the rate of its file: frames become seconds of that.
  const [from, to] = p.loop;
  useEffect(() => {
    const v = video.current;
    if (!v || whole || to <= from) return;
    const at = (f: number) => (f / Math.max(1, p.frames)) * v.duration;
    const tick = () => {
      if (v.duration && (v.currentTime > at(to) || v.currentTime < at(from) - 0.05)) v.currentTime = at(from);
    };
    v.addEventListener("timeupdate", tick);
    v.addEventListener("loadedmetadata", tick);
    return () => {
      v.removeEventListener("timeupdate", tick);
      v.removeEventListener("loadedmetadata", tick);
    };
  }, [from, to, whole, p.frames]);
  return (
    <Box maxW="860px" mx="auto" mt="14px" px={{ base: "12px", md: 0 }}>
      <Flex align="center" mb="6px">
        <Text fontWeight="650" flex="1">
          {whole ? t("The whole clip") : t("The moment it is about")}
        </Text>
        <Button size="xs" variant="outline" onClick={() => setWhole(!whole)}>
          {whole ? t("Only the moment") : t("The whole clip")}
        </Button>
      </Flex>
      <video
        ref={video}
        src={src}
        muted
        autoPlay
        loop
        playsInline
        controls={whole}
        style={{ width: "100%", borderRadius: 6, background: "#000" }}
      />
    </Box>
  );
}

/** Back is what the athlete sends: an answer and the next clip. */
function Back({ p, link }: { p: SharedPage; link: string }) {
  const [text, setText] = useState(p.answer);
  const answer = useAnswerShared();
  const next = useNextShared();
  const [sent, setSent] = useState(0);
  const take = (files: File[]) =>
    files.length &&
    andThen(next.mutateAsync(link), (a) =>
      send(a.id, files, () => setSent((n) => n + 1), `/api/shared/${link}/uploads/`),
    );
  return (
    <Box maxW="860px" mx="auto" mt="18px" px={{ base: "12px", md: 0 }} display="grid" gap="16px">
      <Box bg="panel" borderRadius="panel" p="16px">
        <Text fontWeight="650" mb="6px">
          {t("Send the next one")}
        </Text>
        <Text color="quiet" mb="10px" fontSize="13px">
          {t("Film it from the same place, with the same speed of the camera.")}
        </Text>
        <Button asChild h="46px" w="100%" fontSize="15px" disabled={next.isPending}>
          <label style={{ cursor: "pointer" }}>
            {t("Film or choose a clip")}
            <input
              type="file"
              accept="video/*"
              data-testid="next"
              style={{ position: "absolute", width: 1, height: 1, opacity: 0 }}
              onChange={(e) => take([...(e.target.files ?? [])])}
            />
          </label>
        </Button>
        {sent > 0 && (
          <Notice tone="moss" mt="8px">
            {t("Your coach has it. You can close this page.")}
          </Notice>
        )}
        {next.error && (
          <Notice tone="clay" mt="8px">
            {next.error.message}
          </Notice>
        )}
      </Box>
      <Box bg="panel" borderRadius="panel" p="16px">
        <Text fontWeight="650" mb="6px">
          {t("Reply to your coach")}
        </Text>
        <Textarea
          name="answer"
          value={text}
          rows={3}
          maxLength={2000}
          placeholder={t("How did it feel?")}
          onChange={(e) => setText(e.target.value)}
        />
        <Flex mt="8px" justify="flex-end" align="center" gap="10px">
          {answer.isSuccess && <Text color="moss">{t("Sent.")}</Text>}
          <Button loading={answer.isPending} onClick={() => answer.mutate({ key: link, text: text.trim() })}>
            {t("Send")}
          </Button>
        </Flex>
        {answer.error && (
          <Notice tone="clay" mt="8px">
            {answer.error.message}
          </Notice>
        )}
      </Box>
      <Text fontSize="11.5px" color="quiet" textAlign="center">
        {t("This page is for you alone and ends on {ends}.", { ends: longDay(p.ends) })}
      </Text>
    </Box>
  );
}

/** Mine lists what was sent to an athlete with an account. */
export function Mine({ name }: { name: string }) {
  const mine = useMine(true);
  const out = useSignOut();
  return (
    <Box maxW="560px" mx="auto" p="16px">
      <Flex align="center" gap="10px" mb="16px">
        <img src="/mark.svg" width={28} height={28} alt="" />
        <Text fontSize="18px" fontWeight="700" flex="1">
          {name}
        </Text>
        <Button
          size="xs"
          variant="ghost"
          onClick={() => andThen(out.mutateAsync(undefined), () => location.assign("/"))}
        >
          {t("Sign out")}
        </Button>
      </Flex>
      {mine.error && <Notice tone="clay">{mine.error.message}</Notice>}
      <Button w="100%" h="48px" mb="12px" variant="outline" asChild>
        <RouterLink to="/eye">{t("Five for the eye")}</RouterLink>
      </Button>
      {mine.data?.length === 0 && <Text color="quiet">{t("Your coach has not sent anything yet.")}</Text>}
      {mine.data?.map((a) => (
        <RouterLink key={a.id} to={`/s/${a.id}`} style={{ color: "inherit", textDecoration: "none" }}>
          <Box bg="panel" borderRadius="panel" p="14px" mb="8px">
            <Text fontWeight="650">
              {events[a.event as EventID]} {a.mark}
            </Text>
            <Text color="quiet" fontSize="12px">
              {longDay(a.done_on)}
              {a.session && `, ${a.session}`}
            </Text>
          </Box>
        </RouterLink>
      ))}
    </Box>
  );
}
