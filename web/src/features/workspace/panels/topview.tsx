import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState, type ReactNode, type RefObject } from "react";
import { ask, client, type Calls, type Clip, type Edit, type Report, type Estimate } from "../../../api/client";
import { useMe } from "../../account/api";
import type { Core, Input } from "../../../core/core";
import { Modal } from "../../../ui/modal";
import { minus } from "../../../ui/numbers";
import { Head, Notice } from "../../../ui/parts";
import { save, toPNG, toSVG } from "../timeline/export";
import { usePlayer, type Player } from "../stage/player";
import { useOpenClip } from "../context";
import type { Tool } from "../stage/tools";

// A throw seen from above: the circle with everything that points, the turns wound
// up, the table turn by turn, the release. All of it comes from the core; this file
// draws it.

type Above = NonNullable<Calls["top_view_answer"]["top_view"]>;
type Turn = NonNullable<Report["throw"]>["turns"][number];
type Say = (az: number) => string;

const none = -1e8; // what is not known is far below
const known = (v: number | undefined): v is number => v !== undefined && v > none;
const cm = 100;
const colour = (name: string) => `var(--chakra-colors-${name})`;

/** TopViewPanel: a throw out of a circle, seen from above. */
export function TopViewPanel() {
  const { sheet, work, core, input, clip, player, state, dispatch, tool, edit, evaluation } = useOpenClip();
  const {
    athlete,
    clips,
    attempt: { id: attempt },
  } = sheet;
  const report = evaluation.report!;
  const still = state.drag.length === 0;
  const onGround = () => dispatch({ type: "panel", panel: "ground" });
  const onTrack = () => dispatch({ type: "panel", panel: "track" });
  const me = useMe();
  const language = me.data?.user?.directions ?? "degrees";
  const last = useRef<Above>(undefined);
  // A picture is drawn anew when the hand has come to rest.
  const one = useMemo(
    () => (still ? (last.current = core.top_view({ input }).top_view) : last.current),
    [core, input, still],
  );
  const [large, setLarge] = useState(false);
  const both = useMutation({
    mutationFn: () => ask(client.GET("/attempts/{id}/both", { params: { path: { id: attempt } } })),
  });
  const seen = clips.filter((c) => work.clips[c.id]?.ground && work.clips[c.id]?.points.ball);
  const above = both.data?.top_view ?? one;
  const turning = both.data ?? report.throw;
  const turns = turning?.turns ?? [];
  const say: Say = (az) => core.directions({ azimuths: [az], left: above?.left ?? false, language }).names[0];
  const missing = report.throw?.missing ?? [];
  if (!above)
    return (
      <Box data-testid="above">
        <Head tone="chalk">From above</Head>
        <Text color="quiet" fontSize="12.5px" mb="8px">
          Where ball, hips, chest and feet point in every frame, the turns counted and timed, the pull, the release. It
          takes three things:
        </Text>
        <Steps done={!!input.camera} onDo={onGround} says="the camera looked at" />
        <Steps done={!!input.ground?.points.length} onDo={onGround} says="the circle marked" />
        <Steps done={!!report.throw} onDo={onTrack} says="the implement tracked, and the athlete drafted" />
        {missing.concat(report.problems).map((m) => (
          <Notice key={m} mt="8px">
            {m}
          </Notice>
        ))}
      </Box>
    );
  const parts = { above, turns, turning, say, player };
  return (
    <Box data-testid="above">
      <Head
        tone="chalk"
        right={
          <Button size="xs" variant="outline" h="22px" onClick={() => setLarge(true)}>
            large
          </Button>
        }
      >
        From above
      </Head>
      <Circle {...parts} height={338} name={`${athlete.name} from above`} />
      <Now {...parts} />
      {seen.length > 1 && (
        <Flex align="center" gap="8px" my="8px" data-testid="both">
          <Text flex="1" fontSize="12px" color="quiet">
            {both.data
              ? `Both clips together${both.data.aligned_by === "sound" ? ", by their sound" : ""}: ${Math.round(Math.abs(both.data.offset) * 1000)} ms apart, lines of sight meet within ${both.data.apart.toFixed(1)} cm. This clip alone was off by ${both.data.off.toFixed(1)}°.`
              : "Two clips of this attempt see the circle."}
          </Text>
          <Button
            size="xs"
            variant="outline"
            h="22px"
            loading={both.isPending}
            onClick={() => (both.data ? both.reset() : both.mutate())}
          >
            {both.data ? "this clip alone" : "read both together"}
          </Button>
        </Flex>
      )}
      {both.error && (
        <Notice tone="clay" mb="8px">
          {both.error.message}
        </Notice>
      )}
      {turns.length > 0 && (
        <>
          <Head tone="chalk">Turns, wound up</Head>
          <Spiral {...parts} height={300} name={`${athlete.name} turns`} />
          <Head tone="chalk">Turn by turn</Head>
          <Table {...parts} />
        </>
      )}
      <Release report={report} core={core} input={input} />
      {input.model === "discus" && clip && (
        <Disc report={report} clip={clip} player={player} edit={edit} onTool={tool} />
      )}
      {missing.map((m) => (
        <Notice key={m} mt="8px">
          {m}
        </Notice>
      ))}
      {large && (
        <Modal title="From above" open onClose={() => setLarge(false)} wide="screen">
          <Flex gap="20px">
            <Box flex="1" minW="0">
              <Circle {...parts} height={480} name={`${athlete.name} from above`} />
              <input
                type="range"
                min={above.from}
                max={Math.max(above.from, above.to - 1)}
                defaultValue={player.get().frame}
                aria-label="frame"
                style={{ width: "100%" }}
                onChange={(e) => player.jump(Number(e.target.value))}
              />
              <Now {...parts} />
            </Box>
            {turns.length > 0 && (
              <Box flex="1" minW="0">
                <Spiral {...parts} height={360} name={`${athlete.name} turns`} />
                <Table {...parts} wide />
              </Box>
            )}
          </Flex>
        </Modal>
      )}
    </Box>
  );
}

