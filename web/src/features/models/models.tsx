import { Box, Button, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useRef } from "react";
import { useNavigate, useParams } from "react-router";
import type { Directions } from "../../api/client";
import { events } from "../../api/events";
import { useChangeModel, useCheckModel, useModels } from "./api";
import { useMe, useSetDirections } from "../account/api";
import { Key, Notice, Panel } from "../../ui/parts";
import { ReasonForm } from "./reason";
import { ModelPage } from "./page";
import { useTitle } from "../../ui/title";
import { usePageKeys } from "../../ui/page_keys";
import { t } from "../../texts/texts";

/** Models: every technique model as a page that a coach can read and argue with:
 * phases as a strip, what is looked at and by whom, faults with their causes. */
export default function Models() {
  useTitle(t("Models"));
  const models = useModels();
  const { id } = useParams();
  const go = useNavigate();
  const check = useCheckModel();
  const me = useMe();
  const speak = useSetDirections();
  const ids = Object.keys(events);
  const at = Math.max(0, ids.indexOf(id ?? ""));
  const held = models.data?.find((m) => m.model.id === ids[at]);
  const change = useChangeModel();
  const text = useRef("");
  const read = check.data?.model;
  const turn = (by: number) =>
    void go(`/models/${ids[Math.min(ids.length - 1, Math.max(0, at + by))]}`, { replace: true });
  usePageKeys({ ArrowDown: () => turn(1), ArrowUp: () => turn(-1), Escape: () => void go("/") });
  return (
    <Flex
      as="main"
      direction="column"
      h={{ base: "auto", md: "100vh" }}
      maxW="1280px"
      mx="auto"
      px={{ base: "12px", md: "20px" }}
    >
      <Flex minH="58px" py="6px" wrap="wrap" align="center" gap="12px" flexShrink={0}>
        <Button
          variant="ghost"
          px="4px"
          onClick={() => void go("/")}
          title={t("Back to the queue (Esc)")}
          aria-label={t("Back to the queue")}
        >
          <img src="/mark.svg" width={26} height={26} alt="" />
        </Button>
        <Text as="h1" fontSize="17px" fontWeight="700">
          {t("Models")}
        </Text>
        <Text color="quiet" fontSize="12px" display={{ base: "none", md: "block" }}>
          {t("what counts as good, where the number comes from, and what leads to what")}
        </Text>
        <Box flex="1" />
        <NativeSelect.Root size="xs" w="190px">
          <NativeSelect.Field
            aria-label={t("How directions are named")}
            value={me.data?.user?.directions}
            bg="raised"
            borderColor="seam"
            onChange={(e) => speak.mutate(e.target.value as Directions)}
          >
            <option value="degrees">{t("directions in degrees")}</option>
            <option value="clock-back">{t("clock, 12 at the back")}</option>
            <option value="clock-throw">{t("clock, 12 at the throw")}</option>
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Button size="xs" variant="outline" as="label" cursor="pointer">
          {t("Read a file")}
          <input
            type="file"
            accept=".yaml,.yml"
            data-testid="model-file"
            style={{ position: "absolute", width: 1, height: 1, opacity: 0 }}
            onChange={(e) =>
              void e.target.files?.[0]
                ?.text()
                .then((t) => check.mutate((text.current = t)))
                .finally(() => (e.target.value = ""))
            }
          />
        </Button>
        <Text color="quiet" fontSize="12px">
          <Key>↑</Key> <Key>↓</Key> {t("next event")}
        </Text>
      </Flex>
      {models.error && <Notice tone="clay">{models.error.message}</Notice>}
      {check.error && <Notice tone="clay">{check.error.message}</Notice>}
      {check.data && !check.data.model && (
        <Panel p="10px 14px" mb="10px" maxH="40vh" overflowY="auto" data-testid="mistakes">
          <Flex mb="4px">
            <Text fontWeight="650" flex="1">
              {t("{which} wrong in this file. Mend them and read it again.", {
                which:
                  check.data.mistakes.length === 1
                    ? t("One thing is")
                    : t("{count} things are", { count: check.data.mistakes.length }),
              })}
            </Text>
            <Button size="xs" variant="ghost" onClick={() => check.reset()}>
              {t("Close")}
            </Button>
          </Flex>
          {check.data.mistakes.map((m, i) => (
            <Flex key={i} gap="10px" fontSize="12.5px">
              <Text color="amber" w="62px" flexShrink={0}>
                {t("line {line}", { line: m.line })}
              </Text>
              <Text>
                {m.says}{" "}
                <Text as="span" color="quiet">
                  {m.path}
                </Text>
              </Text>
            </Flex>
          ))}
        </Panel>
      )}
      {read && (
        <Box mb="10px">
          <Notice tone="moss" mb="6px">
            <Text flex="1">
              {t("This file is a sound model of {name}, version {version}. It is shown below and not kept yet.", {
                name: read.name.toLowerCase(),
                version: read.version,
              })}
            </Text>
            <Button size="xs" variant="ghost" h="18px" onClick={() => check.reset()}>
              {t("Close")}
            </Button>
          </Notice>
          <ReasonForm
            says={t("Keep it as your team's model")}
            busy={change.isPending}
            error={change.error}
            onKeep={(reason) =>
              change.mutate(
                {
                  id: read.id,
                  body: { base: models.data?.find((m) => m.model.id === read.id)?.n ?? 0, reason, text: text.current },
                },
                { onSuccess: () => (check.reset(), void go(`/models/${read.id}`, { replace: true })) },
              )
            }
          />
        </Box>
      )}
      <Flex flex="1" minH="0" gap="12px" pb="16px" direction={{ base: "column", md: "row" }}>
        <Panel
          w={{ base: "100%", md: "190px" }}
          p="8px"
          flexShrink={0}
          overflow="auto"
          as="nav"
          display={{ base: "flex", md: "block" }}
          aria-label={t("Events")}
        >
          {ids.map((e, i) => (
            <Button
              key={e}
              variant="ghost"
              w={{ base: "auto", md: "100%" }}
              flexShrink={0}
              justifyContent="flex-start"
              h="34px"
              px="10px"
              bg={i === at ? "raised" : undefined}
              fontWeight={i === at ? "650" : "400"}
              onClick={() => void go(`/models/${e}`, { replace: true })}
              data-model={e}
            >
              {events[e as keyof typeof events]}
            </Button>
          ))}
        </Panel>
        {read ? (
          <ModelPage key="file" model={read} />
        ) : (
          held && <ModelPage key={held.model.id + held.n} model={held.model} held={held} />
        )}
      </Flex>
    </Flex>
  );
}
