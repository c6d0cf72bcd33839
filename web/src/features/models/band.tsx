import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Checkpoint, Model } from "../../api/client";
import { useAthletes } from "../athlete/api";
import { goal, tolerated } from "../../ui/numbers";
import { readNumber } from "../../ui/decimal";
import { t } from "../../texts/texts";

export type Band = Checkpoint["band"];

export function BandOf({ cp, was, onBand }: { cp: Checkpoint; was?: Checkpoint; onBand?: (b: Band) => void }) {
  const [open, setOpen] = useState(false);
  const differs = was && (was.band.lo !== cp.band.lo || was.band.hi !== cp.band.hi);
  if (open && onBand) return <BandForm cp={cp} onDone={(b) => (b && onBand(b), setOpen(false))} />;
  return (
    <Text fontWeight="600" whiteSpace="nowrap">
      {onBand ? (
        <Box
          as="button"
          cursor="pointer"
          textDecoration="underline dotted"
          textUnderlineOffset="3px"
          onClick={() => setOpen(true)}
          title={t("Change this band")}
          data-band={cp.id}
        >
          {goal(cp)}
        </Box>
      ) : (
        goal(cp)
      )}
      {cp.tolerated && (
        <Text as="span" fontWeight="400" fontSize="11px" color="quiet">
          {" "}
          {tolerated(cp)}
        </Text>
      )}
      {differs && (
        <Text as="span" fontWeight="400" fontSize="11px" color="amber">
          {" "}
          {t("shipped: {was}", { was: goal(was) })}
        </Text>
      )}
    </Text>
  );
}

export function BandForm({ cp, onDone }: { cp: Checkpoint; onDone(b?: Band): void }) {
  const [lo, setLo] = useState(cp.band.lo?.toString() ?? "");
  const [hi, setHi] = useState(cp.band.hi?.toString() ?? "");

  const [a, b] = [readNumber(lo), readNumber(hi)];
  const wrong =
    Number.isNaN(a) || Number.isNaN(b)
      ? t("Give numbers.")
      : a !== undefined && b !== undefined && a >= b
        ? t("The lower end must lie below the upper one.")
        : "";
  return (
    <Flex
      as="form"
      gap="4px"
      align="center"
      onSubmit={(e) => {
        e.preventDefault();
        if (!wrong) onDone({ lo: a, hi: b });
      }}
    >
      {wrong && (
        <Text fontSize="11px" color="clay">
          {wrong}
        </Text>
      )}
      <Input
        size="2xs"
        w="58px"
        value={lo}
        onChange={(e) => setLo(e.target.value)}
        aria-label={t("from")}
        placeholder={t("from")}
        autoFocus
      />
      <Input
        size="2xs"
        w="58px"
        value={hi}
        onChange={(e) => setHi(e.target.value)}
        aria-label={t("to")}
        placeholder={t("to")}
      />
      <Text fontSize="11px">{cp.unit}</Text>
      <Button size="2xs" type="submit" disabled={!!wrong}>
        {t("Set")}
      </Button>
      <Button size="2xs" variant="ghost" onClick={() => onDone()}>
        {t("Leave")}
      </Button>
    </Flex>
  );
}

/** Adjusted lists bands that hold for some only. */
export function Adjusted({ model }: { model: Model }) {
  const athletes = useAthletes();
  return (
    <Box mt="10px" fontSize="12px" data-testid="adjusted">
      {model.adjusted!.map((a) => {
        const c = model.checkpoints.find((x) => x.id === a.checkpoint);
        return (
          <Text key={[a.checkpoint, a.under, a.years, a.athlete].join()}>
            {a.athlete
              ? (athletes.data?.find((x) => x.id === a.athlete)?.name ?? t("an athlete who has left"))
              : [
                  a.under && t("under {under}", { under: a.under }),
                  a.years && t("first {years} years of the event", { years: a.years }),
                ]
                  .filter(Boolean)
                  .join(", ")}
            : {c?.name} {c && goal({ ...c, band: a.band })}{" "}
            <Text as="span" color="quiet">
              {a.reason}
            </Text>
          </Text>
        );
      })}
    </Box>
  );
}
