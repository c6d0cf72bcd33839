import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useState } from "react";
import { Link as RouterLink, useNavigate, useParams, useSearchParams } from "react-router";
import { Failure, type Outline, type SeasonView } from "../../api/client";
import { useRefresh } from "../../api/topic";
import { Modal } from "../../ui/modal";
import { Opening } from "../../ui/opening";
import { Head, Notice } from "../../ui/parts";
import { useTitle } from "../../ui/title";
import { day, daysBetween, fixed, monday } from "../../ui/written";
import { usePageKeys } from "../../ui/page_keys";
import { t } from "../../texts/texts";
import { useSaveSeason, useSeason, useSetRule, useUndoSeason } from "./api";
import { Calendar } from "./calendar";
import { Day } from "./day";
import { YearLine } from "./line";
import { Month } from "./month";
import { Rules } from "./rules";
import { Setup } from "./setup";
import { WayBackForm } from "./wayback";
import { blocks } from "./words";

/** Season is an athlete's: the year on one line, the month, the day, and what was done. */
export default function Season() {
  const { id = "" } = useParams();
  const season = useSeason(id);
  useTitle(season.data?.athlete.name, t("season"));
  if (!season.data) return <Opening what={t("the season")} error={season.error} />;
  return <Planned key={id} id={id} v={season.data} />;
}

function Planned({ id, v }: { id: string; v: SeasonView }) {
  const go = useNavigate();
  const refresh = useRefresh();
  const [search, setSearch] = useSearchParams();
  const [open, setOpen] = useState<"setup" | "rules" | "back" | "calendar" | null>(v.revision === 0 ? "setup" : null);
  const save = useSaveSeason(id);
  const undo = useUndoSeason(id);
  const rule = useSetRule();
  const weeks = v.plan.weeks;
  const index = (d: string) => Math.max(0, Math.min(weeks.length - 1, Math.floor(daysBetween(weeks[0].monday, d) / 7)));
  const asked = search.get("day") ?? v.today;
  const at = index(asked);
  const on = monday(asked) === weeks[at].monday ? asked : weeks[at].monday;
  const show = (d: string) => setSearch({ day: d }, { replace: true });
  const put = (patch: Partial<Outline>, done?: () => void) =>
    save.mutate(
      { revision: v.revision, outline: { ...v.outline, ...patch } },
      {
        onSuccess: done,
        // Somebody else was quicker: what is there now is shown, and the change is made again by hand.
        onError: (e) => e instanceof Failure && e.kind === "newer_work" && refresh("season"),
      },
    );
  const back = () => v.can_undo && undo.mutate(v.revision, { onError: () => refresh("season") });
  usePageKeys({ "Ctrl+z": back, Escape: () => void go(`/athlete/${id}`) });
  const move = (from: string, to: string) => {
    // A session that was moved before moves on from the day that it was planned for.
    const was = weeks[index(from)].sessions.find((s) => s.day === from)?.was ?? from;
    const moves = v.outline.moves.filter((m) => m.from !== was);
    put({ moves: was === to ? moves : [...moves, { from: was, to }] }, () => show(to));
  };
  const lost = (yes: boolean) => put({ lost: yes ? [...v.outline.lost, on] : v.outline.lost.filter((d) => d !== on) });
  const error = save.error ?? undo.error ?? rule.error;
  return (
    <Box as="main" className="grows" minH="100%" maxW="1280px" mx="auto" px={{ base: "12px", md: "20px" }} pb="40px">
      <Flex minH="58px" py="6px" wrap="wrap" align="center" gap="10px">
        <RouterLink to={`/athlete/${id}`} title={t("Back to the log (Esc)")} aria-label={t("Back to the log")}>
          <img src="/mark.svg" width={26} height={26} alt="" />
        </RouterLink>
        <Text as="h1" fontSize="17px" fontWeight="700">
          {t("{name}, season", { name: v.athlete.name })}
        </Text>
        <Text color="quiet">
          {t("{block}, week of {day}", { block: blocks[weeks[index(v.today)].block].name, day: day(monday(v.today)) })}
        </Text>
        <Box flex="1" />
        <Button size="xs" variant="ghost" disabled={!v.can_undo} loading={undo.isPending} onClick={back}>
          {t("Undo")}
        </Button>
        <Button size="xs" variant="ghost" data-testid="to-back" onClick={() => setOpen("back")}>
          {v.outline.return ? t("Way back: step {n}", { n: v.step + 1 }) : t("After an injury")}
        </Button>
        <Button size="xs" variant="ghost" data-testid="to-rules" onClick={() => setOpen("rules")}>
          {t("Rules")}
        </Button>
        {v.revision > 0 && (
          <Button size="xs" variant="ghost" data-testid="to-calendar" onClick={() => setOpen("calendar")}>
            {t("Calendar")}
          </Button>
        )}
        <Button size="xs" variant="ghost" onClick={() => void go(`/squad?day=${on}`)}>
          {t("Squad’s week")}
        </Button>
        <Button size="sm" data-testid="to-setup" onClick={() => setOpen("setup")}>
          {t("Season")}
        </Button>
      </Flex>
      {error && !open && (
        <Notice tone="clay" mb="10px">
          {error.message}
        </Notice>
      )}
      {v.plan.says.map((s) => (
        <Notice key={s} mb="8px" tone={v.pain && s === v.plan.says[0] ? "clay" : "amber"}>
          {s}
        </Notice>
      ))}
      <Box mb="12px">
        <YearLine
          v={v}
          at={at}
          onPick={(w) => show(weeks[w].monday)}
          onMove={(c, d) =>
            put({ competitions: v.outline.competitions.map((x) => (x.id === c.id ? { ...x, day: d } : x)) })
          }
        />
      </Box>
      <Grid templateColumns={{ base: "minmax(0, 1fr)", lg: "minmax(0, 1fr) 400px" }} gap="12px" alignItems="start">
        <Box display="grid" gridTemplateColumns="minmax(0, 1fr)" gap="12px">
          <Month v={v} at={at} on={on} onDay={show} onMove={move} />
          <Progress v={v} />
          <Load v={v} />
        </Box>
        <Day key={on} v={v} on={on} onMove={(to) => move(on, to)} onLost={lost} />
      </Grid>
      <Modal
        title={t("The season of {name}", { name: v.athlete.name })}
        wide
        guarded
        open={open === "setup"}
        onClose={() => setOpen(null)}
      >
        <Setup
          outline={v.outline}
          busy={save.isPending}
          error={save.error?.message}
          onSave={(o) => put(o, () => setOpen(null))}
        />
      </Modal>
      <Modal title={t("Rules of the plan")} wide open={open === "rules"} onClose={() => setOpen(null)}>
        <Rules
          rules={v.rules}
          name={v.athlete.name}
          error={(save.error ?? rule.error)?.message}
          onSet={(r, value, reason, team) => {
            if (team) rule.mutate({ id: r.id, value, reason });
            else
              put({
                rules: [
                  ...v.outline.rules.filter((x) => x.id !== r.id),
                  ...(reason ? [{ id: r.id, value, reason }] : []),
                ],
              });
          }}
        />
      </Modal>
      <Modal
        title={t("{name}’s season in a calendar", { name: v.athlete.name })}
        open={open === "calendar"}
        onClose={() => setOpen(null)}
      >
        <Calendar v={v} />
      </Modal>
      <Modal
        title={t("The way back after an injury")}
        wide
        guarded
        open={open === "back"}
        onClose={() => setOpen(null)}
      >
        <WayBackForm
          way={v.outline.return}
          today={v.today}
          error={save.error?.message}
          onSave={(w) => put({ return: w }, () => setOpen(null))}
        />
      </Modal>
    </Box>
  );
}

