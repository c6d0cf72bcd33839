import { Box, Text } from "@chakra-ui/react";
import type { Report, Estimate } from "../../../api/client";
import { Head } from "../../../ui/parts";
import { Player } from "../stage/player";

const cell = (v: Estimate | undefined, digits: number, k = 1) => (v ? (v.value * k).toFixed(digits) : "–");

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
              ? `belt ${report.belt_speed.value.toFixed(2)} m/s ±${report.belt_speed.half95.toFixed(2)}`
              : doubt !== undefined && `times ±${Math.round(doubt * 1000)} ms`}
          </Text>
        }
      >
        Steps
      </Head>
      <Box
        as="table"
        w="100%"
        fontSize="12.5px"
        css={{
          "& td, & th": { textAlign: "right", padding: "2px 4px", fontWeight: 400 },
          "& th": { color: "quiet", fontSize: "11.5px" },
          "& td:first-of-type, & th:first-of-type": { textAlign: "left" },
          "& tr[data-step]:hover": { background: "{colors.raised}", cursor: "pointer" },
        }}
      >
        <thead>
          <tr>
            <th>foot</th>
            <th>contact ms</th>
            <th>flight ms</th>
            <th>steps /min</th>
            <th>length m</th>
          </tr>
        </thead>
        <tbody>
          {report.steps.map((s) => (
            <tr key={s.n} data-step={s.n} onClick={() => player.jump(s.from)}>
              <td>
                <Box
                  as="span"
                  display="inline-block"
                  w="9px"
                  h="9px"
                  mr="6px"
                  bg={s.foot === "right" ? "sky" : "clay"}
                  borderRadius={s.foot === "right" ? "1px" : "full"}
                />
                {s.n} {s.foot}
              </td>
              <td>{cell(s.contact, 0, 1000)}</td>
              <td>{cell(s.flight, 0, 1000)}</td>
              <td>{cell(s.cadence, 0)}</td>
              <td>{cell(s.length, 2)}</td>
            </tr>
          ))}
        </tbody>
      </Box>
    </Box>
  );
}
