import { Box, Flex, Text } from "@chakra-ui/react";
import { useRef } from "react";
import type { Estimate, Report } from "../../../../api/client";
import { cssColor } from "../../../../ui/color";
import { FootName, FootTable } from "../foottable";
import { Head, Notice } from "../../../../ui/parts";
import { Player, usePlayer } from "../../stage/player";
import { SaveDrawing } from "./savedrawing";
import { t } from "../../../../texts/texts";
import { written, fixed } from "../../../../ui/written";

type Approach = NonNullable<Report["approach"]>;
type FootPlace = Approach["feet"][number];

const said = (v: Estimate | undefined, digits: number, k = 1) =>
  v ? `${written((v.value * k).toFixed(digits))} ±${(v.half95 * k).toFixed(digits)}` : "–";

/** RunUp is a run-up on its marked ground: drawn from above with its tape lengths, told step by
 * step, and how the body leaves. All numbers come from the core. */
export function RunUp({ report, player, name }: { report: Report; player: Player; name: string }) {
  const a = report.approach!;
  const left = a.flight;
  return (
    <Box data-testid="runup">
      <Head tone="chalk">{t("Run-up from above")}</Head>
      {a.feet.length > 0 &&
        (a.line === "bar" ? (
          <Curved a={a} player={player} name={name} />
        ) : (
          <Straight a={a} player={player} name={name} />
        ))}
      {a.curve && (
        <Facts
          list={[
            [t("radius of the curve"), t("{radius} m", { radius: said(a.curve.radius, 1) })],
            ...(a.curve.lean.value > 0 ? [[t("it asks for a lean of"), `${said(a.curve.lean, 0)}°`]] : []),
            [
              t("way into the take-off, against the bar"),
              `${said({ ...a.curve.heading, value: Math.abs(a.curve.heading.value) }, 0)}°`,
            ],
          ]}
        />
      )}
      {a.feet.length > 1 && <Table a={a} report={report} player={player} />}
      {left && (
        <>
          <Head tone="chalk">{t("How the body leaves")}</Head>
          <Facts
            list={[
              [t("along the ground"), t("{speed} m/s", { speed: said(left.speed, 2) })],
              [t("upward"), t("{upward} m/s", { upward: said(left.upward, 2) })],
              [t("angle"), `${said(left.angle, 1)}°`],
              [t("centre of mass at the toe-off"), t("{height} m", { height: said(left.height, 2) })],
              [t("its highest place"), t("{top} m", { top: said(left.top, 2) })],
            ]}
          />
        </>
      )}
      {a.parts && <Parts parts={a.parts} />}
      {report.pole?.chord && (
        <>
          <Head tone="chalk">{t("The pole")}</Head>
          <Facts list={[[t("shortest chord, of the straight pole"), `${said(report.pole.chord, 0)} %`]]} />
        </>
      )}
      {a.missing.map((m) => (
        <Notice key={m} mt="8px">
          {m[0].toUpperCase() + m.slice(1)}.
        </Notice>
      ))}
    </Box>
  );
}

const Facts = ({ list }: { list: string[][] }) => (
  <Box mb="10px">
    {list.map(([what, value]) => (
      <Flex key={what} gap="8px" py="2px" fontSize="12.5px">
        <Text flex="1" color="quiet">
          {what}
        </Text>
        <Text fontVariantNumeric="tabular-nums">{value}</Text>
      </Flex>
    ))}
  </Box>
);

/** Shoe is a foot print with its doubt: left is round and clay, right is square and sky. */
function Shoe({
  x,
  y,
  turn,
  p,
  now,
  scale,
}: {
  x: number;
  y: number;
  turn: number;
  p: FootPlace;
  now: boolean;
  scale: number;
}) {
  const right = p.foot === "right";
  const long = Math.max(16, 0.28 * scale); // small ones are drawn larger than they are
  return (
    <g transform={`translate(${x} ${y}) rotate(${turn})`} data-foot={p.foot}>
      <rect
        x={-long}
        y={-0.18 * long}
        width={long}
        height={0.36 * long}
        rx={right ? 1 : 0.18 * long}
        fill={cssColor(right ? "sky" : "clay")}
        stroke={now ? cssColor("chalk") : "none"}
        strokeWidth={2}
      />
    </g>
  );
}

type Drawn = { a: Approach; player: Player; name: string };

