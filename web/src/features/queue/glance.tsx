import { Box, Button, Flex, Text } from "@chakra-ui/react";
import type { QueueItem } from "../../api/client";
import { frameURL, posterURL } from "../../api/media";
import { useGlance } from "./api";
import { useLibrary, useSetReference } from "../compare/api";
import { Key, Notice } from "../../ui/parts";
import { t } from "../../texts/texts";

const most = 8;

/** Glance is the quick look at one attempt: its key positions as small pictures, its
 * mark and what the tool found, to pick the one of five that is worth the time. */
export function Glance({ i }: { i: QueueItem }) {
  const look = useGlance(i.id);
  const library = useLibrary();
  const shelve = useSetReference();
  const own = library.data?.find((r) => r.attempt_id === i.id);
  if (look.error) return <Notice tone="clay">{look.error.message}</Notice>;
  const s = look.data;
  // Spread over the movement when there are more than fit.
  const moments = s?.moments ?? [];
  const step = Math.max(1, moments.length / most);
  const shown = Array.from({ length: Math.min(most, moments.length) }, (_, k) => moments[Math.floor(k * step)]);
  const name = () => {
    const typed = prompt(
      t("Name in the library, such as “her best of May”; empty takes it out"),
      own?.name ?? `${i.athlete}, ${i.mark}`,
    );
    if (typed !== null && (typed.trim() || own)) shelve.mutate({ id: i.id, name: typed.trim() });
  };
  return (
    <Box bg="panel" borderRadius="panel" p="12px 14px" data-glance={i.id} data-moments={shown.length}>
      <Flex gap="10px" align="baseline" mb="8px">
        <Text fontWeight="650">
          {i.athlete} {i.mark && `· ${i.mark}`}
          {i.foul && t(" · foul: {foul}", { foul: i.foul })}
        </Text>
        <Text color="quiet" flex="1" fontSize="12px" truncate>
          {s?.findings.length
            ? s.findings.map((f) => f.name).join(" · ")
            : s && !moments.length
              ? t("not analysed yet: draft it on the Bench")
              : s
                ? t("no certain fault found")
                : ""}
        </Text>
        <Button size="xs" variant="ghost" onClick={name} title={t("Keep it as a reference")}>
          {own ? t("In the library: {name}", { name: own.name }) : t("Add to the library")}
        </Button>
        <Text fontSize="11.5px" color="quiet">
          <Key>{t("Space")}</Key> {t("close")}
        </Text>
      </Flex>
      <Flex gap="6px" overflowX="auto" tabIndex={0} role="group" aria-label={t("Key positions")}>
        {shown.map((m) => (
          <Box key={`${m.name}${m.frame}`} w="148px" flexShrink={0}>
            <img
              src={frameURL(s!.clip_id!, m.frame, 296)}
              alt=""
              loading="lazy"
              style={{ width: 148, height: 84, objectFit: "cover", borderRadius: 4, background: "#000" }}
            />
            <Text fontSize="11px" truncate>
              {m.name}
            </Text>
          </Box>
        ))}
        {!shown.length && (s?.clip_id ?? i.poster) && (
          <img src={posterURL((s?.clip_id ?? i.poster)!)} alt="" style={{ height: 110, borderRadius: 4 }} />
        )}
      </Flex>
    </Box>
  );
}
