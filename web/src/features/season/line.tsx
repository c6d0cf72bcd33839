import { Box, Flex, Text } from "@chakra-ui/react";
import { useRef, useState, type PointerEvent } from "react";
import type { Competition, SeasonView } from "../../api/client";
import { day, daysBetween, fixed, later, monthName } from "../../ui/written";
import { t } from "../../texts/texts";
import { blocks } from "./words";

/** YearLine is a season on one line: volume as height, full efforts as its full part, what was done
 * beside what was planned, competitions as flags that can be dragged, changes as strips. */
export function YearLine({
  v,
  at,
  onPick,
  onMove,
}: {
  v: SeasonView;
  at: number;
  onPick(week: number): void;
  onMove(c: Competition, day: string): void;
}) {
  const ref = useRef<HTMLDivElement>(null);
  const [drag, setDrag] = useState<{ id: string; x: number; day: string } | null>(null);
  const weeks = v.plan.weeks;
  const first = weeks[0].monday;
  const days = weeks.length * 7;
  const percent = (iso: string) => (100 * daysBetween(first, iso)) / days;
  const dayAt = (x: number) => {
    const r = ref.current!.getBoundingClientRect();
    const n = Math.floor(((x - r.left) / r.width) * days);
    return later(first, Math.max(0, Math.min(days - 1, n)));
  };
  const dragged = (from: string, by: number) => {
    const n = daysBetween(first, from) + Math.round((by / ref.current!.getBoundingClientRect().width) * days);
    return later(first, Math.max(0, Math.min(days - 1, n)));
  };
  const back = (on: string, from: number) => (percent(on) > from ? "translateX(-100%)" : undefined);
  const pick = (e: PointerEvent) => onPick(Math.floor(daysBetween(first, dayAt(e.clientX)) / 7));
  const w = weeks[at];
  const most = Math.max(1, ...v.kept.map((k) => (k.planned_load ? k.done_load / k.planned_load : 0)));
  const spans = spansOf(weeks.map((x) => x.block));
  const worked = spansOf(weeks.map((x) => x.change ?? "")).filter((s) => s.what);
  const months = spansOf(weeks.map((x) => monthName(x.monday)));
  return (
    <Box bg="panel" borderRadius="panel" p={{ base: "10px", md: "12px 16px 10px" }} data-testid="year">
      <Box position="relative" h="34px">
        {v.outline.competitions.map((c) => {
          const on = drag?.id === c.id ? drag.day : c.day;
          return (
            <Box
              key={c.id}
              data-competition={c.name}
              position="absolute"
              left={`${percent(on)}%`}
              transform={{ base: back(on, 80), md: back(on, 90) }}
              bottom="0"
              cursor="grab"
              css={{ touchAction: "none" }}
              title={t("{name}, {day}: drag it to another day, or change it under “Season”", {
                name: c.name,
                day: day(on),
              })}
              onPointerDown={(e) => {
                e.currentTarget.setPointerCapture(e.pointerId);
                setDrag({ id: c.id, x: e.clientX, day: c.day });
              }}
              onPointerMove={(e) => drag?.id === c.id && setDrag({ ...drag, day: dragged(c.day, e.clientX - drag.x) })}
              onPointerUp={(e) => {
                const to = drag ? dragged(c.day, e.clientX - drag.x) : c.day;
                if (to !== c.day) onMove(c, to);
                setDrag(null);
              }}
              onPointerCancel={() => setDrag(null)}
            >
              <Flex
                align="center"
                borderRight={{
                  base: percent(on) > 80 ? "2px solid" : undefined,
                  md: percent(on) > 90 ? "2px solid" : "0",
                }}
                borderLeft={{
                  base: percent(on) > 80 ? undefined : "2px solid",
                  md: percent(on) > 90 ? "0" : "2px solid",
                }}
                borderColor={c.weight === "A" ? "clay" : "quiet"}
                h="30px"
              >
                <Text
                  fontSize={c.weight === "A" ? "12px" : "10.5px"}
                  fontWeight={c.weight === "A" ? 650 : 400}
                  color={c.weight === "A" ? "chalk" : "quiet"}
                  bg="panel"
                  px="4px"
                  whiteSpace="nowrap"
                  maxW={{ base: "64px", md: "140px" }}
                  truncate
                >
                  {c.weight}
                  <Text as="span" display={{ base: c.weight === "A" ? "inline" : "none", md: "inline" }}>
                    {" "}
                    {drag?.id === c.id ? day(on) : c.name}
                  </Text>
                </Text>
              </Flex>
            </Box>
          );
        })}
      </Box>
      <Box
        ref={ref}
        role="slider"
        tabIndex={0}
        data-testid="weeks"
        aria-label={t("Week of the season")}
        aria-valuemin={0}
        aria-valuemax={weeks.length - 1}
        aria-valuenow={at}
        aria-valuetext={t("week of {day}, {block}, {volume} %", {
          day: day(w.monday),
          block: blocks[w.block].name,
          volume: fixed(100 * w.volume),
        })}
        position="relative"
        display="grid"
        gridTemplateColumns={`repeat(${weeks.length}, minmax(0, 1fr))`}
        h="96px"
        alignItems="end"
        borderBottom="1px solid"
        borderColor="seam"
        cursor="col-resize"
        onPointerDown={pick}
        onPointerMove={(e) => e.buttons === 1 && pick(e)}
        onKeyDown={(e) => {
          const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -4, PageDown: 4 }[e.key];
          if (!by) return;
          e.preventDefault();
          onPick(Math.max(0, Math.min(weeks.length - 1, at + by)));
        }}
      >
        {weeks.map((x, i) => {
          const tone = blocks[x.block].tone;
          const k = v.kept[i];
          const done = k?.planned_load ? Math.min(1, k.done_load / k.planned_load / most) : 0;
          return (
            <Box key={x.monday} h="100%" position="relative" bg={i === at ? "raised" : undefined} px="0.5px">
              <Box
                position="absolute"
                bottom="0"
                left="1px"
                right="1px"
                h={`${(78 * x.volume) / 1.2}%`}
                bg={tone}
                opacity={0.35}
                borderTopRadius="2px"
              />
              <Box
                position="absolute"
                bottom="0"
                left="1px"
                right="1px"
                h={`${(78 * x.volume * x.full) / 1.2}%`}
                bg={tone}
                opacity={0.9}
              />
              {done > 0 && (
                <Box
                  position="absolute"
                  bottom="0"
                  left="30%"
                  right="30%"
                  h={`${(78 * x.volume * done * most) / 1.2}%`}
                  maxH="100%"
                  bg="chalk"
                  opacity={0.85}
                  borderTopRadius="1px"
                />
              )}
            </Box>
          );
        })}
        {v.plan.stops && (
          <Stop at={percent(v.plan.stops)} says={t("nothing new from {day}", { day: day(v.plan.stops) })} />
        )}
        {v.today >= first && percent(v.today) <= 100 && (
          <Box
            position="absolute"
            left={`${percent(v.today)}%`}
            top="0"
            bottom="0"
            w="1.5px"
            bg="chalk"
            title={t("today")}
            pointerEvents="none"
          />
        )}
      </Box>
      <Strip count={weeks.length}>
        {spans.map((s) => (
          <Box
            key={s.from}
            gridColumn={`${s.from + 1} / span ${s.n}`}
            fontSize="11.5px"
            borderTop="3px solid"
            borderColor={blocks[s.what].tone}
            pt="2px"
            mr="2px"
            truncate
          >
            {s.n > 1 ? blocks[s.what].name : ""}
          </Box>
        ))}
      </Strip>
      <Strip count={weeks.length}>
        {months.map((s) => (
          <Text key={s.from} gridColumn={`${s.from + 1} / span ${s.n}`} fontSize="10.5px" color="quiet" truncate>
            {s.n > 1 ? s.what : ""}
          </Text>
        ))}
      </Strip>
      {worked.map((s) => {
        const c = v.changes.find((x) => x.id === s.what);
        return (
          <Strip key={s.from} count={weeks.length}>
            <Box
              gridColumn={`${s.from + 1} / span ${s.n}`}
              bg="raised"
              borderLeft="3px solid"
              borderColor="clay"
              fontSize="11.5px"
              px="6px"
              mt="3px"
              truncate
              title={c?.words}
            >
              {c?.words}
            </Box>
          </Strip>
        );
      })}
      <Text fontSize="11px" color="quiet" mt="6px">
        {t(
          "Height is volume, its full part full efforts, the light bar what was done. Drag a flag to move a competition.",
        )}
      </Text>
    </Box>
  );
}

const Strip = ({ count, children }: { count: number; children: React.ReactNode }) => (
  <Box display="grid" gridTemplateColumns={`repeat(${count}, minmax(0, 1fr))`}>
    {children}
  </Box>
);

const Stop = ({ at, says }: { at: number; says: string }) => (
  <Box position="absolute" left={`${at}%`} top="0" bottom="0" pointerEvents="none">
    <Box h="100%" borderLeft="1.5px dashed" borderColor="clay" />
    <Text
      position="absolute"
      top="0"
      {...(at > 60 ? { right: "6px" } : { left: "6px" })}
      fontSize="11px"
      color="clay"
      whiteSpace="nowrap"
      bg="panel"
      px="3px"
    >
      {says}
    </Text>
  </Box>
);

/** spansOf joins weeks on end that have the same. */
function spansOf<T>(list: T[]) {
  const out: { what: T; from: number; n: number }[] = [];
  list.forEach((what, i) => {
    const last = out[out.length - 1];
    if (last?.what === what) last.n++;
    else out.push({ what, from: i, n: 1 });
  });
  return out;
}