/** Progress is how far each change is, in repetitions. */
function Progress({ v }: { v: SeasonView }) {
  if (v.changes.length === 0) return null;
  const needs = (kind: string, own: number) => own || (v.rules.find((r) => r.id === `needs-${kind}`)?.now ?? 1);
  return (
    <Box bg="panel" borderRadius="panel" p="12px 16px" data-testid="changes">
      <Head>{t("What is to be another")}</Head>
      {v.changes.map((c) => {
        const all = needs(c.kind, c.needs);
        return (
          <Box key={c.id} mb="8px">
            <Flex justify="space-between" gap="10px" fontSize="13px">
              <Text truncate>
                “{c.words}”
                {c.paused && (
                  <Text as="span" color="clay">
                    {" "}
                    {t("paused")}
                  </Text>
                )}
              </Text>
              <Text color="quiet" whiteSpace="nowrap">
                {t("{done} of some {all} repetitions", { done: c.done, all })}
              </Text>
            </Flex>
            <Box h="4px" bg="raised" borderRadius="full" mt="3px">
              <Box h="100%" w={`${Math.min(100, (100 * c.done) / all)}%`} bg="clay" borderRadius="full" />
            </Box>
          </Box>
        );
      })}
    </Box>
  );
}

/** Load is what the weeks held, with what such a number cannot say. */
function Load({ v }: { v: SeasonView }) {
  if (v.loads.length === 0) return null;
  const list = v.loads.slice(-16);
  const most = Math.max(...list.map((l) => l.load), 1);
  const last = list[list.length - 1];
  return (
    <Box bg="panel" borderRadius="panel" p="12px 16px" data-testid="load">
      <Head
        right={
          <Text fontSize="12px" color="quiet">
            {[
              last.throws > 0 && t("{count} throws", { count: last.throws }),
              last.take_offs > 0 && t("{count} take-offs", { count: last.take_offs }),
            ]
              .filter(Boolean)
              .join(" · ")}
          </Text>
        }
      >
        {t("Load by week: effort times minutes")}
      </Head>
      <Flex align="flex-end" gap="4px" h="74px">
        {list.map((l) => (
          <Flex
            key={l.monday}
            direction="column"
            align="center"
            justify="flex-end"
            h="100%"
            flex="1 1 0"
            maxW="64px"
            title={t("week of {day}", { day: day(l.monday) })}
          >
            <Text fontSize="10.5px" color={l.sudden ? "amber" : "quiet"}>
              {fixed(l.load)}
            </Text>
            <Box
              w="100%"
              h={`${(52 * l.load) / most}%`}
              minH="2px"
              bg={l.sudden ? "amber" : "sky"}
              opacity={0.8}
              borderTopRadius="2px"
            />
            <Text fontSize="10px" color="quiet" whiteSpace="nowrap">
              {day(l.monday)}
            </Text>
          </Flex>
        ))}
      </Flex>
      {list.some((l) => l.sudden) && (
        <Notice mt="8px">{t("A week lies far above the four before it. Ask how it feels before adding more.")}</Notice>
      )}
      <Text fontSize="11.5px" color="quiet" mt="6px">
        {t(
          "It says how much, not how well it was borne: a single tendon, a bad night or a growth spurt are not in it. It predicts no injury.",
        )}
      </Text>
    </Box>
  );
}
