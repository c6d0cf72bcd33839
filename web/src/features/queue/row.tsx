import { Box, Button, Flex, Image, Menu, Portal, Text } from "@chakra-ui/react";
import { memo } from "react";
import { Link as RouterLink } from "react-router";
import type { QueueItem } from "../../api/client";
import { type EventID, events } from "../../api/events";
import { posterURL } from "../../api/media";
import { day } from "../../ui/written";
import { t } from "../../texts/texts";
import { word } from "../../texts/words";
import { Dot } from "../../ui/parts";

export const states = { new: word("new"), in_work: word("in_work"), ready: word("ready"), sent: word("sent") } as const;
export type State = keyof typeof states;
export const tone: Record<State, string> = { new: "amber", in_work: "sky", ready: "moss", sent: "quiet" };

/** rowHeight is a line with the gap below it, px. */
export const rowHeight = 78;

/** stands is what happens to a line's clips, or what they need. */
function stands(i: QueueItem): { says: string; wants: boolean } {
  if (i.busy) return { says: "preparing …", wants: false };
  if (i.drafting < 1)
    return { says: t("drafting {drafting} %", { drafting: Math.round(100 * i.drafting) }), wants: false };
  if (i.troubled) return { says: t("needs your input"), wants: true };
  if (i.clips === 0) return { says: t("no clip yet"), wants: false };
  if (i.questions > 0 && i.state !== "sent")
    return { says: `${i.questions} ${i.questions > 1 ? "questions" : "question"}`, wants: false };
  return { says: i.clips === 1 ? t("1 clip") : t("{clips} clips", { clips: i.clips }), wants: false };
}

