import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useRefresh } from "../../api/topic";
import { useEffect, useEffectEvent, useState } from "react";
import type { Planned } from "../../api/client";
import { events, type EventID } from "../../api/events";
import { useAddAttempt } from "../queue/api";
import { useAthletes } from "../athlete/api";
import { usePlanFolder } from "./api";
import { Notice } from "../../ui/parts";
import { Choice } from "../../ui/field";
import { send } from "./uploads";
import { t } from "../../texts/texts";

type Row = Planned & { file: File; skip: boolean };
const video = /\.(mp4|mov|m4v|webm|mkv|avi)$/i;
const path = (f: File) => f.webkitRelativePath || f.name;

/** Folder takes many clips at once: names, dates and marks are read from their names,
 * attempts from their times; the coach corrects the table and sends all. */
export function Folder({ files, onDone }: { files: File[]; onDone(): void }) {
  const clips = files.filter((f) => video.test(f.name));
  const plan = usePlanFolder();
  const athletes = useAthletes();
  const add = useAddAttempt();
  const refresh = useRefresh();
  const [rows, setRows] = useState<Row[]>([]);
  const [trouble, setTrouble] = useState("");
  const ask = useEffectEvent(() => {
    if (!clips.length) return;
    plan.mutate(
      clips.slice(0, 500).map((f) => ({ name: path(f), modified: new Date(f.lastModified).toISOString() })),
      {
        onSuccess: (list) =>
          setRows(list.map((p, i) => ({ ...p, event: p.event || "sprint-start", file: clips[i], skip: false }))),
      },
    );
  });
  useEffect(() => ask(), []);
  const set = (i: number, c: Partial<Row>) => setRows(rows.map((r, k) => (k === i ? { ...r, ...c } : r)));
  const people = Object.fromEntries((athletes.data ?? []).map((a) => [a.id, a.name]));
  const ready = rows.filter((r) => !r.skip && r.athlete_id);
  const open = rows.filter((r) => !r.skip && !r.athlete_id).length;
  const take = async () => {
    for (const r of ready) {
      try {
        const id =
          r.attempt_id ??
          (
            await add.mutateAsync({
              athlete_id: r.athlete_id!,
              event: r.event as EventID,
              done_on: r.done_on,
              session: "",
              place: "",
              mark: r.mark,
              implement: "",
              condition: "fresh",
              setting: "practice",
              coach_focus: "",
              injury_note: "",
              taken_at: new Date(r.file.lastModified).toISOString(),
            })
          ).id;
        send(id, [r.file], () => refresh("queue"));
      } catch (e) {
        // What was sent is out of the table, the rest stays.
        setRows((all) => all.slice(all.indexOf(r)));
        return setTrouble((e as Error).message);
      }
    }
    onDone();
  };
  if (!clips.length) return <Notice>{t("There is no video in this folder (MP4, MOV, WebM).")}</Notice>;
  return (
    <Box data-testid="folder">
      {plan.error && <Notice tone="clay">{plan.error.message}</Notice>}
      <Box maxH="56vh" overflowY="auto" mb="12px">
        {rows.map((r, i) => {
          return (
            <Flex
              key={path(r.file)}
              gap="8px"
              align="center"
              py="3px"
              opacity={r.skip ? 0.4 : 1}
              data-file={r.file.name}
            >
              <Text w="230px" fontSize="12px" truncate title={path(r.file)}>
                {path(r.file)}
              </Text>
              <Box w="180px">
                <Choice
                  value={r.athlete_id ?? ""}
                  options={{ ...(r.athlete_id ? {} : { "": t("whose?") }), ...people }}
                  onChange={(v) => set(i, { athlete_id: v || undefined, attempt_id: undefined })}
                />
              </Box>
              {r.attempt_id ? (
                <Text flex="1" fontSize="12px" color="moss">
                  {t("the attempt")} {r.of} {t("of that minute")}
                </Text>
              ) : (
                <Flex flex="1" gap="6px">
                  <Box w="150px">
                    <Choice value={r.event} options={events} onChange={(v) => set(i, { event: v })} />
                  </Box>
                  <Input
                    w="140px"
                    type="date"
                    value={r.done_on}
                    onChange={(e) => set(i, { done_on: e.target.value })}
                  />
                  <Input
                    w="110px"
                    value={r.mark}
                    placeholder={t("mark")}
                    maxLength={40}
                    onChange={(e) => set(i, { mark: e.target.value })}
                  />
                </Flex>
              )}
              <Button size="xs" variant="ghost" onClick={() => set(i, { skip: !r.skip })}>
                {r.skip ? t("Take") : t("Leave out")}
              </Button>
            </Flex>
          );
        })}
      </Box>
      {trouble && (
        <Notice tone="clay" mb="8px">
          {trouble}
        </Notice>
      )}
      <Flex align="center" gap="10px">
        <Text flex="1" fontSize="12px" color={open ? "amber" : "quiet"}>
          {open
            ? t("{open} still without an athlete", { open })
            : t("Names, days and marks were read from the files; attempts typed in that day were found by the minute.")}
        </Text>
        <Button disabled={!ready.length} loading={add.isPending} onClick={() => void take()}>
          {t("Take {count} in", { count: ready.length })}
        </Button>
      </Flex>
    </Box>
  );
}
