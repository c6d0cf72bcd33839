import { Button, Menu, Portal } from "@chakra-ui/react";
import { memo, useState } from "react";
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
  if (i.busy) return { says: t("preparing …"), wants: false };
  if (i.drafting < 1)
    return { says: t("drafting {drafting} %", { drafting: Math.round(100 * i.drafting) }), wants: false };
  if (i.troubled) return { says: t("needs your input"), wants: true };
  if (i.clips === 0) return { says: t("no clip yet"), wants: false };
  if (i.questions > 0 && i.state !== "sent")
    return {
      says: i.questions === 1 ? t("1 question") : t("{questions} questions", { questions: i.questions }),
      wants: false,
    };
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
    <div
      className="row"
      role="listitem"
      data-attempt={i.id}
      data-state={i.state}
      data-over={over || undefined}
      aria-current={on || undefined}
      style={{ height: rowHeight - 6 }}
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
      <div className="poster">{i.poster && <img src={posterURL(i.poster, i.poster_seed)} alt="" loading="lazy" />}</div>
      <div className="who">
        <RouterLink
          className="stretched"
          data-open={i.id}
          to={`/attempt/${i.id}`}
          aria-label={`${i.athlete}, ${event}, ${mark}, ${day(i.done_on)}, ${states[i.state as State]}`}
          onFocus={() => onChoose(i.id)}
        >
          {i.athlete}
        </RouterLink>
        <div className="small wide">
          <RouterLink
            className="above"
            to={`/athlete/${i.athlete_id}`}
            aria-label={t("{event} · log of {athlete}", { event: event.toLowerCase(), athlete: i.athlete })}
          >
            {t("{event} · log", { event: event.toLowerCase() })}
          </RouterLink>
        </div>
        <div className="small narrow">
          <p>
            {event.toLowerCase()} · {mark}
          </p>
          <p data-wants={now.wants || undefined}>{now.says}</p>
        </div>
      </div>
      <div className="mark wide">
        <p style={i.foul ? { textDecoration: "line-through" } : undefined}>{mark}</p>
        <p className="small">
          {day(i.done_on)}
          {i.session && `, ${i.session}`}
        </p>
      </div>
      <div className="found">
        {i.first_cause ? (
          <p data-first title={i.carries && t("Not told by this clip: {carries}", { carries: i.carries })}>
            {i.first_cause}
            {(i.found ?? 0) > 1 && <span className="quiet"> {t("and {found} more", { found: i.found! - 1 })}</span>}
          </p>
        ) : (
          <p className="small">{i.found === 0 ? t("no certain fault") : i.clips ? t("not analysed yet") : ""}</p>
        )}
        {(i.cue || i.last_cue) && (
          <p className="small">{i.cue ? `“${i.cue}”` : t("last cue: “{lastCue}”", { lastCue: i.last_cue })}</p>
        )}
      </div>
      <div className="now small wide">
        <p data-wants={now.wants || undefined}>{now.says}</p>
        {(i.answer || i.seen) && (
          <p data-answer={i.answer ? true : undefined} title={i.answer}>
            {i.answer ? `“${i.answer}”` : t("seen")}
          </p>
        )}
      </div>
      <div className="state" title={states[i.state as State]}>
        <Dot tone={tone[i.state as State]} />
        <span className="wide">{states[i.state as State]}</span>
      </div>
      <More
        i={i}
        name={t("More for {athlete}, {mark}", { athlete: i.athlete, mark })}
        onChange={onChange}
        onRemove={onRemove}
      />
    </div>
  );
});

/** More is the menu of a line. It is made when it is first opened: hundreds of menus would be what
 * the queue takes longest for. */
function More({
  i,
  name,
  onChange,
  onRemove,
}: {
  i: QueueItem;
  name: string;
  onChange(id: string): void;
  onRemove(i: QueueItem): void;
}) {
  const [made, setMade] = useState(false);
  const button = (open?: () => void) => (
    <Button
      className="above"
      size="xs"
      variant="ghost"
      px="8px"
      minW={{ base: "44px", md: "26px" }}
      h={{ base: "44px", md: "26px" }}
      aria-label={name}
      aria-haspopup="menu"
      onClick={open}
    >
      ⋯
    </Button>
  );
  if (!made) return button(() => setMade(true));
  return (
    <Menu.Root lazyMount unmountOnExit defaultOpen>
      <Menu.Trigger asChild>{button()}</Menu.Trigger>
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
  );
}
