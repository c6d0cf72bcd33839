import { Box, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import { Link as RouterLink } from "react-router";
import type { Workspace } from "../../api/client";
import { useRefresh } from "../../api/topic";
import { Modal } from "../../ui/modal";
import { Key } from "../../ui/parts";
import { useLibrary } from "../compare/api";
import { useLines } from "../queue/api";
import { DropArea } from "../uploads/droparea";
import { send } from "../uploads/uploads";
import { shortcuts } from "./shortcuts";
import { t } from "../../texts/texts";
import { capOf } from "../../settings/keys";

/** Others are the attempts that this one can be held beside: the same athlete's
 * first, then those of others at the same event, and another view of the same. */
export function Others({ sheet, onClose }: { sheet: Workspace; onClose(): void }) {
  const [find, setFind] = useState("");
  const lines = useLines(sheet.attempt.event, find);
  const library =
    useLibrary().data?.filter((r) => r.event === sheet.attempt.event && r.attempt_id !== sheet.attempt.id) ?? [];
  const mine = (a: { athlete_id: string }) => (a.athlete_id === sheet.attempt.athlete_id ? 0 : 1);
  const list = (lines.data?.lines ?? [])
    .filter((q) => q.id !== sheet.attempt.id && q.clips > 0)
    .sort((x, y) => mine(x) - mine(y) || y.done_on.localeCompare(x.done_on));
  return (
    <Modal title={t("Compare with")} open onClose={onClose}>
      <Box data-testid="others" maxH="60vh" overflowY="auto">
        {sheet.clips.filter((c) => c.state === "ready").length > 1 && (
          <RouterLink
            to={`/beside/${sheet.attempt.id}/${sheet.attempt.id}`}
            style={{ display: "block", padding: "6px 0" }}
          >
            {t("the other view of this attempt")}
          </RouterLink>
        )}
        <RouterLink
          to={`/beside/${sheet.attempt.id}/model`}
          data-reference="model"
          style={{ display: "block", padding: "6px 0" }}
        >
          <b>{t("the simulated reference")}</b>{" "}
          <span style={{ color: "var(--chakra-colors-quiet)" }}>
            {t("the model without a fault, with this athlete’s body")}
          </span>
        </RouterLink>
        <RouterLink
          to={`/against/${sheet.attempt.id}`}
          data-reference="points"
          style={{ display: "block", padding: "6px 0" }}
        >
          <b>{t("points from elsewhere")}</b>{" "}
          <span style={{ color: "var(--chakra-colors-quiet)" }}>
            {t("a laboratory’s or another program’s, as COCO keypoints or C3D; ours go out there too")}
          </span>
        </RouterLink>
        {library.map((r) => (
          <RouterLink
            key={r.attempt_id}
            to={`/beside/${sheet.attempt.id}/${r.attempt_id}`}
            data-reference={r.attempt_id}
            style={{ display: "block", padding: "6px 0" }}
          >
            <b>{r.name}</b>{" "}
            <span style={{ color: "var(--chakra-colors-quiet)" }}>
              {[t("library"), r.athlete, r.mark].filter(Boolean).join(" · ")}
            </span>
          </RouterLink>
        ))}
        {(lines.data?.total ?? 0) > 20 || find ? (
          <Input
            size="sm"
            my="6px"
            aria-label={t("Search attempts")}
            placeholder={t("search by athlete, session or mark")}
            value={find}
            onChange={(e) => setFind(e.target.value)}
          />
        ) : null}
        {list.map((q) => (
          <RouterLink
            key={q.id}
            to={`/beside/${sheet.attempt.id}/${q.id}`}
            data-other={q.id}
            style={{ display: "block", padding: "6px 0" }}
          >
            <b>{q.athlete}</b>{" "}
            <span style={{ color: "var(--chakra-colors-quiet)" }}>
              {[q.mark, q.session, q.done_on].filter(Boolean).join(" · ")}
            </span>
          </RouterLink>
        ))}
        {lines.data && list.length === 0 && sheet.clips.length < 2 && (
          <Text color="quiet">{t("There is no other attempt at this event with a clip yet.")}</Text>
        )}
      </Box>
    </Modal>
  );
}

/** KeySheet lists the keys. */
export const KeySheet = ({ onClose }: { onClose(): void }) => (
  <Modal title={t("Keys")} open onClose={onClose}>
    <Box display="grid" gridTemplateColumns="130px 1fr" gap="5px" fontSize="13px">
      {shortcuts.map(({ show, does }) => (
        <Box key={show} display="contents">
          <Text>
            {show.split(" ").map((x) => (
              <Box as="span" key={x} mr="3px">
                <Key>{x.length === 1 ? capOf(x.toLowerCase()) : x}</Key>
              </Box>
            ))}
          </Text>
          <Text>{does}</Text>
        </Box>
      ))}
    </Box>
  </Modal>
);

/** AddClip takes one more clip of the attempt. */
export function AddClip({ attempt, onClose }: { attempt: string; onClose(): void }) {
  const refresh = useRefresh();
  return (
    <Modal title={t("Add a clip to this attempt")} open onClose={onClose}>
      <DropArea
        files={[]}
        onFiles={(f) => {
          onClose();
          send(attempt, f, () => refresh("queue", "workspace"));
        }}
      />
    </Modal>
  );
}