const Steps = ({ done, says, onDo }: { done: boolean; says: string; onDo(): void }) => (
  <Flex align="center" gap="8px" py="3px">
    <Text flex="1" color={done ? "moss" : "chalk"}>
      {done ? "✓" : "○"} {says}
    </Text>
    {!done && (
      <Button size="xs" h="22px" variant="outline" onClick={onDo}>
        go there
      </Button>
    )}
  </Flex>
);

/** Keep offers a drawing as a file. */
function Keep({ drawing, name }: { drawing: RefObject<SVGSVGElement | null>; name: string }) {
  const give = async (kind: "svg" | "png") => {
    const d = drawing.current;
    if (d) save(`${name}.${kind}`, kind === "svg" ? new Blob([toSVG(d)], { type: "image/svg+xml" }) : await toPNG(d));
  };
  return (
    <Flex position="absolute" right="0" bottom="0" gap="2px">
      {(["svg", "png"] as const).map((k) => (
        <Button
          key={k}
          size="xs"
          h="20px"
          px="6px"
          fontSize="11px"
          variant="ghost"
          onClick={() => void give(k)}
          aria-label={`${name} as ${k.toUpperCase()}`}
        >
          {k.toUpperCase()}
        </Button>
      ))}
    </Flex>
  );
}

/** spiral is where the ball is drawn at the k-th frame: outwards as the throw goes on. */
const spiral = (above: Above, first: number, end: number, k: number) => {
  const radius = 46 + (124 * (k - first)) / Math.max(1, end - first);
  const [x, y] = to(above.ball.az[k], above.left);
  return [x * radius, y * radius] as const;
};

/** to is the way on the screen to an azimuth: 0 is below, the throw goes up. */
const to = (az: number, left: boolean) => {
  const a = (az * Math.PI) / 180;
  return [(left ? -1 : 1) * Math.sin(a), Math.cos(a)] as const;
};

type Turning = Pick<NonNullable<Report["throw"]>, "lifts" | "catches" | "pull_body_weights" | "hardest_turn">;
type Parts = { above: Above; turns: Turn[]; turning?: Turning; say: Say; player: Player };

