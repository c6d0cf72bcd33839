import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import type { Clip, Edit, Estimate, Report } from "../../../../api/client";
import type { Core, Input } from "../../../../core/core";
import { Head } from "../../../../ui/parts";
import type { Player } from "../../stage/player";
import type { Tool } from "../../stage/tools";
import { t } from "../../../../texts/texts";
import { written, fixed } from "../../../../ui/written";

/** Release: how the implement leaves, and what the flight would make of it. */
export function Release({ report, core, input }: { report: Report; core: Core; input: Input }) {
  const [wind, setWind] = useState(0);
  const thrown = report.throw;
  const windy = useMemo(
    () => (wind ? core.evaluate({ input: { ...input, wind } }).report.throw?.predicted : undefined),
    [core, input, wind],
  );
  if (!thrown?.release) return null;
  const l = thrown.release;
  const a = windy ?? thrown.predicted;
  const rows: [string, Estimate | undefined, number, string][] = [
    [t("speed"), l.speed, 1, "m/s"],
    [t("angle"), l.angle, 1, "°"],
    [t("height"), l.height, 2, "m"],
    [t("to the right"), l.aside, 1, "°"],
  ];
  const worth = (v: number, d: number) => written((v > 0 ? "+" : "") + v.toFixed(d)) + " m";
  return (
    <Box data-testid="release" mb="10px">
      <Head tone="chalk">{t("Release")}</Head>
      <Box display="grid" gridTemplateColumns="repeat(4, 1fr)" gap="6px" mb="8px">
        {rows.map(
          ([name, v, d, u]) =>
            v && (
              <Box key={name}>
                <Text fontSize="11.5px" color="quiet">
                  {name}
                </Text>
                <Text fontWeight="650" fontSize="14px" whiteSpace="nowrap">
                  {written(v.value.toFixed(d))}
                  {u === "°" ? "°" : ""}{" "}
                  <Text as="span" fontSize="11px" fontWeight="400" color="quiet">
                    {u === "°" ? "" : u} ±{fixed(v.half95, d)}
                  </Text>
                </Text>
              </Box>
            ),
        )}
      </Box>
      {a && (
        <>
          <Flex align="baseline" gap="6px" mb="4px">
            <Text fontSize="18px" fontWeight="650">
              {t("{value} m", { value: fixed(a.distance.value, 1) })}
            </Text>
            <Text fontSize="12px" color="quiet" flex="1">
              {t("±{half95} predicted with air, {mass} kg{which}; {noAir} m without air", {
                half95: fixed(a.distance.half95, 1),
                mass: thrown.mass,
                which: thrown.mass_given ? "" : t(" (the rules’ mass)"),
                noAir: fixed(a.no_air, 1),
              })}
            </Text>
          </Flex>
          <Flex align="center" gap="8px" fontSize="12px" color="quiet" mb="4px">
            <Text w="128px">
              {t("wind {which}", {
                which:
                  wind === 0
                    ? t("still")
                    : t("{wind} m/s {which}", {
                        wind: fixed(Math.abs(wind), 1),
                        which: wind > 0 ? t("behind") : t("against"),
                      }),
              })}
            </Text>
            <input
              type="range"
              min={-5}
              max={5}
              step={0.5}
              value={wind}
              aria-label={t("wind, metres a second from behind")}
              style={{ flex: 1 }}
              onChange={(e) => setWind(Number(e.target.value))}
            />
          </Flex>
          <Text fontSize="12px" color="quiet" data-testid="worth">
            {t("Worth for this throw: one m/s more {faster}, one degree more {steeper}, 10 cm more height {higher}.", {
              faster: worth(a.faster, 1),
              steeper: worth(a.steeper, 2),
              higher: worth(a.higher, 2),
            })}
            {thrown.shortfall &&
              t(" The tape gave {which} (±{half95}){which2}.", {
                which:
                  thrown.shortfall.value > 0
                    ? t("{value} m less", { value: fixed(thrown.shortfall.value, 1) })
                    : t("{n} m more", { n: fixed(-thrown.shortfall.value, 1) }),
                half95: fixed(thrown.shortfall.half95, 1),
                which2:
                  Math.abs(thrown.shortfall.value) <= thrown.shortfall.half95
                    ? t(", within the doubt")
                    : thrown.shortfall.value > 0
                      ? t(": lost in the air, by wobble, wind or attitude")
                      : "",
              })}
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
  const thrown = report.throw;
  const a = thrown?.attitude;
  const release = thrown?.release?.frame ?? report.positions.find((p) => p.id === "release")?.frame;
  const arm = (frame: number, end: "rim_a" | "rim_b") => {
    player.jump(frame);
    onTool({
      kind: "spot",
      says: t("Frame {frame}: click {which} of the disc’s oval", {
        frame,
        which: end === "rim_a" ? t("one end") : t("the other end"),
      }),
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
    `${fixed(Math.abs(v.value))}° ±${fixed(v.half95)} ${v.value > 0 ? up : down}`;
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
              {t("Click its ends")}
            </Button>
          )
        }
      >
        {t("Disc in the air")}
      </Head>
      <Text fontSize="12.5px" color={a ? undefined : "quiet"}>
        {!a &&
          (release === undefined
            ? t("Flag the release first.")
            : t(
                "Click both ends of its oval in three frames or more after the release; eight over 60 ms tell how much it wobbles. From the side its pitch shows, from behind its roll.",
              ))}
        {a &&
          side &&
          (a.attack
            ? t("Against its path {attack}. ", { attack: signed(a.attack, t("nose up"), t("nose down")) })
            : t("Front edge {tilt}. ", { tilt: signed(a.tilt, t("up"), t("down")) }))}
        {a && !side && t("Edge on the throwing side {tilt}. ", { tilt: signed(a.tilt, t("down"), t("up")) })}
        {a?.wobble &&
          t("Swings {value}° ±{half95} to either side{which}. ", {
            value: fixed(a.wobble.value, 0),
            half95: fixed(a.wobble.half95, 0),
            which:
              a.wobble.value > a.wobble.half95
                ? t(", {rate} times a second", { rate: fixed(a.rate ?? 0, 0) })
                : t(", which is within the doubt"),
          })}
        {thrown?.wobble_cost && thrown.wobble_cost.value > thrown.wobble_cost.half95 && (
          <Text as="span" fontWeight="650">
            {t("That costs about {value} m ±{half95}.", {
              value: fixed(thrown.wobble_cost.value, 1),
              half95: fixed(thrown.wobble_cost.half95, 1),
            })}
          </Text>
        )}
        {a && !a.wobble && t("Eight frames over 60 ms or more would tell its wobble.")}
      </Text>
    </Box>
  );
}
