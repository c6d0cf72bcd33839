import { Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Player, usePlayer } from "../workspace/stage/player";
import { loadCore } from "../../core/core";
import { Panel } from "../../ui/parts";
import type { Comparison } from "../../api/client";
import { t } from "../../texts/texts";
import { written, fixed } from "../../ui/written";

export const places = (half: number) => (half < 0.1 ? 2 : half < 1 ? 1 : 0);
export const digits = (v: number, half: number) => written(v.toFixed(places(half)));
export const signed = (v: number, half: number) => written((v > 0 ? "+" : "") + v.toFixed(places(half)));

/** Phases draws one curve of both over the phases that they share, each from 0 to 100 %:
 * the first as a line, the second dashed, with their doubt. */
export function Phases({
  found,
  curve,
  onCurve,
  player,
}: {
  found: Comparison;
  curve: string;
  onCurve(id: string): void;
  player: Player;
}) {
  const frame = usePlayer(player, (s) => s.frame);
  const [kinds, setKinds] = useState<{ id: string; name: string; group: string }[]>([]);
  useEffect(
    () =>
      void loadCore()
        .then((c) => setKinds(c.catalogue({}).curves.filter((k) => k.group !== "single points")))
        // Without the core there is no curve to choose; that it is missing is told elsewhere.
        .catch(() => {}),
    [],
  );
  const c = found.curve;
  const w = 840;
  const h = 96;
  const known = (v: number) => v > -1e8;
  const all = (c?.phases ?? []).flatMap((p) => [...p.a, ...p.b]).filter(known);
  const [lo, hi] = all.length ? [Math.min(...all), Math.max(...all)] : [0, 1];
  const y = (v: number) => h - 6 - ((v - lo) / Math.max(1e-9, hi - lo)) * (h - 12);
  const wide = w / Math.max(1, c?.phases.length ?? 1);
  const x = (i: number, k: number) => i * wide + (k / 20) * wide;
  const path = (i: number, v: number[]) =>
    v.reduce(
      (d, q, k) => (known(q) ? `${d}${d && known(v[k - 1]) ? "L" : "M"}${x(i, k).toFixed(1)} ${y(q).toFixed(1)}` : d),
      "",
    );
  const band = (i: number, v: number[], half: number[]) => {
    const ok = v.map((q, k) => [q, k] as const).filter(([q]) => known(q));
    return ok.length < 2
      ? ""
      : `M${ok.map(([q, k]) => `${x(i, k).toFixed(1)} ${y(q + half[k]).toFixed(1)}`).join("L")}L${[...ok]
          .reverse()
          .map(([q, k]) => `${x(i, k).toFixed(1)} ${y(q - half[k]).toFixed(1)}`)
          .join("L")}Z`;
  };
  const here = c?.phases.findIndex((p) => frame >= p.from && frame <= p.to) ?? -1;
  const at =
    here >= 0
      ? x(here, (20 * (frame - c!.phases[here].from)) / Math.max(1, c!.phases[here].to - c!.phases[here].from))
      : null;
  return (
    <Panel p="6px 12px" flexShrink={0} data-testid="phases">
      <Flex align="center" gap="10px">
        <NativeSelect.Root size="xs" w="190px">
          <NativeSelect.Field
            value={curve}
            bg="raised"
            borderColor="seam"
            aria-label={t("Curve over the phases")}
            onChange={(e) => (onCurve(e.target.value), e.target.blur())}
          >
            <option value="">{t("no curve")}</option>
            {kinds.map((k) => (
              <option key={k.id} value={k.id}>
                {k.name}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        {curve && c && (
          <Text fontSize="12px" color="quiet">
            {c.reason
              ? t("Nothing to draw: {reason}.", { reason: c.reason })
              : t("each phase from 0 to 100 %; {name}, {lo} to {hi} {unit}; line: first, dashes: second", {
                  name: c.name,
                  lo: fixed(lo, 0),
                  hi: fixed(hi, 0),
                  unit: c.unit,
                })}
          </Text>
        )}
      </Flex>
      {curve && c && !c.reason && (
        <svg
          data-testid="phase-chart"
          viewBox={`0 -14 ${w} ${h + 16}`}
          preserveAspectRatio="none"
          style={{ display: "block", width: "100%", height: 112, cursor: "pointer" }}
          onClick={(e) => {
            const r = e.currentTarget.getBoundingClientRect();
            const place = ((e.clientX - r.left) / r.width) * c.phases.length;
            const p = c.phases[Math.min(c.phases.length - 1, Math.floor(place))];
            player.pause();
            player.jump(p.from + (place - Math.floor(place)) * (p.to - p.from));
          }}
        >
          {c.phases.map((p, i) => (
            <g key={i} data-phase={p.name}>
              {i > 0 && (
                <path d={`M${x(i, 0)} -14V${h}`} stroke="var(--chakra-colors-seam)" vectorEffect="non-scaling-stroke" />
              )}
              <path d={band(i, p.a, p.half95_a)} fill="var(--chakra-colors-clay)" opacity={0.18} />
              <path d={band(i, p.b, p.half95_b)} fill="var(--chakra-colors-sky)" opacity={0.16} />
              <path
                d={path(i, p.a)}
                fill="none"
                stroke="var(--chakra-colors-clay)"
                strokeWidth={2}
                vectorEffect="non-scaling-stroke"
                data-curve="first"
              />
              <path
                d={path(i, p.b)}
                fill="none"
                stroke="var(--chakra-colors-sky)"
                strokeWidth={2}
                strokeDasharray="6 4"
                vectorEffect="non-scaling-stroke"
                data-curve="second"
              />
            </g>
          ))}
          {at !== null && (
            <path d={`M${at} -14V${h}`} stroke="var(--chakra-colors-chalk)" vectorEffect="non-scaling-stroke" />
          )}
        </svg>
      )}
      {curve && c && !c.reason && (
        <Flex>
          {c.phases.map((p, i) => (
            <Text key={i} flex="1" fontSize="11px" color="quiet" truncate px="3px">
              {p.name}
              {p.ratio > 0 && ` ×${fixed(p.ratio, 2)}`}
            </Text>
          ))}
        </Flex>
      )}
    </Panel>
  );
}
