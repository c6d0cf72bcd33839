import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useMemo, useRef } from "react";
import type { Estimate } from "../../../../api/client";
import { usePlayer } from "../../stage/player";
import { SpiralLegend } from "./legend";
import { SaveDrawing } from "./savedrawing";
import { known, spiral, to, type Parts, type Turning } from "./parts";
import { cssColor } from "../../../../ui/color";
import { t } from "../../../../texts/texts";
import { written, fixed } from "../../../../ui/written";
import { change, useSettings } from "../../../../settings/settings";

/** Spiral: the turns wound up. Round is the direction of the ball, outward is later,
 * thick is both feet down. */
export function Spiral({ above, turns, turning, say, player, height, name }: Parts & { height: number; name: string }) {
  const frame = usePlayer(player, (s) => s.frame);
  const drawing = useRef<SVGSVGElement>(null);
  const first = turns[0].zero - above.from;
  const end = Math.min(above.to - above.from, above.ball.az.findLastIndex((v) => known(v)) + 1);
  const point = (k: number) => spiral(above, first, end, k);
  const pieces = useMemo(() => {
    const out: { d: string; both: boolean }[] = [];
    let d = "";
    let both: boolean | undefined;
    for (let k = first; k < end; k++) {
      if (!known(above.ball.az[k])) continue;
      const b = !!above.down[0]?.[k] && !!above.down[1]?.[k];
      const [x, y] = spiral(above, first, end, k);
      if (b !== both) {
        if (d) out.push({ d: `${d}L${x.toFixed(1)} ${y.toFixed(1)}`, both: both! });
        d = `M${x.toFixed(1)} ${y.toFixed(1)}`;
        both = b;
      } else d += `L${x.toFixed(1)} ${y.toFixed(1)}`;
    }
    if (d) out.push({ d, both: !!both });
    return out;
  }, [above, first, end]);
  const marks = (what: "lift" | "catch") =>
    turns.map((turn) => ({
      turn,
      at: point(Math.min(end - 1, turn[what] - above.from)),
      az: what === "lift" ? turn.lift_az : turn.catch_az,
    }));
  const lifts = marks("lift");
  const catches = marks("catch");
  const here = frame - above.from;
  const chain = (list: typeof lifts) =>
    list.map((m, k) => `${k ? "L" : "M"}${m.at[0].toFixed(1)} ${m.at[1].toFixed(1)}`).join("");
  const out = end > 0 ? point(end - 1) : null;
  return (
    <>
      <Box position="relative" mb="10px">
        <svg
          ref={drawing}
          viewBox="-235 -200 470 400"
          style={{ display: "block", width: "100%", height }}
          data-testid="spiral"
        >
          {Array.from({ length: 12 }, (_, k) => {
            const [x, y] = to(k * 30, above.left);
            return (
              <path
                key={k}
                d={`M${x * 40} ${y * 40}L${x * 178} ${y * 178}`}
                stroke={cssColor("seam")}
                strokeWidth={1}
              />
            );
          })}
          {[0, 90, 180, 270].map((az) => {
            const [x, y] = to(az, above.left);
            return (
              <text
                key={az}
                x={x * 192}
                y={y * 190 + 4}
                textAnchor={az % 180 ? (x > 0 ? "start" : "end") : "middle"}
                fontSize={12}
                fill={cssColor("quiet")}
              >
                {say(az)}
              </text>
            );
          })}
          {pieces.map((p, k) => (
            <path
              key={k}
              d={p.d}
              fill="none"
              stroke={cssColor(p.both ? "clay" : "quiet")}
              strokeWidth={p.both ? 8 : 2.2}
            />
          ))}
          {[lifts, catches].map((list, k) => (
            <path
              key={k}
              d={chain(list)}
              fill="none"
              stroke={cssColor("amber")}
              strokeWidth={1.4}
              strokeDasharray="4 4"
            />
          ))}
          {[lifts, catches].map((list, c) =>
            list.map((m) => (
              <g
                key={c + "-" + m.turn.n}
                style={{ cursor: "pointer" }}
                onClick={() => player.jump(c ? m.turn.catch : m.turn.lift)}
                data-mark={`${c ? "catch" : "lift"}${m.turn.n}`}
              >
                <circle
                  cx={m.at[0]}
                  cy={m.at[1]}
                  r={5}
                  fill={cssColor("ground")}
                  stroke={cssColor("chalk")}
                  strokeWidth={2}
                />
                <text
                  x={m.at[0] + (m.at[0] > 0 ? 9 : -9)}
                  y={m.at[1] + (c ? -6 : 13)}
                  textAnchor={m.at[0] > 0 ? "start" : "end"}
                  fontSize={11.5}
                  fontWeight={600}
                  fill={cssColor(c ? "amber" : "chalk")}
                  stroke={cssColor("panel")}
                  strokeWidth={3.5}
                  style={{ paintOrder: "stroke" }}
                >
                  {say(m.az.value)}
                </text>
              </g>
            )),
          )}
          {out && <circle cx={out[0]} cy={out[1]} r={4} fill={cssColor("chalk")} />}
          {here >= first && here < end && known(above.ball.az[here]) && (
            <circle
              cx={point(here)[0]}
              cy={point(here)[1]}
              r={7}
              fill="none"
              stroke={cssColor("moss")}
              strokeWidth={2.5}
            />
          )}
        </svg>
        <Text fontSize="11px" position="absolute" right="0" top="0" textAlign="right" lineHeight="1.35">
          <Text as="span" color="amber">
            {t("catch")}
          </Text>{" "}
          {course(turning?.catches)}
          <br />
          {t("lift {lifts}", { lifts: course(turning?.lifts) })}
        </Text>
        <SaveDrawing drawing={drawing} name={name} />
      </Box>
      <SpiralLegend />
    </>
  );
}

