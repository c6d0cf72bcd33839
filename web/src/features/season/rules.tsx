import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { PlanRule } from "../../api/client";
import { NumberField } from "../../ui/decimal";
import { Choice, Named } from "../../ui/field";
import { Head, Notice } from "../../ui/parts";
import { written } from "../../ui/written";
import { t } from "../../texts/texts";

/** Rules lists what the plan goes by; each can be changed with a reason, for an athlete or the team. */
export function Rules({
  rules,
  name,
  error,
  onSet,
}: {
  rules: PlanRule[];
  name: string;
  error?: string;
  /** an empty reason brings back what it comes with */
  onSet(r: PlanRule, value: number, reason: string, team: boolean): void;
}) {
  const [open, setOpen] = useState("");
  const groups = [...new Set(rules.map((r) => r.group))];
  return (
    <Box data-testid="rules">
      <Text fontSize="12.5px" color="quiet" mb="10px">
        {t(
          "Common practice, where nothing else is said. Change what is not so for you, and say why: the plan is made anew at once.",
        )}
      </Text>
      {error && (
        <Notice tone="clay" mb="8px">
          {error}
        </Notice>
      )}
      {groups.map((g) => (
        <Box key={g} mb="14px">
          <Head>{g}</Head>
          {rules
            .filter((r) => r.group === g)
            .map((r) => (
              <Box key={r.id} py="3px" borderTop="1px solid" borderColor="seam" data-rule={r.id}>
                <Flex gap="10px" align="center">
                  <Box flex="1" minW="0">
                    <Text fontSize="13px">{r.name}</Text>
                    <Text fontSize="11.5px" color={r.reason ? "amber" : "quiet"}>
                      {r.reason
                        ? t("{reason} ({whose}; it comes as {value})", {
                            reason: r.reason,
                            whose: r.own ? name : t("whole team"),
                            value: written(`${r.value}`),
                          })
                        : r.says}
                    </Text>
                  </Box>
                  <Button
                    size="xs"
                    variant="outline"
                    minW="72px"
                    aria-label={t("{value}: change “{name}”", {
                      value: `${written(`${r.now}`)} ${r.unit}`.trim(),
                      name: r.name,
                    })}
                    onClick={() => setOpen(open === r.id ? "" : r.id)}
                  >
                    {written(`${r.now}`)} {r.unit}
                  </Button>
                </Flex>
                {open === r.id && (
                  <Change
                    r={r}
                    name={name}
                    onSet={(value, reason, team) => {
                      onSet(r, value, reason, team);
                      setOpen("");
                    }}
                  />
                )}
              </Box>
            ))}
        </Box>
      ))}
    </Box>
  );
}

function Change({
  r,
  name,
  onSet,
}: {
  r: PlanRule;
  name: string;
  onSet(value: number, reason: string, team: boolean): void;
}) {
  const [value, setValue] = useState<number | undefined>(r.now);
  const [reason, setReason] = useState(r.reason ?? "");
  const [team, setTeam] = useState("own");
  const fits = value !== undefined && value >= r.lo && value <= r.hi;
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        if (fits) onSet(value, reason.trim(), team === "team");
      }}
    >
      <Flex gap="8px" wrap="wrap" align="flex-end" py="6px">
        <Box w="86px">
          <Named name={t("{lo} to {hi}", { lo: written(`${r.lo}`), hi: written(`${r.hi}`) })}>
            <NumberField name="value" size="sm" value={value} least={r.lo} most={r.hi} onValue={setValue} />
          </Named>
        </Box>
        <Box flex="1 1 180px">
          <Named name={t("Why it is another")}>
            <Input name="reason" size="sm" value={reason} maxLength={300} onChange={(e) => setReason(e.target.value)} />
          </Named>
        </Box>
        <Box w="150px">
          <Choice
            name="whose"
            label={t("For whom")}
            value={team}
            options={{ own: name, team: t("whole team") }}
            onChange={setTeam}
          />
        </Box>
        <Button type="submit" size="sm" disabled={!fits || reason.trim().length < 3}>
          {t("Keep")}
        </Button>
        {r.reason && (
          <Button type="button" size="sm" variant="ghost" onClick={() => onSet(r.value, "", !r.own)}>
            {t("As it comes")}
          </Button>
        )}
      </Flex>
    </form>
  );
}