/** Circle: everything in its place, at the frame under the cursor. */
function Circle({ above, turns, say, player, height, name }: Parts & { height: number; name: string }) {
  const frame = usePlayer(player, (s) => s.frame);
  const drawing = useRef<SVGSVGElement>(null);
  const r = above.circle * cm;
  const w = Math.max(252, r + 128);
  const i = Math.max(0, Math.min(above.to - 1, frame) - above.from);
  const at = (p: { x: number[]; z: number[] }, k: number) =>
    known(p.x[k]) ? ([p.z[k] * cm, -p.x[k] * cm] as const) : null;
  const line = (p: { x: number[]; z: number[] }, from: number, end: number) => {
    let d = "";
    for (let k = Math.max(0, from); k < Math.min(end, p.x.length); k++) {
      const q = at(p, k);
      if (q) d += `${d ? "L" : "M"}${q[0].toFixed(1)} ${q[1].toFixed(1)}`;
    }
    return d;
  };
  const prints = useMemo(() => footPrints(above, turns), [above, turns]);
  const neck = at(above.chest, i);
  const pelvis = at(above.hips, i);
  const ball = at(above.ball, i);
  const [ta, ty] = [Math.sin((above.sector * Math.PI) / 180), Math.cos((above.sector * Math.PI) / 180)];
  const arrow = (from: readonly [number, number], az: number, long: number) => {
    const d = to(az, above.left);
    return `M${from[0]} ${from[1]}l${(d[0] * long).toFixed(1)} ${(d[1] * long).toFixed(1)}`;
  };
  const wedge = (from: readonly [number, number], az: number, sd: number, long: number) => {
    const a = to(az - 1.96 * sd, above.left);
    const b = to(az + 1.96 * sd, above.left);
    return `M${from[0]} ${from[1]}l${a[0] * long} ${a[1] * long}L${from[0] + b[0] * long} ${from[1] + b[1] * long}Z`;
  };
  return (
    <Box position="relative" mb="6px">
      <svg
        ref={drawing}
        viewBox={`${-w} ${-w} ${2 * w} ${2 * w}`}
        style={{ display: "block", width: "100%", height }}
        data-testid="circle"
        data-frame={frame}
      >
        {[-1, 1].map((s) => (
          <path
            key={s}
            d={`M${s * ta * r} ${-ty * r}L${s * ta * (w + 40)} ${-ty * (w + 40)}`}
            stroke={colour("quiet")}
            strokeWidth={1.5}
            strokeDasharray="7 6"
          />
        ))}
        <circle r={r} fill={colour("raised")} stroke={colour("chalk")} strokeWidth={3} />
        {[-1, 1].map((s) => (
          <path key={s} d={`M${s * (r + 4)} 0h${s * 75}`} stroke={colour("chalk")} strokeWidth={3} />
        ))}
        {[0, 90, 180, 270].map((az) => {
          const [x, y] = to(az, above.left);
          const far = r + (az % 180 ? 96 : 22);
          return (
            <text
              key={az}
              x={x * far}
              y={y * far + 5}
              textAnchor={az % 180 ? (x > 0 ? "start" : "end") : "middle"}
              fill={colour("quiet")}
              fontSize={14}
            >
              {az % 180 ? "" : az ? "throw " : "back "}
              {say(az)}
            </text>
          );
        })}
        {prints.map((p, k) => (
          <Foot key={k} x={p.x} y={p.y} az={p.az} left={above.left} right={p.right} faint />
        ))}
        <path
          d={line(above.hips, 0, above.to - above.from)}
          fill="none"
          stroke={colour("amber")}
          strokeWidth={1.2}
          opacity={0.45}
        />
        <path d={line(above.hips, 0, i + 1)} fill="none" stroke={colour("amber")} strokeWidth={2.4} />
        <path d={line(above.ball, i - 34, i + 1)} fill="none" stroke={colour("chalk")} strokeWidth={2} opacity={0.4} />
        {above.feet.map((f, side) => {
          // Where a foot in the air is, one picture of the ground does not tell.
          const p = above.down[side]?.[i] ? at(f, i) : null;
          return (
            p && (
              <Foot
                key={side}
                x={p[0]}
                y={p[1]}
                az={known(f.az[i]) && f.sd[i] < 20 ? f.az[i] : undefined}
                left={above.left}
                right={side === 1}
              />
            )
          );
        })}
        {pelvis && known(above.hips.az[i]) && (
          <>
            <path d={wedge(pelvis, above.hips.az[i], above.hips.sd[i], 62)} fill={colour("moss")} opacity={0.2} />
            <path
              d={arrow(pelvis, above.hips.az[i], 62)}
              stroke={colour("moss")}
              strokeWidth={6}
              strokeLinecap="round"
              data-az={above.hips.az[i]}
              data-who="hips"
            />
          </>
        )}
        {neck && known(above.chest.az[i]) && (
          <>
            <path d={wedge(neck, above.chest.az[i], above.chest.sd[i], 82)} fill={colour("sky")} opacity={0.18} />
            <path
              d={arrow(neck, above.chest.az[i], 82)}
              stroke={colour("sky")}
              strokeWidth={5}
              strokeDasharray="9 7"
              strokeLinecap="round"
              data-az={above.chest.az[i]}
              data-who="chest"
            />
          </>
        )}
        {neck && ball && (
          <>
            <path d={`M${neck[0]} ${neck[1]}L${ball[0]} ${ball[1]}`} stroke={colour("chalk")} strokeWidth={2} />
            <circle cx={ball[0]} cy={ball[1]} r={9} fill={colour("chalk")} data-az={above.ball.az[i]} data-who="ball" />
          </>
        )}
      </svg>
      <Keep drawing={drawing} name={name} />
    </Box>
  );
}