/** Straight is a runway from the side of the camera: the line at its end on the right. */
function Straight({ a, player, name }: Drawn) {
  const drawing = useRef<SVGSVGElement>(null);
  const frame = usePlayer(player, (s) => s.frame);
  const first = Math.min(...a.feet.map((f) => f.along.value));
  const from = Math.min(-1.5, first - 0.7);
  const width = 400;
  const k = width / (0.9 - from);
  const x = (m: number) => (m - from) * k;
  const mid = 74;
  const y = (m: number) => mid + Math.max(-0.6, Math.min(0.6, m)) * k;
  const half = Math.min(0.61 * k, 40);
  return (
    <Box position="relative" mb="8px">
      <svg
        ref={drawing}
        viewBox={`0 0 ${width} 158`}
        style={{ display: "block", width: "100%" }}
        data-testid="runway"
        fontSize={10.5}
      >
        <rect x={0} y={mid - half} width={x(0)} height={2 * half} fill={cssColor("raised")} />
        <path d={`M0 ${mid - half}H${x(0)}M0 ${mid + half}H${x(0)}`} stroke={cssColor("quiet")} strokeWidth={1} />
        <path d={`M${x(0)} ${mid - half - 8}V${mid + half + 8}`} stroke={cssColor("chalk")} strokeWidth={3} />
        <text x={width} y={mid - half - 12} textAnchor="end" fill={cssColor("quiet")}>
          {a.line}
        </text>
        {a.feet.map((p, i) => {
          const next = a.feet[i + 1];
          const at = x(p.along.value);
          return (
            <g key={p.from} style={{ cursor: "pointer" }} onClick={() => player.jump(p.from)}>
              <path d={`M${at} ${mid + half + 6}v${8 + 13 * (i % 2)}`} stroke={cssColor("seam")} strokeWidth={1} />
              <Shoe x={at} y={y(p.right.value)} turn={0} p={p} now={p.from <= frame && frame < p.to} scale={k} />
              <path
                d={`M${x(p.along.value - p.along.half95)} ${y(p.right.value)}H${x(p.along.value + p.along.half95)}`}
                stroke={cssColor("chalk")}
                strokeWidth={1}
                opacity={0.6}
              />
              {p.before && (
                <text x={at} y={mid + half + 24 + 13 * (i % 2)} textAnchor="middle" fill={cssColor("chalk")}>
                  {written(p.before.value.toFixed(2))}
                </text>
              )}
              {next && p.length && (
                <text
                  x={(at + x(next.along.value)) / 2}
                  y={mid - half - 12}
                  textAnchor="middle"
                  fill={cssColor("amber")}
                >
                  {fixed(p.length.value, 2)}
                </text>
              )}
            </g>
          );
        })}
      </svg>
      <Text fontSize="11.5px" color="quiet">
        {t("Below: metres from the toes to the {line}. Above: length of the step. The thin line is the doubt.", {
          line: a.line,
        })}
      </Text>
      <SaveDrawing drawing={drawing} name={t("{name} run-up", { name })} />
    </Box>
  );
}

