import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import type { Estimate } from "../../../api/client";
import { Head, Notice } from "../../../ui/parts";
import { useOpenClip } from "../context";
import { t } from "../../../texts/texts";
import { written, fixed } from "../../../ui/written";
import { word } from "../../../texts/words";

/** WhatIfPanel: what a moved pedal does to the knee, with the hips held. */
export function WhatIfPanel() {
  const { core, input } = useOpenClip();
  const [pedal, setPedal] = useState<"front" | "rear">("front");
  const [shift, setShift] = useState(2.5);
  const [wanted, setWanted] = useState(92);
  const { answer, missing } = useMemo(
    () => core.blocks({ input, question: { pedal, shift: shift / 100, wanted } }),
    [core, input, pedal, shift, wanted],
  );
  const cm = (v: Estimate, sign = false) =>
    t("{value} cm ±{half95}", {
      value: written((sign && v.value > 0 ? "+" : "") + (v.value * 100).toFixed(1)),
      half95: fixed(v.half95 * 100, 1),
    });
  const deg = (v: Estimate, sign = false) =>
    `${written((sign && v.value > 0 ? "+" : "") + v.value.toFixed(1))}° ±${v.half95.toFixed(1)}`;
  return (
    <Box data-testid="whatif">
      <Head tone="sky">{t("Move a pedal, keep the hips")}</Head>
      <Flex gap="6px" mb="10px">
        {(["front", "rear"] as const).map((p) => (
          <Button
            key={p}
            size="xs"
            variant={pedal === p ? "solid" : "outline"}
            onClick={() => {
              setPedal(p);
              setWanted(p === "front" ? 92 : 125);
            }}
          >
            {t("{side} pedal", { side: word(p) })}
          </Button>
        ))}
      </Flex>
      {missing && (
        <Notice>
          {t("{toUpperCase}{missing}. Then this answers from the athlete's own legs.", {
            toUpperCase: missing[0].toUpperCase(),
            missing: missing.slice(1),
          })}
        </Notice>
      )}
      {answer && (
        <>
          <Flex gap="14px" mb="10px">
            <Fact name={t("{pedal} knee now", { pedal })} text={deg(answer.knee_now)} />
            <Fact
              name={t("thigh, shank")}
              text={t("{value} and {value2} cm", {
                value: fixed(answer.thigh.value * 100, 0),
                value2: fixed(answer.shank.value * 100, 0),
              })}
            />
            <Fact name={t("pedals apart")} text={cm(answer.spacing)} />
          </Flex>
          <Slide
            name={t("Move towards the line")}
            unit={t("cm")}
            value={shift}
            min={-15}
            max={15}
            step={0.5}
            onChange={setShift}
          />
          <Flex gap="14px" mb="14px" mt="4px">
            <Fact name={t("knee then")} text={answer.knee_then ? deg(answer.knee_then) : t("out of reach")} />
            <Fact name="change" text={answer.change ? deg(answer.change, true) : "–"} strong />
            <Fact name={t("pedals apart then")} text={cm(answer.spacing_at)} />
            <Fact name={t("hip ahead of foot")} text={cm(answer.under_hip)} />
          </Flex>
          <Slide
            name={t("Wanted knee angle")}
            unit="°"
            value={wanted}
            min={70}
            max={150}
            step={1}
            onChange={setWanted}
          />
          <Box mt="4px">
            {answer.shift_for ? (
              <Fact name={t("the pedal moves towards the line by")} text={cm(answer.shift_for, true)} strong />
            ) : (
              <Notice tone="clay">{`${answer.cannot?.[0].toUpperCase()}${answer.cannot?.slice(1)}.`}</Notice>
            )}
          </Box>
          <Text fontSize="12px" color="quiet" mt="12px">
            {t(
              "Geometry alone, from this clip's leg lengths: an inch of pedal is often worth only a degree or two. When the set looks very different after a small move, the hips have moved too. Move, film, measure again.",
            )}
          </Text>
        </>
      )}
    </Box>
  );
}

const Fact = ({ name, text, strong }: { name: string; text: string; strong?: boolean }) => (
  <Box>
    <Text fontSize="11px" color="quiet">
      {name}
    </Text>
    <Text fontWeight="600" color={strong ? "sky" : undefined} whiteSpace="nowrap">
      {text}
    </Text>
  </Box>
);

const Slide = ({
  name,
  unit,
  value,
  min,
  max,
  step,
  onChange,
}: {
  name: string;
  unit: string;
  value: number;
  min: number;
  max: number;
  step: number;
  onChange(v: number): void;
}) => (
  <label style={{ display: "block" }}>
    <Flex justify="space-between" fontSize="12px">
      <Text>{name}</Text>
      <Text fontWeight="600">{written(`${value}`) + (unit === "°" ? "°" : " " + unit)}</Text>
    </Flex>
    <input
      type="range"
      aria-label={name}
      min={min}
      max={max}
      step={step}
      value={value}
      onChange={(e) => onChange(Number(e.target.value))}
      style={{ width: "100%" }}
    />
  </label>
);
