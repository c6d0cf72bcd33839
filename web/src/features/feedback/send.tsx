import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import { Link as RouterLink } from "react-router";
import { andThen } from "../../api/topic";
import { useSetState } from "../queue/api";
import { useShare, useShares, useWithdraw } from "../sharing/api";
import { Choice } from "../../ui/field";
import { Notice } from "../../ui/parts";
import { day } from "../../ui/written";
import { t } from "../../texts/texts";

/** Send makes a link for the athlete and tells what became of earlier ones. A page without a cue
 * is not sent by one press. */
export function Send({ id, name, empty }: { id: string; name: string; empty: boolean }) {
  const shares = useShares(id);
  const share = useShare();
  const withdraw = useWithdraw();
  const state = useSetState();
  const [days, setDays] = useState("14");
  const [copied, setCopied] = useState(false);
  const [doubted, setDoubted] = useState(false);
  const link = share.data && `${location.origin}/s/${share.data.secret}`;
  const make = () => {
    setDoubted(false);
    andThen(share.mutateAsync({ id, days: Number(days) }), (made) => {
      state.mutate({ id, state: "sent" });
      void navigator.clipboard?.writeText(`${location.origin}/s/${made.secret}`).then(
        () => setCopied(true),
        () => {},
      );
    });
  };
  return (
    <Box
      className="screen"
      bg="panel"
      borderRadius="panel"
      maxW="860px"
      mx="auto"
      mb="12px"
      p="12px 16px"
      data-testid="send"
    >
      <Flex align="center" gap="10px" wrap="wrap">
        <Text flex="1 1 240px">
          {t("A link for {name}: no account needed; it ends by itself or when you revoke it", { name })}
        </Text>
        <Box w="120px">
          <Choice
            name="days"
            label={t("How long the link holds")}
            value={days}
            options={{ "3": t("3 days"), "14": t("2 weeks"), "30": t("30 days"), "90": t("90 days") }}
            onChange={setDays}
          />
        </Box>
        <Button
          loading={share.isPending}
          onClick={() => (empty ? setDoubted(true) : make())}
          title={t("Make a link and mark the attempt as sent (L)")}
          data-testid="make-link"
        >
          {t("Make a link")}
        </Button>
      </Flex>
      {doubted && (
        <Notice mt="8px" data-testid="no-cue">
          <Text flex="1">
            {t("There is no cue on this page yet: {split} would read only what was measured.", {
              split: name.split(" ")[0],
            })}
          </Text>
          <Button size="xs" asChild>
            <RouterLink to={`/attempt/${id}`}>{t("Choose a cue")}</RouterLink>
          </Button>
          <Button size="xs" variant="outline" onClick={make}>
            {t("Send without a cue")}
          </Button>
        </Notice>
      )}
      {link && (
        <Flex mt="8px" gap="8px" align="center">
          <Input
            readOnly
            autoFocus
            aria-label={t("Link for {name}", { name })}
            value={link}
            data-testid="link"
            onFocus={(e) => e.target.select()}
          />
          <Text fontSize="12px" color="moss" w="210px" role="status">
            {copied ? t("Copied. The link is shown only once.") : t("Copy it now: the link is shown only once.")}
          </Text>
        </Flex>
      )}
      {shares.data?.map((s) => {
        const over = s.withdrawn_at ? t("revoked") : new Date(s.expires_at) < new Date() ? t("ended") : "";
        return (
          <Flex key={s.id} gap="10px" fontSize="12px" mt="6px" align="baseline" data-share={s.id}>
            <Text w="110px" color="quiet">
              {t("sent {createdAt}", { createdAt: day(s.created_at) })}
            </Text>
            <Text w="150px" color={s.seen_at ? "moss" : "quiet"}>
              {s.seen_at
                ? t("seen {seenAt}{which}", {
                    seenAt: day(s.seen_at),
                    which: s.seen_times > 1 ? t(", {seenTimes} times", { seenTimes: s.seen_times }) : "",
                  })
                : t("not seen yet")}
            </Text>
            <Text flex="1">{s.answer && `“${s.answer}”`}</Text>
            <Text color="quiet">{over || t("ends {expiresAt}", { expiresAt: day(s.expires_at) })}</Text>
            {!over && (
              <Button size="xs" h="20px" variant="ghost" onClick={() => withdraw.mutate(s.id)}>
                {t("Revoke")}
              </Button>
            )}
          </Flex>
        );
      })}
      {(share.error ?? withdraw.error) && (
        <Notice tone="clay" mt="8px">
          {(share.error ?? withdraw.error)!.message}
        </Notice>
      )}
    </Box>
  );
}