/** Row is one attempt: whose it is, what was found, what was told, how far it is. */
export const Row = memo(function Row({
  i,
  on,
  over,
  onOver,
  onChoose,
  onChange,
  onRemove,
  onFiles,
}: {
  i: QueueItem;
  on: boolean;
  over: boolean;
  onOver(id: string | null): void;
  onChoose(id: string): void;
  onChange(id: string): void;
  onRemove(i: QueueItem): void;
  onFiles(id: string, f: File[]): void;
}) {
  const event = events[i.event as EventID] ?? i.event;
  const mark = i.mark || (i.foul ? t("x {foul}", { foul: i.foul }) : t("no mark"));
  const now = stands(i);
  return (
    <Flex
      role="listitem"
      data-attempt={i.id}
      data-state={i.state}
      aria-current={on || undefined}
      position="relative"
      bg="panel"
      borderRadius="panel"
      align="center"
      gap={{ base: "10px", lg: "14px" }}
      pr={{ base: "4px", md: "8px" }}
      h={`${rowHeight - 6}px`}
      overflow="hidden"
      outline={over ? "2px dashed" : on ? "1.5px solid" : undefined}
      outlineColor={over ? "clay" : "quiet"}
      outlineOffset="-1px"
      _hover={{ bg: "raised" }}
      _focusWithin={{ outline: "2px solid", outlineColor: "focus" }}
      onDragOver={(e) => {
        e.preventDefault();
        onOver(i.id);
      }}
      onDragLeave={() => onOver(null)}
      onDrop={(e) => {
        e.preventDefault();
        e.stopPropagation();
        onFiles(i.id, [...e.dataTransfer.files]);
      }}
    >
      <Box w={{ base: "84px", md: "128px" }} h="100%" bg="pit" flexShrink={0}>
        {i.poster && (
          <Image
            src={posterURL(i.poster, i.poster_seed)}
            alt=""
            loading="lazy"
            w="100%"
            h="100%"
            objectFit="cover"
            objectPosition="30% 70%"
          />
        )}
      </Box>
      <Box w={{ base: "auto", md: "170px" }} flex={{ base: "1", md: "none" }} minW="0">
        <RouterLink
          className="stretched"
          data-open={i.id}
          to={`/attempt/${i.id}`}
          aria-label={`${i.athlete}, ${event}, ${mark}, ${day(i.done_on)}, ${states[i.state as State]}`}
          onFocus={() => onChoose(i.id)}
        >
          {i.athlete}
        </RouterLink>
        <Box fontSize="11.5px" color="quiet" display={{ base: "none", md: "block" }}>
          <RouterLink
            className="above"
            to={`/athlete/${i.athlete_id}`}
            aria-label={t("{event} · log of {athlete}", { event: event.toLowerCase(), athlete: i.athlete })}
          >
            {t("{event} · log", { event: event.toLowerCase() })}
          </RouterLink>
        </Box>
        <Box fontSize="12px" color="quiet" display={{ base: "block", md: "none" }}>
          <Text truncate>
            {event.toLowerCase()} · {mark}
          </Text>
          <Text truncate color={now.wants ? "amber" : "quiet"}>
            {now.says}
          </Text>
        </Box>
      </Box>
      <Box w="150px" display={{ base: "none", md: "block" }} flexShrink={0} minW="0">
        <Text textDecoration={i.foul ? "line-through" : undefined} truncate>
          {mark}
        </Text>
        <Text fontSize="11.5px" color="quiet" truncate>
          {day(i.done_on)}
          {i.session && `, ${i.session}`}
        </Text>
      </Box>
      <Box flex="1" minW="0" display={{ base: "none", lg: "block" }}>
        {i.first_cause ? (
          <Text truncate data-first title={i.carries && t("Not told by this clip: {carries}", { carries: i.carries })}>
            {i.first_cause}
            {(i.found ?? 0) > 1 && (
              <Text as="span" color="quiet">
                {" "}
                {t("and {found} more", { found: i.found! - 1 })}
              </Text>
            )}
          </Text>
        ) : (
          <Text truncate color="quiet" fontSize="12px">
            {i.found === 0 ? t("no certain fault") : i.clips ? t("not analysed yet") : ""}
          </Text>
        )}
        {(i.cue || i.last_cue) && (
          <Text truncate color="quiet" fontSize="12px">
            {i.cue ? `“${i.cue}”` : t("last cue: “{lastCue}”", { lastCue: i.last_cue })}
          </Text>
        )}
      </Box>
      <Box
        w="116px"
        display={{ base: "none", md: "block" }}
        textAlign="right"
        fontSize="12px"
        flexShrink={0}
        color={now.wants ? "amber" : "quiet"}
      >
        <Text truncate>{now.says}</Text>
        {(i.answer || i.seen) && (
          <Text truncate color={i.answer ? "moss" : "quiet"} title={i.answer}>
            {i.answer ? `“${i.answer}”` : t("seen")}
          </Text>
        )}
      </Box>
      <Flex w={{ base: "10px", md: "72px" }} align="center" gap="6px" flexShrink={0} title={states[i.state as State]}>
        <Dot tone={tone[i.state as State]} />
        <Text fontSize="12px" display={{ base: "none", md: "block" }}>
          {states[i.state as State]}
        </Text>
      </Flex>
      <Menu.Root lazyMount unmountOnExit>
        <Menu.Trigger asChild>
          <Button
            className="above"
            size="xs"
            variant="ghost"
            px="8px"
            minW={{ base: "44px", md: "26px" }}
            h={{ base: "44px", md: "26px" }}
            aria-label={t("More for {athlete}, {mark}", { athlete: i.athlete, mark })}
          >
            ⋯
          </Button>
        </Menu.Trigger>
        <Portal>
          <Menu.Positioner>
            <Menu.Content bg="raised">
              <Menu.Item value="log" asChild>
                <RouterLink to={`/athlete/${i.athlete_id}`}>{t("Log")}</RouterLink>
              </Menu.Item>
              <Menu.Item value="change" onClick={() => onChange(i.id)}>
                {t("Change")}
              </Menu.Item>
              <Menu.Item value="remove" color="clay" onClick={() => onRemove(i)}>
                {t("Remove")}
              </Menu.Item>
            </Menu.Content>
          </Menu.Positioner>
        </Portal>
      </Menu.Root>
    </Flex>
  );
});