/** Curved is the ground before a bar: the bar above, the run comes from below. */
function Curved({ a, player, name }: Drawn) {
  const drawing = useRef<SVGSVGElement>(null);
  const frame = usePlayer(player, (s) => s.frame);
  // The side of the bar on which the run lies is drawn below it.
  const side = a.feet.reduce((sum, p) => sum + p.right.value, 0) < 0 ? -1 : 1;
  const out = (right: number) => side * right;
  const far = Math.max(3, ...a.feet.map((p) => out(p.right.value))) + 0.6;
  const least = Math.min(-2.6, ...a.feet.map((p) => p.along.value)) - 0.7;
  const most = Math.max(2.6, ...a.feet.map((p) => p.along.value)) + 0.4;
  const k = Math.min(400 / (most - least), 330 / (far + 0.9));
  // Seen from above with the bar on top the run goes to the left when it lies on the left of along.
  const x = (along: number) => (side > 0 ? along - least : most - along) * k;
  const y = (right: number) => (out(right) + 0.7) * k;
  const [width, height] = [(most - least) * k, (far + 0.9) * k];
  const plant = a.feet[a.feet.length - 1];
  const [px, py] = [x(plant.along.value), y(plant.right.value)];
  return (
    <Box position="relative" mb="8px">
      <svg
        ref={drawing}
        viewBox={`0 0 ${width} ${height}`}
        style={{ display: "block", width: "100%", maxHeight: 360 }}
        data-testid="curve"
        fontSize={11}
      >
        <path d={`M${x(-2)} ${y(0)}H${x(2)}`} stroke={cssColor("chalk")} strokeWidth={3} />
        {[-2, 2].map((u) => (
          <circle key={u} cx={x(u)} cy={y(0)} r={5} fill={cssColor("chalk")} />
        ))}
        <text x={x(-2)} y={y(0) - 10} textAnchor="middle" fill={cssColor("quiet")}>
          {t("first upright")}
        </text>
        {a.curve && (
          <path
            d={"M" + a.curve.way.map((w) => `${x(w[0]).toFixed(1)} ${y(w[1]).toFixed(1)}`).join("L")}
            fill="none"
            stroke={cssColor("amber")}
            strokeWidth={1.5}
          />
        )}
        <path d={`M${px} ${py}V${y(0)}`} stroke={cssColor("quiet")} strokeDasharray="4 4" />
        {plant.before && (
          <text x={px + 6} y={(py + y(0)) / 2 + 4} fill={cssColor("chalk")}>
            {t("{value} m", { value: fixed(plant.before.value, 2) })}
          </text>
        )}
        {a.feet.map((p, i) => {
          const b = a.feet[Math.min(i + 1, a.feet.length - 1)];
          const [fx, fy] = [x(p.along.value), y(p.right.value)];
          const turn = p.heading + (side < 0 ? 180 : 0);
          return (
            <g key={p.from} style={{ cursor: "pointer" }} onClick={() => player.jump(p.from)}>
              <ellipse
                cx={fx}
                cy={fy}
                rx={Math.max(2, p.along.half95 * k)}
                ry={Math.max(2, p.right.half95 * k)}
                fill={cssColor("chalk")}
                opacity={0.1}
              />
              <Shoe x={fx} y={fy} turn={turn} p={p} now={p.from <= frame && frame < p.to} scale={k} />
              {p.length && i + 1 < a.feet.length && (
                <text
                  x={(fx + x(b.along.value)) / 2 + 12}
                  y={(fy + y(b.right.value)) / 2 + 12}
                  fill={cssColor("amber")}
                >
                  {fixed(p.length.value, 2)}
                </text>
              )}
            </g>
          );
        })}
      </svg>
      <Text fontSize="11.5px" color="quiet">
        {t("Pale: where a foot may have stood. Amber: the way, and the length of each step in metres.")}
      </Text>
      <SaveDrawing drawing={drawing} name={t("{name} run-up", { name })} />
    </Box>
  );
}

/** Table is the score of the last steps. */
function Table({ a, report, player }: { a: Approach; report: Report; player: Player }) {
  const lean = a.feet.some((p) => p.lean);
  return (
    <Box mb="10px" data-testid="last-steps">
      <Head tone="chalk">{t("The last steps")}</Head>
      <FootTable columns={[t("foot"), t("length m"), t("speed m/s"), t("ground ms"), ...(lean ? [t("lean °")] : [])]}>
        {a.feet.map((p, i) => {
          const step = report.steps.find((s) => s.from === p.from);
          const last = i + 1 === a.feet.length;
          return (
            <tr key={p.from} data-step={i} onClick={() => player.jump(p.from)}>
              <td>
                <FootName foot={p.foot}>
                  {last ? t("last") : `−${a.feet.length - 1 - i}`} {p.foot}
                </FootName>
              </td>
              <td>{last ? "" : said(p.length, 2)}</td>
              <td>{last ? "" : said(p.speed, 1)}</td>
              <td>{step?.contact ? fixed(step.contact.value * 1000, 0) : "–"}</td>
              {lean && <td>{said(p.lean, 0)}</td>}
            </tr>
          );
        })}
      </FootTable>
    </Box>
  );
}

/** Parts of a jump, one after the other by their lengths. */
function Parts({ parts }: { parts: NonNullable<Approach["parts"]> }) {
  return (
    <Box mb="10px" data-testid="parts">
      <Head tone="chalk">{t("What the jump is made of")}</Head>
      <Facts list={parts.map((p) => [p.name, t("{value} m", { value: said(p.value, 2) })])} />
    </Box>
  );
}
