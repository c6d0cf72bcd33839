import { Box, Text } from "@chakra-ui/react";
import type { Report, Estimate } from "../../../api/client";
import { FootName, FootTable } from "./foottable";
import { Head } from "../../../ui/parts";
import { Player } from "../stage/player";
import { t } from "../../../texts/texts";
import { fixed } from "../../../ui/written";

const cell = (v: Estimate | undefined, digits: number, k = 1) => (v ? fixed(v.value * k, digits) : "–");

/** Steps: contact, flight, cadence and length of each step, and the mean of each
 * side. */
export function Steps({ report, player }: { report: Report; player: Player }) {
  if (!report.steps.length) return null;
  const doubt = report.steps[0].contact?.half95;
  return (
    <Box mb="14px" data-testid="steps">
      <Head
        tone="chalk"
        right={
          <Text fontSize="11.5px" color="quiet">
            {report.belt_speed
              ? t("belt {value} m/s ±{half95}", {
                  value: fixed(report.belt_speed.value, 2),
                  half95: fixed(report.belt_speed.half95, 2),
                })
              : doubt !== undefined && t("times ±{doubt} ms", { doubt: Math.round(doubt * 1000) })}
          </Text>
        }
      >
        {t("Steps")}
      </Head>
      <FootTable columns={[t("foot"), t("contact ms"), t("flight ms"), t("steps /min"), t("length m")]}>
        {report.steps.map((s) => (
          <tr key={s.n} data-step={s.n} onClick={() => player.jump(s.from)}>
            <td>
              <FootName foot={s.foot}>
                {s.n} {s.foot}
              </FootName>
            </td>
            <td>{cell(s.contact, 0, 1000)}</td>
            <td>{cell(s.flight, 0, 1000)}</td>
            <td>{cell(s.cadence, 0)}</td>
            <td>{cell(s.length, 2)}</td>
          </tr>
        ))}
      </FootTable>
    </Box>
  );
}
