import { Box, Flex } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { cssColor } from "../../../../ui/color";
import { t } from "../../../../texts/texts";

const line = (color: string, width: number, dash?: string) => (
  <path d="M2 6H22" stroke={cssColor(color)} strokeWidth={width} strokeDasharray={dash} strokeLinecap="round" />
);
const foot = (right: boolean) =>
  right ? (
    <rect x={5} y={3} width={14} height={6} rx={2} fill={cssColor("sky")} />
  ) : (
    <ellipse cx={12} cy={6} rx={8} ry={3.5} fill={cssColor("clay")} />
  );
const number = (color: string) => (
  <>
    <circle cx={5} cy={6} r={3.5} fill="none" stroke={cssColor("chalk")} strokeWidth={1.6} />
    <path d="M12 6H22" stroke={cssColor(color)} strokeWidth={3} />
  </>
);

/** What is drawn from above, beside the circle itself. */
export const CircleLegend = ({ hips, ball }: { hips: boolean; ball: boolean }) => (
  <Legend
    of={[
      ...(hips
        ? [
            [line("moss", 5), t("where the hips face")] as const,
            [line("sky", 4, "5 5"), t("where the chest faces")] as const,
            [line("amber", 2), t("path of the hips")] as const,
          ]
        : []),
      ...(ball
        ? [
            [
              <g key="ball">
                {line("chalk", 1.5)}
                <circle cx={20} cy={6} r={4} fill={cssColor("chalk")} />
              </g>,
              t("from the neck to what is thrown"),
            ] as const,
          ]
        : []),
      [foot(false), t("left foot, on the ground")],
      [foot(true), t("right foot; pale: where they stood")],
    ]}
  >
    {t("The pale fan around a direction is its doubt.")}
  </Legend>
);

/** How the turns are wound up. */
export const SpiralLegend = () => (
  <Legend
    of={[
      [line("clay", 7), t("both feet down")],
      [line("quiet", 2), t("one foot down")],
      [number("chalk"), t("lift: the foot leaves")],
      [number("amber"), t("catch: it lands again")],
      [
        <circle key="now" cx={12} cy={6} r={4.5} fill="none" stroke={cssColor("moss")} strokeWidth={2} />,
        t("this frame"),
      ],
    ]}
  >
    {t(
      "Seen from above the line follows the direction of the ball, one round a turn, from the first turn inside to the release outside. Dots of one kind in a row (dashed) mean that every turn lifts, or lands, in the same place.",
    )}
  </Legend>
);

const Legend = ({ of, children }: { of: readonly (readonly [ReactNode, string])[]; children: ReactNode }) => (
  <Box fontSize="11.5px" color="quiet" mb="10px" data-testid="legend">
    <Flex wrap="wrap" columnGap="12px" rowGap="2px">
      {of.map(([drawn, says]) => (
        <Flex key={says} align="center" gap="5px">
          <svg width={24} height={12} viewBox="0 0 24 12" aria-hidden>
            {drawn}
          </svg>
          {says}
        </Flex>
      ))}
    </Flex>
    <Box mt="3px">{children}</Box>
  </Box>
);