/** footPrints: each contact once, a long one once a turn. */
function footPrints(above: Above, turns: Turn[]) {
  const out: { x: number; y: number; az?: number; right: boolean }[] = [];
  above.feet.forEach((f, side) => {
    const down = above.down[side] ?? [];
    for (let a = 0; a < down.length; a++) {
      if (!down[a]) continue;
      let b = a;
      while (b < down.length && down[b]) b++;
      const zeros = turns
        .flatMap((t) => [t.zero, t.next])
        .map((z) => z - above.from)
        .filter((z, k, all) => z >= a && z < b && all.indexOf(z) === k);
      for (const k of zeros.length ? zeros : [Math.floor((a + b) / 2)]) {
        if (known(f.x[k]) && k < above.to - above.from)
          out.push({
            x: f.z[k] * cm,
            y: -f.x[k] * cm,
            az: known(f.az[k]) && f.sd[k] < 15 ? f.az[k] : undefined,
            right: side === 1,
          });
      }
      a = b;
    }
  });
  return out;
}

/** Foot: the left one is round and clay, the right one square and sky. The place is
 * that of the toes. */
function Foot({
  x,
  y,
  az,
  left,
  right,
  faint,
}: {
  x: number;
  y: number;
  az?: number;
  left: boolean;
  right: boolean;
  faint?: boolean;
}) {
  const style = { fill: colour(right ? "sky" : "clay"), opacity: faint ? 0.28 : 1 };
  if (az === undefined)
    return right ? (
      <rect x={x - 6} y={y - 6} width={12} height={12} {...style} />
    ) : (
      <circle cx={x} cy={y} r={6.5} {...style} />
    );
  const [dx, dy] = to(az, left);
  const turn = (Math.atan2(dy, dx) * 180) / Math.PI;
  return (
    <g transform={`translate(${x} ${y}) rotate(${turn})`}>
      {right ? (
        <rect x={-25} y={-5.5} width={28} height={11} rx={3} {...style} />
      ) : (
        <ellipse cx={-11} cy={0} rx={14} ry={6} {...style} />
      )}
    </g>
  );
}

