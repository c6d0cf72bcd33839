import { Box, Flex, Text } from "@chakra-ui/react";
import type { EyeView } from "../../api/client";
import { events, type EventID } from "../../api/events";
import { Head, Notice } from "../../ui/parts";
import { dayAndYear, fixed } from "../../ui/written";
import { t } from "../../texts/texts";

/** wide is the size of a fault at which the line ends: a third more than shows plainly. */
const wide = 1.35;

/** Worth is what an eye is worth, by fault, and in degrees and pictures; it speaks to whose eye it is. */
export function Worth({ eye, title = t("What your eye is worth") }: { eye: EyeView; title?: string }) {
  const all = eye.faults.find((f) => !f.fault);
  const known = eye.faults.filter((f) => f.fault);
  return (
    <Box display="grid" gridTemplateColumns="minmax(0, 1fr)" gap="12px" data-testid="worth">
      <Box bg="panel" borderRadius="panel" p="16px">
        <Head>{title}</Head>
        {eye.answers === 0 && (
          <Text color="quiet">{t("Nothing is known yet. After the first sets it stands here, with its doubt.")}</Text>
        )}
        {eye.says.map((s) => (
          <Notice key={s} tone={eye.offs.some((o) => o.says === s) ? "moss" : "amber"} mb="6px">
            {s}
          </Notice>
        ))}
        <Flex gap="22px" wrap="wrap" mt="6px">
          {eye.answers > 0 && (
            <Tile
              what={t("right")}
              says={`${fixed(100 * eye.correct)} %`}
              more={t("of {count} answers", { count: eye.answers })}
            />
          )}
          {all?.detection && (
            <Tile
              what={t("sensitivity d′")}
              says={fixed(all.detection.d_prime.value, 1)}
              more={t("±{half}; 0 is guessing, 3 hardly ever wrong", {
                half: fixed(all.detection.d_prime.half95, 1),
              })}
            />
          )}
          {all?.detection && (
            <Tile
              what={t("leaning")}
              says={fixed(all.detection.criterion.value, 1)}
              more={t("±{half}; below 0 sees faults too often", {
                half: fixed(all.detection.criterion.half95, 1),
              })}
            />
          )}
          {eye.offs
            .filter((o) => !o.event)
            .map((o) => (
              <Tile
                key={o.kind}
                what={o.kind === "angle" ? t("angles") : t("moments")}
                says={`±${fixed(Math.ceil(o.worth))}${o.kind === "angle" ? "°" : ` ${t("pictures")}`}`}
                more={t("bias {bias} ±{half} of {n}", {
                  bias: fixed(o.bias.value, 1),
                  half: fixed(o.bias.half95, 1),
                  n: o.n,
                })}
              />
            ))}
        </Flex>
        <Days eye={eye} />
      </Box>
      {known.length > 0 && (
        <Box bg="panel" borderRadius="panel" p="16px">
          <Head>{t("Fault by fault")}</Head>
          <Text fontSize="12px" color="quiet" mb="8px">
            {t(
              "The bar ends at the size that you see three times out of four, with its doubt; 1 is where a fault shows plainly.",
            )}
          </Text>
          {known.map((f) => (
            <Flex
              key={f.event + f.fault}
              gap="2px 10px"
              align="center"
              wrap="wrap"
              borderTop="1px solid"
              borderColor="seam"
              py="5px"
              data-fault={f.fault}
            >
              <Box flex="1 1 240px" minW="0">
                <Text fontSize="13px" truncate>
                  {f.name}
                </Text>
                <Text fontSize="11.5px" color="quiet">
                  {events[f.event as EventID]}
                  {f.view && ` · ${f.view}`}
                  {` · ${f.n === 1 ? t("1 answer") : t("{n} answers", { n: f.n })}`}
                </Text>
              </Box>
              <Box w="170px">{f.curve ? <Line curve={f.curve} /> : <Few n={f.n} />}</Box>
              <Text w="90px" fontSize="12.5px" color="quiet" textAlign="right">
                {f.detection &&
                  t("d′ {value} ±{half}", {
                    value: fixed(f.detection.d_prime.value, 1),
                    half: fixed(f.detection.d_prime.half95, 1),
                  })}
              </Text>
            </Flex>
          ))}
        </Box>
      )}
    </Box>
  );
}

const Few = ({ n }: { n: number }) => (
  <Text fontSize="11.5px" color="quiet">
    {t("{more} more answers tell", { more: Math.max(1, 12 - n) })}
  </Text>
);

const Tile = ({ what, says, more }: { what: string; says: string; more: string }) => (
  <Box minW="110px">
    <Text fontSize="12px" color="quiet">
      {what}
    </Text>
    <Text fontSize="22px" fontWeight="700" lineHeight="1.15">
      {says}
    </Text>
    <Text fontSize="11.5px" color="quiet" maxW="170px">
      {more}
    </Text>
  </Box>
);

/** Line is the threshold on the way from the edge of the band to where a fault shows plainly. */
function Line({ curve }: { curve: NonNullable<EyeView["faults"][number]["curve"]> }) {
  const x = (v: number) => Math.max(0, Math.min(100, (100 * v) / wide));
  const { value, half95 } = curve.threshold;
  return (
    <svg
      viewBox="0 0 100 14"
      width="100%"
      height="18"
      preserveAspectRatio="none"
      role="img"
      aria-label={t("seen from {value} ±{half}", { value: fixed(value, 2), half: fixed(half95, 2) })}
    >
      <rect x="0" y="5" width="100" height="4" rx="2" fill="var(--chakra-colors-seam)" />
      <rect x="0" y="5" width={x(value)} height="4" rx="2" fill="var(--chakra-colors-clay)" />
      <line
        x1={x(value - half95)}
        x2={x(value + half95)}
        y1="7"
        y2="7"
        stroke="var(--chakra-colors-amber)"
        strokeWidth="1.6"
      />
      <line x1={x(1)} x2={x(1)} y1="1" y2="13" stroke="var(--chakra-colors-quiet)" strokeWidth="0.8" />
    </svg>
  );
}

/** Days is the share that was right, day by day. */
function Days({ eye }: { eye: EyeView }) {
  if (eye.days.length < 2) return null;
  const days = eye.days.slice(-30);
  return (
    <Flex gap="3px" align="end" h="56px" mt="14px" role="img" aria-label={t("Right answers by day")}>
      {days.map((d) => (
        <Box
          key={d.on}
          flex="1"
          maxW="18px"
          h="100%"
          position="relative"
          bg="raised"
          borderRadius="2px"
          title={t("{day}: {correct} of {n}", { day: dayAndYear(d.on), correct: d.correct, n: d.n })}
        >
          <Box
            position="absolute"
            bottom="0"
            left="0"
            right="0"
            h={`${(100 * d.correct) / d.n}%`}
            bg="moss"
            borderRadius="2px"
          />
        </Box>
      ))}
    </Flex>
  );
}
