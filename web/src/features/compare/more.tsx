import { Button, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useLines } from "../queue/api";
import { Player, usePlayer } from "../workspace/stage/player";
import { Notice } from "../../ui/parts";
import type { Comparison } from "../../api/client";
import { useFollow, usePlayerOf } from "./players";
import { asked, most } from "./question";
import { Side } from "./side";
import { t } from "../../texts/texts";

/** AddPicture adds one more of the same event. */
export function AddPicture({ found, more, onAdd }: { found: Comparison; more: string[]; onAdd(id: string): void }) {
  const lines = useLines(found.a.attempt.event, "");
  const there = [found.a.attempt.id, found.b.attempt.id, ...more];
  const list = (lines.data?.lines ?? []).filter((q) => q.clips > 0 && !there.includes(q.id));
  if (more.length + 1 >= most) return null;
  return (
    <NativeSelect.Root size="xs" w="118px">
      <NativeSelect.Field
        value=""
        bg="raised"
        borderColor="seam"
        aria-label={t("One more to compare")}
        onChange={(e) => (e.target.value && onAdd(e.target.value), e.target.blur())}
      >
        <option value="">{t("one more …")}</option>
        {!found.reference && !more.includes("model") && <option value="model">{t("the simulated reference")}</option>}
        {list.map((q) => (
          <option key={q.id} value={q.id}>
            {[q.athlete, q.mark, q.done_on].filter(Boolean).join(" · ")}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
}

/** MorePicture is a third or fourth picture, held against the first like the second. */
export function MorePicture({
  a,
  clipA,
  b,
  at,
  one,
  bones,
  name,
  onRemove,
}: {
  a: string;
  clipA: string;
  b: string;
  at: string;
  one: Player;
  bones: boolean;
  name: string;
  onRemove(): void;
}) {
  const [clipB, setClipB] = useState<string>();
  const found = useQuery(asked(a, b, { at, clip_a: clipA, clip_b: clipB }));
  if (!found.data)
    return (
      <Notice tone={found.error ? "clay" : "amber"} alignSelf="start">
        <Text flex="1">{found.error?.message ?? t("Opening …")}</Text>
        <Button size="2xs" variant="outline" onClick={onRemove}>
          {t("Cancel")}
        </Button>
      </Notice>
    );
  return (
    <ComparedPicture found={found.data} one={one} bones={bones} name={name} onClip={setClipB} onRemove={onRemove} />
  );
}

function ComparedPicture({
  found,
  one,
  bones,
  name,
  onClip,
  onRemove,
}: {
  found: Comparison;
  one: Player;
  bones: boolean;
  name: string;
  onClip(id: string): void;
  onRemove(): void;
}) {
  const clip = found.b.clips.find((c) => c.id === found.clip_b)!;
  const player = usePlayerOf(clip);
  const { frame } = usePlayer(one, (s) => s);
  useFollow(one, player, found.match);
  return (
    <Side
      sheet={found.b}
      clip={clip}
      report={found.report_b}
      player={player}
      bones={bones}
      flip={found.mirrored}
      missing={(found.match[frame] ?? -1) < 0}
      overlays={() => []}
      onClip={onClip}
      onRemove={onRemove}
      name={name}
    />
  );
}
