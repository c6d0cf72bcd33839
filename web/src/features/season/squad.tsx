import { Box, Button, Flex, Link, Text } from "@chakra-ui/react";
import { Link as RouterLink, useNavigate, useSearchParams } from "react-router";
import type { SquadLine } from "../../api/client";
import { Opening } from "../../ui/opening";
import { Notice } from "../../ui/parts";
import { useTitle } from "../../ui/title";
import { dayAndYear, later, monday, today, weekday } from "../../ui/written";
import { usePageKeys } from "../../ui/page_keys";
import { t } from "../../texts/texts";
import { useSquad } from "./api";
import { Board } from "./board";
import { blocks, titled, toneOf, weekDays } from "./words";

/** SquadWeek is the week of everybody on one sheet. */
export default function SquadWeek() {
  const [search, setSearch] = useSearchParams();
  const go = useNavigate();
  const on = search.get("day") ?? today();
  const squad = useSquad(monday(on));
  useTitle(t("Squad’s week"));
  const show = (d: string) => setSearch({ day: d }, { replace: true });
  usePageKeys({
    ArrowLeft: () => show(later(monday(on), -7)),
    ArrowRight: () => show(later(monday(on), 7)),
    Escape: () => void go("/"),
  });
  if (!squad.data) return <Opening what={t("the squad’s week")} error={squad.error} />;
  const { lines, monday: first } = squad.data;
  const planned = lines.filter((l) => l.begun);
  const without = lines.filter((l) => !l.begun);
  const columns = { base: "minmax(0, 1fr)", md: "170px repeat(7, minmax(0, 1fr))" };
  return (
    <Box as="main" className="grows" minH="100%" maxW="1280px" mx="auto" px={{ base: "12px", md: "20px" }} pb="40px">
      <Flex minH="58px" py="6px" wrap="wrap" align="center" gap="10px">
        <RouterLink to="/" title={t("Back to the queue (Esc)")} aria-label={t("Back to the queue")}>
          <img src="/mark.svg" width={26} height={26} alt="" />
        </RouterLink>
        <Text as="h1" fontSize="17px" fontWeight="700">
          {t("Week of {day}", { day: dayAndYear(first) })}
        </Text>
        <Button size="xs" variant="outline" aria-label={t("The week before")} onClick={() => show(later(first, -7))}>
          ←
        </Button>
        <Button size="xs" variant="outline" onClick={() => show(today())}>
          {t("This week")}
        </Button>
        <Button size="xs" variant="outline" aria-label={t("The week after")} onClick={() => show(later(first, 7))}>
          →
        </Button>
        <Box flex="1" />
        <Link
          href={`/api/squad/week.pdf?day=${first}`}
          target="_blank"
          color="quiet"
          fontSize="12px"
          display="inline-flex"
          alignItems="center"
          minH="32px"
          css={{ "@media (pointer: coarse)": { minHeight: "44px" } }}
        >
          {t("Sheet to print")}
        </Link>
      </Flex>
      <Board />
      <Box data-testid="squad">
        {planned.length > 0 && (
          <Box display={{ base: "none", md: "grid" }} gridTemplateColumns={columns} gap="3px" mb="4px">
            <span />
            {weekDays(first).map((d) => (
              <Text
                key={d}
                fontSize="11.5px"
                color={d === squad.data.today ? "chalk" : "quiet"}
                px="5px"
                fontWeight={d === squad.data.today ? 650 : 400}
              >
                {weekday(d)}
              </Text>
            ))}
          </Box>
        )}
        {planned.map((l) => (
          <Line key={l.athlete_id} l={l} first={first} columns={columns} />
        ))}
        {planned.length === 0 && (
          <Box bg="panel" borderRadius="panel" p="40px" textAlign="center">
            <Text fontSize="16px" fontWeight="600" mb="4px">
              {t("No season is planned yet")}
            </Text>
            <Text color="quiet">{t("Open an athlete below and enter events, competitions and free days.")}</Text>
          </Box>
        )}
        {without.length > 0 && (
          <Box mt="18px">
            <Text fontSize="12px" color="quiet" mb="4px">
              {t("Without a season")}
            </Text>
            <Flex gap="6px" wrap="wrap">
              {without.map((l) => (
                <Button
                  key={l.athlete_id}
                  size="xs"
                  variant="outline"
                  onClick={() => void go(`/season/${l.athlete_id}`)}
                >
                  {l.name}
                </Button>
              ))}
            </Flex>
          </Box>
        )}
      </Box>
    </Box>
  );
}

function Line({ l, first, columns }: { l: SquadLine; first: string; columns: Record<string, string> }) {
  return (
    <Box mb="6px" data-athlete={l.name}>
      <Box display="grid" gridTemplateColumns={columns} gap="3px">
        <Box
          bg="panel"
          borderRadius="4px"
          p="6px 9px"
          borderLeft="3px solid"
          borderColor={blocks[l.week.block]?.tone ?? "seam"}
        >
          <RouterLink to={`/season/${l.athlete_id}?day=${first}`} className="above" style={{ fontWeight: 650 }}>
            {l.name}
          </RouterLink>
          <Text fontSize="11.5px" color="quiet">
            {blocks[l.week.block]?.name}
            {l.week.light && t(", light")}
            {l.kept.done_times > 0 &&
              t(" · {done} of {planned} done", { done: l.kept.done_times, planned: l.kept.planned_times })}
          </Text>
          {l.pain ? (
            <Text fontSize="11.5px" color="clay" truncate>
              {t("hurts: {pain}", { pain: l.pain })}
            </Text>
          ) : (
            l.next && (
              <Text fontSize="11.5px" color="quiet" truncate>
                {l.next}
              </Text>
            )
          )}
        </Box>
        {weekDays(first).map((d) => {
          const list = l.week.sessions.filter((s) => s.day === d);
          return (
            <Box
              key={d}
              bg="panel"
              borderRadius="4px"
              p="6px"
              minH={{ md: "62px" }}
              display={{ base: list.length ? "block" : "none", md: "block" }}
            >
              {list.map((s, i) => {
                const c = l.changes.find((x) => x.id === s.change);
                return (
                  <Box key={i} borderLeft="3px solid" borderColor={toneOf(s)} pl="6px" mb="3px">
                    <Text fontSize="12px" fontWeight="600" truncate>
                      <Text as="span" display={{ md: "none" }} color="quiet" fontWeight="400">
                        {weekday(d)}{" "}
                      </Text>
                      {titled(s)}
                    </Text>
                    {s.tries > 0 && s.kind !== "compete" && (
                      <Text fontSize="11px" color="quiet">
                        {t("{tries}, {full} full", { tries: s.tries, full: s.full })}
                      </Text>
                    )}
                    {c && (
                      <Text fontSize="11px" color="clay" title={c.words} truncate>
                        {c.words}
                      </Text>
                    )}
                  </Box>
                );
              })}
            </Box>
          );
        })}
      </Box>
      {l.week.says.map((s) => (
        <Notice key={s} mt="3px">
          {s}
        </Notice>
      ))}
    </Box>
  );
}