/** Now: the numbers of the frame under the cursor. */
function Now({ above, say, player }: Parts) {
  const frame = usePlayer(player, (s) => s.frame);
  const i = Math.max(0, Math.min(above.to - 1, frame) - above.from);
  const az = (w: Above["ball"]) => (known(w.az[i]) ? `${say(w.az[i])}` : "–");
  const sd = (w: Above["ball"]) => (known(w.az[i]) ? `±${Math.round(1.96 * w.sd[i])}°` : "");
  const lead = (l: Above["drag"]) =>
    known(l.x[i]) ? minus((Math.round(l.x[i]) > 0 ? "+" : "") + (Math.round(l.x[i]) + 0)) + "°" : "–";
  const half = (l: Above["drag"]) => (known(l.x[i]) ? `±${Math.round(l.half95[i])}` : "");
  const cells: [string, ReactNode, string, string?][] = [
    ["ball", az(above.ball), sd(above.ball), "chalk"],
    ["chest", az(above.chest), sd(above.chest), "sky"],
    ["hips", az(above.hips), sd(above.hips), "moss"],
    ["hips before chest", lead(above.separation), half(above.separation)],
    ["chest before ball", lead(above.drag), half(above.drag)],
    ["ball", known(above.speed[i]) ? above.speed[i].toFixed(1) : "–", "m/s"],
  ];
  return (
    <>
      <Box display="grid" gridTemplateColumns="repeat(3, 1fr)" gap="4px 10px" mb="8px" data-testid="now">
        {cells.map(([name, v, u, c], k) => (
          <Box key={k}>
            <Text fontSize="11.5px" color={c ?? "quiet"}>
              {name}
            </Text>
            <Text fontSize="14px" fontWeight="650" whiteSpace="nowrap">
              {v}{" "}
              <Text as="span" fontSize="11px" fontWeight="400" color="quiet">
                {u}
              </Text>
            </Text>
          </Box>
        ))}
      </Box>
      <Text fontSize="12px" color="quiet" mb="10px">
        {above.drift &&
          `Hips leave the straight line by ${Math.abs(above.drift.value).toFixed(0)} cm ±${above.drift.half95.toFixed(0)} to the ${above.drift.value > 0 ? "right" : "left"}. `}
        {above.axis &&
          `At the release the trunk leans ${Math.abs(above.axis.lean.value).toFixed(0)}° ±${above.axis.lean.half95.toFixed(0)} toward ${say((above.axis.toward + (above.axis.lean.value < 0 ? 180 : 0)) % 360)}${above.axis.whole ? "" : ", as far as it shows from here"}. `}
        {above.rim && `Nearest to the rim: ${minus(above.rim.value.toFixed(0))} cm ±${above.rim.half95.toFixed(0)}.`}
      </Text>
    </>
  );
}

/** Spiral: the turns wound up. Round is the direction of the ball, outward is later,
 * thick is both feet down. */
