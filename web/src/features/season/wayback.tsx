import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { WayBack } from "../../api/client";
import { NumberField } from "../../ui/decimal";
import { Named } from "../../ui/field";
import { Notice } from "../../ui/parts";
import { day } from "../../ui/written";
import { t } from "../../texts/texts";

const fresh = (): WayBack => ({
  what: "",
  set_by: "",
  steps: [{ name: "", criterion: "", volume: 20, full: false }],
});

/** WayBackForm keeps the steps after an injury, as a physician or physiotherapist has set them. */
export function WayBackForm({
  way,
  today,
  error,
  onSave,
}: {
  way?: WayBack;
  today: string;
  error?: string;
  onSave(w: WayBack | undefined): void;
}) {
  const [w, setW] = useState(() => way ?? fresh());
  const [by, setBy] = useState("");
  const at = w.steps.findIndex((s) => !s.by);
  const step = (i: number, c: Partial<WayBack["steps"][number]>) =>
    setW({ ...w, steps: w.steps.map((s, n) => (n === i ? { ...s, ...c } : s)) });
  return (
    <form
      data-testid="way-back"
      onSubmit={(e) => {
        e.preventDefault();
        onSave(w);
      }}
    >
      <Notice mb="10px">
        {t(
          "The steps and what must be so before the next are a physician’s or physiotherapist’s. The tool keeps what they said, holds the plan to the step, and never goes on by itself.",
        )}
      </Notice>
      <Flex gap="8px" mb="10px">
        <Box flex="1">
          <Named name={t("What was hurt")}>
            <Input
              name="what"
              size="sm"
              required
              maxLength={200}
              value={w.what}
              onChange={(e) => setW({ ...w, what: e.target.value })}
            />
          </Named>
        </Box>
        <Box flex="1">
          <Named name={t("Steps set by (physician or physiotherapist)")}>
            <Input
              name="set_by"
              size="sm"
              required
              maxLength={120}
              value={w.set_by}
              onChange={(e) => setW({ ...w, set_by: e.target.value })}
            />
          </Named>
        </Box>
      </Flex>
      {w.steps.map((s, i) => (
        <Box key={i} borderTop="1px solid" borderColor="seam" py="8px" opacity={s.by ? 0.7 : 1}>
          <Flex gap="8px" wrap="wrap" align="flex-end">
            <Box flex="1 1 120px">
              <Named name={t("Step {n}", { n: i + 1 })}>
                <Input
                  size="sm"
                  name={`step-${i}`}
                  required
                  maxLength={120}
                  value={s.name}
                  onChange={(e) => step(i, { name: e.target.value })}
                />
              </Named>
            </Box>
            <Box flex="2 1 180px">
              <Named name={t("Goes on when")}>
                <Input
                  size="sm"
                  name={`criterion-${i}`}
                  required
                  maxLength={300}
                  value={s.criterion}
                  onChange={(e) => step(i, { criterion: e.target.value })}
                />
              </Named>
            </Box>
            <Box w="86px">
              <Named name={t("Volume, %")}>
                <NumberField
                  size="sm"
                  name={`volume-${i}`}
                  whole
                  least={0}
                  most={100}
                  value={s.volume}
                  onValue={(n) => n !== undefined && step(i, { volume: n })}
                />
              </Named>
            </Box>
            <Button
              type="button"
              size="xs"
              variant={s.full ? "solid" : "outline"}
              aria-pressed={s.full}
              onClick={() => step(i, { full: !s.full })}
            >
              {s.full ? t("full efforts") : t("no full efforts")}
            </Button>
            {w.steps.length > 1 && !s.by && (
              <Button
                type="button"
                size="xs"
                variant="ghost"
                aria-label={t("Take this step out")}
                onClick={() => setW({ ...w, steps: w.steps.filter((_, n) => n !== i) })}
              >
                ×
              </Button>
            )}
          </Flex>
          {s.by && (
            <Text fontSize="12px" color="moss" mt="4px">
              {t("met, says {by}, {day}", { by: s.by, day: day(s.on!) })}
            </Text>
          )}
          {way && i === at && (
            <Flex gap="6px" mt="6px" align="center">
              <Input
                size="sm"
                maxW="240px"
                name="by"
                value={by}
                maxLength={120}
                placeholder={t("who says that it is met")}
                onChange={(e) => setBy(e.target.value)}
              />
              <Button
                type="button"
                size="xs"
                variant="outline"
                disabled={by.trim().length < 3}
                onClick={() => {
                  step(i, { by: by.trim(), on: today });
                  setBy("");
                }}
              >
                {t("It is met")}
              </Button>
            </Flex>
          )}
        </Box>
      ))}
      {error && (
        <Notice tone="clay" mb="8px">
          {error}
        </Notice>
      )}
      <Flex gap="8px" mt="6px">
        <Button
          type="button"
          size="sm"
          variant="outline"
          disabled={w.steps.length > 11}
          onClick={() =>
            setW({
              ...w,
              steps: [
                ...w.steps,
                {
                  name: "",
                  criterion: "",
                  volume: Math.min(100, (w.steps[w.steps.length - 1]?.volume ?? 0) + 20),
                  full: false,
                },
              ],
            })
          }
        >
          {t("Add a step")}
        </Button>
        <Button type="submit" size="sm">
          {t("Keep the steps")}
        </Button>
        {way && (
          <Button type="button" size="sm" variant="ghost" onClick={() => onSave(undefined)}>
            {t("The way back is done with")}
          </Button>
        )}
      </Flex>
    </form>
  );
}
