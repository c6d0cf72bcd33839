import { Button, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Workspace } from "../../api/client";
import { Notice } from "../../ui/parts";
import { useRejudge } from "./api";
import { t } from "../../texts/texts";

/** Rejudge offers the newer version of the model and says what it changed. */
export function Rejudge({ attempt, newer }: { attempt: string; newer?: Workspace["newer"] }) {
  const act = useRejudge();
  const [done, setDone] = useState<Awaited<ReturnType<typeof act.mutateAsync>>>();
  if (!newer && !done) return null;
  const list = done && [
    ...done.verdicts.map((v) => `${v.name}: ${v.before} → ${v.after}`),
    ...done.gone.map((f) => `gone: ${f}`),
    ...done.come.map((f) => t("now there: {f}", { f })),
  ];
  return (
    <Notice tone={act.error ? "clay" : "amber"} m="8px 16px 0" data-testid="rejudge">
      <Text flex="1">
        {act.error
          ? act.error.message
          : list
            ? list.length
              ? t("Re-evaluated. {list}", { list: list.join(" · ") })
              : t("Re-evaluated; no verdict changed.")
            : t(
                "Your team has changed this model since ({reason}). This attempt keeps the version by which it was judged.",
                { reason: newer!.reason },
              )}
      </Text>
      {!done && (
        <Button
          size="2xs"
          variant="outline"
          loading={act.isPending}
          onClick={() => void act.mutateAsync(attempt).then(setDone, () => {})}
        >
          {t("Re-evaluate")}
        </Button>
      )}
    </Notice>
  );
}
