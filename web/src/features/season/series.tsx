import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { SeriesView } from "../../api/client";
import { Choice } from "../../ui/field";
import { Head, Notice } from "../../ui/parts";
import { fixed } from "../../ui/written";
import { t } from "../../texts/texts";
import { useSeries } from "./api";

const under: Record<SeriesView["under"], string> = {
  outdoor: t("outdoor"),
  indoor: t("indoor"),
  "wind-assisted": t("wind-assisted"),
};

/** Series is what the marks of a year say: best against mean, scatter, fouls with their reasons, and the
 * chance of a mark, each under its own conditions. */
export function Series({ id, event }: { id: string; event: string }) {
  const [wanted, setWanted] = useState("");
  const [attempts, setAttempts] = useState("6");
  const asked = wanted.trim();
  const series = useSeries(id, event, asked, Number(attempts));
  const list = series.data ?? [];
  if (!asked && list.length === 0) return null;
  return (
    <Box bg="panel" borderRadius="panel" p="12px 16px" mb="16px" data-testid="series">
      <Head>{t("Marks of the last year")}</Head>
      <Flex gap="18px" wrap="wrap" mb="10px">
        {list.map((s) => (
          <Box key={`${s.under} ${s.unit} ${s.over}`} minW="180px" flex="1 1 180px" data-under={s.under}>
            <Text fontSize="12px" color="quiet">
              {under[s.under]}
              {s.over && `, ${s.over}`}
            </Text>
            <Text fontSize="15px" fontWeight="650">
              {t("best {best} {unit}", { best: fixed(s.best, 2), unit: s.unit })}
            </Text>
            <Text fontSize="12px" color="quiet">
              {s.valid > 1
                ? t("mean {mean} ±{sd} of {valid}", { mean: fixed(s.mean, 2), sd: fixed(s.sd, 2), valid: s.valid })
                : t("a single one")}
              {s.fouls > 0 && t(", {fouls} fouls of {all}", { fouls: s.fouls, all: s.fouls + s.valid })}
            </Text>
            {s.reasons.length > 0 && (
              <Text fontSize="12px" color="quiet">
                {s.reasons.map((r) => `${r.says} ${r.n}`).join(", ")}
              </Text>
            )}
            {s.safe_first && (
              <Text fontSize="12px" color="amber">
                {t("So many fouls: a safe one first.")}
              </Text>
            )}
            {s.chance && (
              <Text fontSize="13px" data-testid="chance">
                {t("{chance} % to reach it ({lo} to {hi})", {
                  chance: fixed(100 * s.chance.chance),
                  lo: fixed(100 * s.chance.lo),
                  hi: fixed(100 * s.chance.hi),
                })}
              </Text>
            )}
            {s.why && (
              <Text fontSize="12px" color="quiet">
                {s.why}
              </Text>
            )}
          </Box>
        ))}
      </Flex>
      <Flex gap="8px" align="center" wrap="wrap">
        <Text fontSize="12px" color="quiet">
          {t("Chance of")}
        </Text>
        <Input
          name="wanted"
          aria-label={t("Mark whose chance is asked for")}
          size="sm"
          w="120px"
          value={wanted}
          maxLength={40}
          placeholder={t("a mark")}
          onChange={(e) => setWanted(e.target.value)}
        />
        <Text fontSize="12px" color="quiet">
          {t("in")}
        </Text>
        <Box w="70px">
          <Choice
            label={t("Attempts")}
            value={attempts}
            options={{ "1": "1", "3": "3", "4": "4", "6": "6" }}
            onChange={setAttempts}
          />
        </Box>
        <Text fontSize="12px" color="quiet">
          {t("attempts, by the own spread; it knows nothing of form, weather or nerves.")}
        </Text>
      </Flex>
      {series.error && (
        <Notice tone="clay" mt="8px">
          {series.error.message}
        </Notice>
      )}
    </Box>
  );
}