function Spiral({ above, turns, turning, say, player, height, name }: Parts & { height: number; name: string }) {
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
    turns.map((t) => ({
      t,
      at: point(Math.min(end - 1, t[what] - above.from)),
      az: what === "lift" ? t.lift_az : t.catch_az,
    }));
  const lifts = marks("lift");
  const catches = marks("catch");
  const here = frame - above.from;
  const chain = (list: typeof lifts) =>
    list.map((m, k) => `${k ? "L" : "M"}${m.at[0].toFixed(1)} ${m.at[1].toFixed(1)}`).join("");
  const out = end > 0 ? point(end - 1) : null;
  return (
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
            <path key={k} d={`M${x * 40} ${y * 40}L${x * 178} ${y * 178}`} stroke={colour("seam")} strokeWidth={1} />
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
              fill={colour("quiet")}
            >
              {say(az)}
            </text>
          );
        })}
        {pieces.map((p, k) => (
          <path key={k} d={p.d} fill="none" stroke={colour(p.both ? "clay" : "quiet")} strokeWidth={p.both ? 8 : 2.2} />
        ))}
        {[lifts, catches].map((list, k) => (
          <path key={k} d={chain(list)} fill="none" stroke={colour("amber")} strokeWidth={1.4} strokeDasharray="4 4" />
        ))}
        {[lifts, catches].map((list, c) =>
          list.map((m) => (
            <g
              key={c + "-" + m.t.n}
              style={{ cursor: "pointer" }}
              onClick={() => player.jump(c ? m.t.catch : m.t.lift)}
              data-mark={`${c ? "catch" : "lift"}${m.t.n}`}
            >
              <circle
                cx={m.at[0]}
                cy={m.at[1]}
                r={5}
                fill={colour("ground")}
                stroke={colour("chalk")}
                strokeWidth={2}
              />
              <text
                x={m.at[0] + (m.at[0] > 0 ? 9 : -9)}
                y={m.at[1] + (c ? -6 : 13)}
                textAnchor={m.at[0] > 0 ? "start" : "end"}
                fontSize={11.5}
                fontWeight={600}
                fill={colour(c ? "amber" : "chalk")}
                stroke={colour("panel")}
                strokeWidth={3.5}
                style={{ paintOrder: "stroke" }}
              >
                {say(m.az.value)}
              </text>
            </g>
          )),
        )}
        {out && <circle cx={out[0]} cy={out[1]} r={4} fill={colour("chalk")} />}
        {here >= first && here < end && known(above.ball.az[here]) && (
          <circle cx={point(here)[0]} cy={point(here)[1]} r={7} fill="none" stroke={colour("moss")} strokeWidth={2.5} />
        )}
      </svg>
      <Text fontSize="11px" color="quiet" position="absolute" left="0" top="0" lineHeight="1.35">
        round: the ball’s direction
        <br />
        outward: later
        <br />
        thick: both feet down
      </Text>
      <Text fontSize="11px" position="absolute" right="0" top="0" textAlign="right" lineHeight="1.35">
        <Text as="span" color="amber">
          catch
        </Text>{" "}
        {course(turning?.catches)}
        <br />
        lift {course(turning?.lifts)}
      </Text>
      <Keep drawing={drawing} name={name} />
    </Box>
  );
}

/** course says how a direction goes on over the turns. */
function course(t?: Turning["lifts"]) {
  if (!t) return "";
  if (t.steady) return "steady within its doubt";
  return `comes ${Math.round(Math.abs(t.diff.value))}° ${t.diff.value > 0 ? "later" : "earlier"}`;
}

const units = { N: 1, kgf: 9.80665, lbf: 4.4482216 } as const;

/** Table: turn by turn. */
function Table({ turns, turning, say, player, wide }: Parts & { wide?: boolean }) {
  const [unit, setUnit] = useState<keyof typeof units>(
    () => (localStorage.getItem("neo.force") as keyof typeof units) ?? "N",
  );
  useEffect(() => localStorage.setItem("neo.force", unit), [unit]);
  const sweeps = wide && turns.some((t) => t.sweep); // two cameras only
  const n = (v: Estimate | undefined, digits: number, k = 1, sign = false) => {
    if (!v) return "–";
    const x = Number((v.value * k).toFixed(digits)) + 0; // no minus before nothing
    return minus((sign && x > 0 ? "+" : "") + x.toFixed(digits));
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
            <th>turn</th>
            <th>time s</th>
            <th>both feet</th>
            <th>one foot</th>
            <th>ball m/s</th>
            <th>gain</th>
            {wide && <th>radius m</th>}
            {wide && <th>tilt</th>}
            <th>pull {unit}</th>
            <th>drag at {say(0)}</th>
            {wide && <th>sep. at catch</th>}
            {wide && <th>step cm</th>}
            {sweeps && <th>sweep foot</th>}
            {wide && <th>line of feet</th>}
            {wide && <th>hips side cm</th>}
          </tr>
        </thead>
        <tbody>
          {turns.map((t) => (
            <tr key={t.n} data-turn={t.n} onClick={() => player.jump(t.zero)}>
              <td>{t.n}</td>
              <td>{n(t.time, 2)}</td>
              <td>{n(t.double, 2)}</td>
              <td>{n(t.single, 2)}</td>
              <td>{n(t.speed, 1)}</td>
              <td>{n(t.gain, 1, 1, true)}</td>
              {wide && <td>{n(t.radius, 2)}</td>}
              {wide && <td>{n(t.tilt, 0)}°</td>}
              <td>{n(t.pull, 0, 1 / units[unit])}</td>
              <td>{n(t.drag, 0, 1, true)}°</td>
              {wide && <td>{n(t.separation, 0, 1, true)}°</td>}
              {wide && <td>{n(t.step, 0)}</td>}
              {sweeps && <td>{t.sweep ? say(t.sweep.value) : "–"}</td>}
              {wide && (
                <td>
                  {n(t.line, 0, 1, true)}
                  {t.line ? "°" : ""}
                </td>
              )}
              {wide && <td>{n(t.sway, 0)}</td>}
            </tr>
          ))}
        </tbody>
      </Box>
      <Flex mt="6px" gap="4px" align="center" fontSize="12px" color="quiet">
        <Text flex="1">
          {turning?.pull_body_weights &&
            `At most ${turning.pull_body_weights.value.toFixed(1)} × body weight, in turn ${turning.hardest_turn}. `}
          Times ±{Math.round(turns[0].time.half95 * 1000)} ms, speed ±{turns[turns.length - 1].speed.half95.toFixed(1)}.
          Build the load up slowly; pain in groin or trunk means stop.
        </Text>
        {(Object.keys(units) as (keyof typeof units)[]).map((u) => (
          <Button
            key={u}
            size="xs"
            h="20px"
            px="6px"
            variant={u === unit ? "outline" : "ghost"}
            onClick={() => setUnit(u)}
          >
            {u}
          </Button>
        ))}
      </Flex>
    </Box>
  );
}

