import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import { useSetState } from "../queue/api";
import { useShare, useShares, useWithdraw } from "../sharing/api";
import { Choice } from "../../ui/field";
import { Notice } from "../../ui/parts";
import { day } from "../../ui/date";

/** Send makes a link for the athlete and tells what became of earlier ones. */
export function Send({ id, name }: { id: string; name: string }) {
  const shares = useShares(id);
  const share = useShare();
  const withdraw = useWithdraw();
  const state = useSetState();
  const [days, setDays] = useState("14");
  const [copied, setCopied] = useState(false);
  const link = share.data && `${location.origin}/s/${share.data.secret}`;
  const make = () =>
    share.mutate(
      { id, days: Number(days) },
      {
        onSuccess: (made) => {
          state.mutate({ id, state: "sent" });
          void navigator.clipboard?.writeText(`${location.origin}/s/${made.secret}`).then(
            () => setCopied(true),
            () => {},
          );
        },
      },
    );
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
      <Flex align="center" gap="10px">
        <Text flex="1">A link for {name}, open without an account until it ends or you take it back</Text>
        <Box w="120px">
          <Choice
            name="days"
            value={days}
            options={{ "3": "3 days", "14": "2 weeks", "30": "30 days", "90": "90 days" }}
            onChange={setDays}
          />
        </Box>
        <Button
          loading={share.isPending}
          onClick={make}
          title="Make a link and mark the attempt as sent (L)"
          data-testid="make-link"
        >
          Make a link
        </Button>
      </Flex>
      {link && (
        <Flex mt="8px" gap="8px" align="center">
          <Input readOnly value={link} data-testid="link" onFocus={(e) => e.target.select()} />
          <Text fontSize="12px" color="moss" w="170px">
            {copied ? "copied; it is shown only now" : "copy it; it is shown only now"}
          </Text>
        </Flex>
      )}
      {shares.data?.map((s) => {
        const over = s.withdrawn_at ? "taken back" : new Date(s.expires_at) < new Date() ? "ended" : "";
        return (
          <Flex key={s.id} gap="10px" fontSize="12px" mt="6px" align="baseline" data-share={s.id}>
            <Text w="110px" color="quiet">
              sent {day(s.created_at)}
            </Text>
            <Text w="150px" color={s.seen_at ? "moss" : "quiet"}>
              {s.seen_at
                ? `seen ${day(s.seen_at)}${s.seen_times > 1 ? `, ${s.seen_times} times` : ""}`
                : "not seen yet"}
            </Text>
            <Text flex="1">{s.answer && `“${s.answer}”`}</Text>
            <Text color="quiet">{over || `ends ${day(s.expires_at)}`}</Text>
            {!over && (
              <Button size="xs" h="20px" variant="ghost" onClick={() => withdraw.mutate(s.id)}>
                take back
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
