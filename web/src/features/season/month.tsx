import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { SeasonView } from "../../api/client";
import { day, dayOfWeek, fixed, monday } from "../../ui/written";
import { t } from "../../texts/texts";
import { blocks, titled, toneOf, weekDays } from "./words";

/** narrow is a name that a phone has no room for: it is only heard there. */
const narrow = {
  "@media (max-width: 767px)": {
    position: "absolute",
    width: "1px",
    height: "1px",
    overflow: "hidden",
    clipPath: "inset(50%)",
  },
};

/** Month shows five weeks about the chosen one, each a row of days; a day's sessions can be dragged to
 * another day of the week. */
export function Month({
  v,
  at,
  on,
  onDay,
  onMove,
}: {
  v: SeasonView;
  at: number;
  on: string;
  onDay(day: string): void;
  onMove(from: string, to: string): void;
}) {
  const [drag, setDrag] = useState<{ from: string; to: string } | null>(null);
  const from = Math.max(0, Math.min(at - 1, v.plan.weeks.length - 5));
  const rows = v.plan.weeks.slice(from, from + 5);
  const over = (x: number, y: number) =>
    document.elementFromPoint(x, y)?.closest<HTMLElement>("[data-day]")?.dataset.day;
  return (
    <Box bg="panel" borderRadius="panel" p={{ base: "8px", md: "12px 16px" }} data-testid="month">
      <Box
        display="grid"
        gridTemplateColumns={{ base: "repeat(7, minmax(0, 1fr))", md: "92px repeat(7, minmax(0, 1fr))" }}
        gap="3px"
      >
        <Box display={{ base: "none", md: "block" }} />
        {weekDays(rows[0].monday).map((d) => (
          <Text key={d} fontSize="11px" color="quiet" px="4px">
            {dayOfWeek(d)}
          </Text>
        ))}
        {rows.map((w, i) => (
          <Box key={w.monday} display="contents">
            <Box gridColumn={{ base: "1 / -1", md: "auto" }} pt="4px">
              <Text
                fontSize="11.5px"
                fontWeight={from + i === at ? 650 : 400}
                color={blocks[w.block].tone === "seam" ? "quiet" : blocks[w.block].tone}
              >
                {blocks[w.block].name}
              </Text>
              <Text fontSize="10.5px" color="quiet">
                {t("{volume} %", { volume: fixed(100 * w.volume) })}
                {w.light && t(", light")}
                {w.keep && t(", keep")}
              </Text>
            </Box>
            {weekDays(w.monday).map((d) => {
              const list = w.sessions.filter((s) => s.day === d);
              const done = v.trainings.filter((x) => x.done_on === d).length;
              const lost = v.outline.lost.includes(d);
              const target = drag && drag.to === d && drag.from !== d;
              const may = drag && monday(drag.from) === monday(d);
              return (
                <Box
                  as="button"
                  key={d}
                  data-day={d}
                  aria-current={d === on ? "date" : undefined}
                  title={[day(d), lost && t("falls out"), done > 0 && t("done")].filter(Boolean).join(", ")}
                  minH={{ base: "48px", md: "62px" }}
                  textAlign="left"
                  verticalAlign="top"
                  display="block"
                  p="4px"
                  borderRadius="4px"
                  bg={d === on ? "raised" : "ground"}
                  outline={target ? "2px dashed" : d === v.today ? "1px solid" : undefined}
                  outlineColor={target ? (may ? "clay" : "quiet") : "quiet"}
                  cursor={list.some((s) => s.kind !== "compete") ? "grab" : "pointer"}
                  onClick={() => onDay(d)}
                  onPointerDown={(e) => {
                    if (e.pointerType !== "mouse" || !list.some((s) => s.kind !== "compete")) return;
                    e.currentTarget.setPointerCapture(e.pointerId);
                    setDrag({ from: d, to: d });
                  }}
                  onPointerMove={(e) => drag && setDrag({ ...drag, to: over(e.clientX, e.clientY) ?? drag.from })}
                  onPointerUp={(e) => {
                    const to = drag && over(e.clientX, e.clientY);
                    if (to && to !== drag.from && monday(to) === monday(drag.from)) onMove(drag.from, to);
                    setDrag(null);
                  }}
                  onPointerCancel={() => setDrag(null)}
                >
                  <Flex justify="space-between" fontSize="10.5px" color="quiet" lineHeight="1.2">
                    <span>{Number(d.slice(8))}</span>
                    {done > 0 && (
                      <Text as="span" color="moss" title={t("done")}>
                        ✓
                      </Text>
                    )}
                    {lost && (
                      <Text as="span" color="clay" title={t("falls out")}>
                        ∅
                      </Text>
                    )}
                  </Flex>
                  {list.map((s, n) => (
                    <Flex key={n} gap="4px" align="baseline" mt="2px">
                      <Box w="3px" h="10px" bg={toneOf(s)} flexShrink={0} borderRadius="1px" />
                      <Text fontSize="11px" lineHeight="1.25" truncate css={narrow}>
                        {titled(s)}
                        {s.tries > 0 && s.kind !== "compete" && (
                          <Text as="span" color="quiet">
                            {" "}
                            {s.tries}
                          </Text>
                        )}
                      </Text>
                    </Flex>
                  ))}
                </Box>
              );
            })}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
