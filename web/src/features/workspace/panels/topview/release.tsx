import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import type { Clip, Edit, Estimate, Report } from "../../../../api/client";
import type { Core, Input } from "../../../../core/core";
import { minus } from "../../../../ui/numbers";
import { Head } from "../../../../ui/parts";
import type { Player } from "../../stage/player";
import type { Tool } from "../../stage/tools";

/** Release: how the implement leaves, and what the flight would make of it. */
export function Release({ report, core, input }: { report: Report; core: Core; input: Input }) {
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
export function Disc({
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
              size="2xs"
              variant="outline"
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