/** Release: how the implement leaves, and what the flight would make of it. */
function Release({ report, core, input }: { report: Report; core: Core; input: Input }) {
  const [wind, setWind] = useState(0);
  const t = report.throw;
  const windy = useMemo(
    () => (wind ? core.evaluate({ input: { ...input, wind } }).report.throw?.predicted : undefined),
    [core, input, wind],
  );
  if (!t?.release) return null;
  const l = t.release;
  const a = windy ?? t.predicted;
  const rows: [string, Estimate, number, string][] = [
    ["speed", l.speed, 1, "m/s"],
    ["angle", l.angle, 1, "°"],
    ["height", l.height, 2, "m"],
    ["to the right", l.aside, 1, "°"],
  ];
  const worth = (v: number, d: number) => minus((v > 0 ? "+" : "") + v.toFixed(d)) + " m";
  return (
    <Box data-testid="release" mb="10px">
      <Head tone="chalk">Release</Head>
      <Box display="grid" gridTemplateColumns="repeat(4, 1fr)" gap="6px" mb="8px">
        {rows.map(([name, v, d, u]) => (
          <Box key={name}>
            <Text fontSize="11.5px" color="quiet">
              {name}
            </Text>
            <Text fontWeight="650" fontSize="14px" whiteSpace="nowrap">
              {minus(v.value.toFixed(d))}
              {u === "°" ? "°" : ""}{" "}
              <Text as="span" fontSize="11px" fontWeight="400" color="quiet">
                {u === "°" ? "" : u} ±{v.half95.toFixed(d)}
              </Text>
            </Text>
          </Box>
        ))}
      </Box>
      {a && (
        <>
          <Flex align="baseline" gap="6px" mb="4px">
            <Text fontSize="18px" fontWeight="650">
              {a.distance.value.toFixed(1)} m
            </Text>
            <Text fontSize="12px" color="quiet" flex="1">
              ±{a.distance.half95.toFixed(1)} predicted with air, {t.mass} kg{t.mass_given ? "" : " (the rules’ mass)"};{" "}
              {a.no_air.toFixed(1)} m without air
            </Text>
          </Flex>
          <Flex align="center" gap="8px" fontSize="12px" color="quiet" mb="4px">
            <Text w="128px">
              wind {wind === 0 ? "still" : `${Math.abs(wind).toFixed(1)} m/s ${wind > 0 ? "behind" : "against"}`}
            </Text>
            <input
              type="range"
              min={-5}
              max={5}
              step={0.5}
              value={wind}
              aria-label="wind, metres a second from behind"
              style={{ flex: 1 }}
              onChange={(e) => setWind(Number(e.target.value))}
            />
          </Flex>
          <Text fontSize="12px" color="quiet" data-testid="worth">
            Worth for this throw: one m/s more {worth(a.faster, 1)}, one degree more {worth(a.steeper, 2)}, 10 cm more
            height {worth(a.higher, 2)}.
            {t.shortfall &&
              ` The tape gave ${t.shortfall.value > 0 ? `${t.shortfall.value.toFixed(1)} m less` : `${(-t.shortfall.value).toFixed(1)} m more`} (±${t.shortfall.half95.toFixed(1)})${Math.abs(t.shortfall.value) <= t.shortfall.half95 ? ", within the doubt" : t.shortfall.value > 0 ? ": lost in the air, by wobble, wind or attitude" : ""}.`}
          </Text>
        </>
      )}
    </Box>
  );
}