/** course says how a direction goes on over the turns. */
function course(turn?: Turning["lifts"]) {
  if (!turn) return "";
  if (turn.steady) return t("steady within its doubt");
  return t("comes {value}° {which}", {
    value: Math.round(Math.abs(turn.diff.value)),
    which: turn.diff.value > 0 ? t("later") : t("earlier"),
  });
}

const units = { N: 1, kgf: 9.80665, lbf: 4.4482216 } as const;

/** Table: turn by turn. */
export function Table({ turns, turning, say, player, wide }: Parts & { wide?: boolean }) {
  const { force: unit } = useSettings();
  const sweeps = wide && turns.some((turn) => turn.sweep); // two cameras only
  const n = (v: Estimate | undefined, digits: number, k = 1, sign = false) => {
    if (!v) return "–";
    const x = v.value * k;
    return written((sign && x > 0 ? "+" : "") + x.toFixed(digits));
  };
  return (
    <Box data-testid="turns" mb="10px" overflowX="auto">
      <Box
        as="table"
        w="100%"
        fontSize={wide ? "13px" : "12px"}
        css={{
          "& td, & th": { textAlign: "right", padding: "2px 3px", fontWeight: 400 },
          "& th": { color: "quiet", fontSize: "11px", verticalAlign: "bottom" },
          "& td:first-of-type, & th:first-of-type": { textAlign: "left" },
          "& tr[data-turn]:hover": { background: "{colors.raised}", cursor: "pointer" },
        }}
      >
        <thead>
          <tr>
            <th>{t("turn")}</th>
            <th>{t("time s")}</th>
            <th>{t("both feet")}</th>
            <th>{t("one foot")}</th>
            <th>{t("ball m/s")}</th>
            <th>{t("gain")}</th>
            {wide && <th>{t("radius m")}</th>}
            {wide && <th>{t("tilt")}</th>}
            {wide && <th>{t("low point")}</th>}
            <th>{t("pull {unit}", { unit })}</th>
            <th>{t("drag at {say}", { say: say(0) })}</th>
            {wide && <th>{t("sep. at catch")}</th>}
            {wide && <th>{t("step cm")}</th>}
            {sweeps && <th>{t("sweep foot")}</th>}
            {wide && <th>{t("line of feet")}</th>}
            {wide && <th>{t("hips side cm")}</th>}
          </tr>
        </thead>
        <tbody>
          {turns.map((turn) => (
            <tr key={turn.n} data-turn={turn.n} onClick={() => player.jump(turn.zero)}>
              <td>{turn.n}</td>
              <td>{n(turn.time, 2)}</td>
              <td>{n(turn.double, 2)}</td>
              <td>{n(turn.single, 2)}</td>
              <td>{n(turn.speed, 1)}</td>
              <td>{n(turn.gain, 1, 1, true)}</td>
              {wide && <td>{n(turn.radius, 2)}</td>}
              {wide && <td>{n(turn.tilt, 0)}°</td>}
              {wide && <td>{turn.low ? say(turn.low.value) : "–"}</td>}
              <td>{n(turn.pull, 0, 1 / units[unit])}</td>
              <td>{n(turn.drag, 0, 1, true)}°</td>
              {wide && <td>{n(turn.separation, 0, 1, true)}°</td>}
              {wide && <td>{n(turn.step, 0)}</td>}
              {sweeps && <td>{turn.sweep ? say(turn.sweep.value) : "–"}</td>}
              {wide && (
                <td>
                  {n(turn.line, 0, 1, true)}
                  {turn.line ? "°" : ""}
                </td>
              )}
              {wide && <td>{n(turn.sway, 0)}</td>}
            </tr>
          ))}
        </tbody>
      </Box>
      <Flex mt="6px" gap="4px" align="center" fontSize="12px" color="quiet">
        <Text flex="1">
          {turning?.pull_body_weights &&
            t("At most {value} × body weight, in turn {hardestTurn}. ", {
              value: fixed(turning.pull_body_weights.value, 1),
              hardestTurn: turning.hardest_turn,
            })}
          {turns[0].time &&
            turns[turns.length - 1].speed &&
            t("Times ±{half95} ms, speed ±{half952}. ", {
              half95: Math.round(turns[0].time.half95 * 1000),
              half952: fixed(turns[turns.length - 1].speed!.half95, 1),
            })}
          {t("Build the load up slowly; pain in groin or trunk means stop.")}
        </Text>
        {(Object.keys(units) as (keyof typeof units)[]).map((u) => (
          <Button
            key={u}
            size="xs"
            h="20px"
            px="6px"
            variant={u === unit ? "outline" : "ghost"}
            onClick={() => change({ force: u })}
          >
            {u}
          </Button>
        ))}
      </Flex>
    </Box>
  );
}
