import { Box, Button, Text } from "@chakra-ui/react";
import { Head } from "../../ui/parts";
import { t } from "../../texts/texts";
import { useAgree, useAskForEye, useAthleteEye, useSharing } from "./api";
import { Worth } from "./worth";

/** Agree lets an athlete show the coach what the eye is worth. */
export function Agree() {
  const sharing = useSharing(true);
  const agree = useAgree();
  if (!sharing.data) return null;
  const { asked, agreed } = sharing.data;
  return (
    <Box mt="14px" data-testid="agree">
      <label style={{ display: "flex", gap: 8, alignItems: "center", minHeight: 44 }}>
        <input type="checkbox" checked={agreed} onChange={(e) => agree.mutate(e.target.checked)} />
        {t("My coach may see what my eye is worth")}
      </label>
      <Text fontSize="12px" color="quiet">
        {asked
          ? t("Your coach has asked for it.")
          : t("Your coach has not asked for it; it is shown only when both want it.")}
      </Text>
    </Box>
  );
}

/** AthleteEye is for the coach: asks for it, and shows it when the athlete agrees. */
export function AthleteEye({ id }: { id: string }) {
  const shared = useAthleteEye(id);
  const ask = useAskForEye(id);
  if (!shared.data) return null;
  const { asked, agreed, eye } = shared.data;
  return (
    <Box mt="14px" data-testid="athlete-eye">
      <Head>{t("The athlete’s eye")}</Head>
      {!eye && (
        <Text fontSize="12.5px" color="quiet" mb="6px">
          {asked
            ? t("Asked for; the athlete has not agreed.")
            : agreed
              ? t("The athlete would show it.")
              : t("Shown when you ask for it and the athlete agrees.")}
        </Text>
      )}
      <Button size="xs" variant="outline" onClick={() => ask.mutate(!asked)}>
        {asked ? t("No longer ask for it") : t("Ask for it")}
      </Button>
      {eye && (
        <Box mt="10px">
          <Worth eye={eye} title={t("As the athlete reads it")} />
        </Box>
      )}
    </Box>
  );
}