/** Disc: how it lies in the air, and the clicks that tell. */
function Disc({
  report,
  clip,
  player,
  edit,
  onTool,
}: {
  report: Report;
  clip: Clip;
  player: Player;
  edit(...e: Edit[]): void;
  onTool(t: Tool | null): void;
}) {
  const t = report.throw;
  const a = t?.attitude;
  const release = t?.release?.frame ?? report.positions.find((p) => p.id === "release")?.frame;
  const arm = (frame: number, end: "rim_a" | "rim_b") => {
    player.jump(frame);
    onTool({
      kind: "spot",
      says: `Frame ${frame}: click ${end === "rim_a" ? "one end" : "the other end"} of the disc’s oval`,
      done: (x, y) => {
        edit({
          kind: "point",
          clip: clip.id,
          key: end,
          frame,
          value: { x, y, source: "hand", confidence: 1, hidden: false },
        });
        if (end === "rim_a") return arm(frame, "rim_b");
        if (frame + 1 >= clip.stamps.length) return onTool(null);
        arm(frame + 1, "rim_a");
      },
    });
  };
  const side = a?.seen === "pitch";
  const signed = (v: Estimate, up: string, down: string) =>
    `${Math.abs(v.value).toFixed(0)}° ±${v.half95.toFixed(0)} ${v.value > 0 ? up : down}`;
  return (
    <Box data-testid="disc" mb="10px">
      <Head
        tone="chalk"
        right={
          release !== undefined && (
            <Button
              size="xs"
              variant="outline"
              h="22px"
              data-testid="click-ends"
              onClick={() => arm(Math.max(release, Math.min(player.get().frame, clip.stamps.length - 1)), "rim_a")}
            >
              click its ends
            </Button>
          )
        }
      >
        Disc in the air
      </Head>
      <Text fontSize="12.5px" color={a ? undefined : "quiet"}>
        {!a &&
          (release === undefined
            ? "Flag the release first."
            : "Click both ends of its oval in three frames or more after the release; eight over 60 ms tell how much it wobbles. From the side its pitch shows, from behind its roll.")}
        {a &&
          side &&
          (a.attack
            ? `Against its path ${signed(a.attack, "nose up", "nose down")}. `
            : `Front edge ${signed(a.tilt, "up", "down")}. `)}
        {a && !side && `Edge on the throwing side ${signed(a.tilt, "down", "up")}. `}
        {a?.wobble &&
          `Swings ${a.wobble.value.toFixed(0)}° ±${a.wobble.half95.toFixed(0)} to either side${a.wobble.value > a.wobble.half95 ? `, ${(a.rate ?? 0).toFixed(0)} times a second` : ", which is within the doubt"}. `}
        {t?.wobble_cost && t.wobble_cost.value > t.wobble_cost.half95 && (
          <Text as="span" fontWeight="650">
            That costs about {t.wobble_cost.value.toFixed(1)} m ±{t.wobble_cost.half95.toFixed(1)}.
          </Text>
        )}
        {a && !a.wobble && "Eight frames over 60 ms or more would tell its wobble."}
      </Text>
    </Box>
  );
}
