import { Box, Button, Flex, Input, NativeSelect, Text } from "@chakra-ui/react";
import { useState } from "react";
import { Link as RouterLink } from "react-router";
import type { Attempt, Clip, Model } from "../../../api/client";
import { type EventID, events } from "../../../api/events";
import { useAnswerClip, useClipAction } from "../api";
import { useChangeAttempt } from "../../queue/api";
import { Head, Label, Notice } from "../../../ui/parts";
import { useOpenClip } from "../context";
import { usePlayer } from "../stage/player";
import { useDraft } from "../../../ui/draft";
import { readNumber } from "../../../ui/decimal";
import { t } from "../../../texts/texts";
import { fixed } from "../../../ui/written";
import { word } from "../../../texts/words";

const candidates = [30, 50, 60, 120, 240];

/** ClipPanel: what the file says of itself, what the coach must say of it, and
 * what the material cannot carry. */
export function ClipPanel() {
  const { sheet, model, clip, clipWork: work, evaluation, report, player, state, dispatch, edit } = useOpenClip();
  const { attempt } = sheet;
  const { core } = evaluation;
  const scaling = state.mode.is === "scaling";
  const onScaling = (metres: number | null) => dispatch({ type: "scale", metres });
  const answer = useAnswerClip();
  const act = useClipAction();
  const frame = usePlayer(player, (s) => s.frame);
  const [contact, setContact] = useState<[number | null, number | null]>([null, null]);
  const [rate, setRate] = useDraft(clip.capture_rate ? String(clip.capture_rate) : "");
  const [metres, setMetres] = useState("");
  const put = (change: Partial<{ capture_rate: number; view: Clip["view"]; direction: -1 | 0 | 1 }>) =>
    answer.mutate({
      id: clip.id,
      body: { capture_rate: clip.capture_rate, view: clip.view, direction: clip.direction as -1 | 0 | 1, ...change },
    });
  const on = contact[0] ?? work.flags.td1;
  const off = contact[1] ?? work.flags.to1;
  const typed = readNumber(rate) ?? NaN;
  const rates = [...new Set([...candidates, ...(typed > 0 ? [typed] : [])])].sort((a, b) => a - b);
  const guesses =
    core && clip.stamps.length > 1
      ? core.rates({ stamps: clip.stamps, file_rate: clip.file_rate, on: on ?? 0, off: off ?? 0, rates }).hypotheses
      : [];
  const length = clip.capture_rate ? ((clip.stamps.at(-1) ?? 0) / 90000) * (clip.file_rate / clip.capture_rate) : null;
  const rateFrom = { file: t("from the file"), coach: t("your answer"), unknown: t("not known") }[clip.rate_from];
  return (
    <Box data-testid="clipsheet">
      <Judged attempt={attempt} model={model} />
      <Head
        tone="chalk"
        right={
          <Text fontSize="11.5px" color="quiet">
            {clip.codec}
          </Text>
        }
      >
        {clip.name}
      </Head>
      <RouterLink
        to={`/drills?clip=${clip.id}&event=${attempt.event}`}
        className="tap"
        style={{ fontSize: 12, marginBottom: 6 }}
      >
        {t("Make a drill of it")}
      </RouterLink>
      {clip.warnings.map((w) => (
        <Notice key={w} mb="6px">
          {w}
        </Notice>
      ))}
      <Box display="grid" gridTemplateColumns="auto 1fr" columnGap="14px" rowGap="2px" fontSize="12.5px" mb="12px">
        {[
          [t("picture"), `${clip.width} × ${clip.height} px`],
          [t("frames"), `${clip.stamps.length}`],
          [
            t("plays at"),
            t("{fileRate} a second", { fileRate: fixed(clip.file_rate, clip.file_rate % 1 > 0.01 ? 2 : 0) }),
          ],
          [
            t("recorded at"),
            clip.capture_rate
              ? t("{captureRate} a second ({rateFrom})", { captureRate: clip.capture_rate, rateFrom })
              : t("unknown"),
          ],
          [t("true length"), length === null ? t("unknown") : t("{count} s", { count: fixed(length, 2) })],
          [
            t("scale"),
            report?.scale
              ? t("1 px is {value} mm ±{half95} %, {which}", {
                  value: fixed(report.scale.metres_per_pixel.value * 1000, 2),
                  half95: fixed((100 * report.scale.metres_per_pixel.half95) / report.scale.metres_per_pixel.value, 0),
                  which: report.scale.from === "line" ? t("from your line") : t("from standing height"),
                })
              : t("none yet"),
          ],
        ].map(([k, v]) => (
          <Box key={k} display="contents">
            <Text color="quiet">{k}</Text>
            <Text>{v}</Text>
          </Box>
        ))}
      </Box>

      {clip.rate_offer && clip.rate_offer.rate !== clip.capture_rate && (
        <Notice mb="10px" data-testid="offer">
          <Text flex="1">{clip.rate_offer.reason}.</Text>
          <Button size="2xs" variant="outline" onClick={() => put({ capture_rate: clip.rate_offer!.rate })}>
            {t("Take {rate} a second", { rate: Math.round(clip.rate_offer.rate * 100) / 100 })}
          </Button>
        </Notice>
      )}
      {report?.rate_hint && report.rate_hint.rate !== clip.rate_offer?.rate && (
        <Notice mb="10px" data-testid="rate-hint">
          <Text flex="1">{report.rate_hint.reason}.</Text>
          <Button size="2xs" variant="outline" onClick={() => put({ capture_rate: report.rate_hint!.rate })}>
            {t("Take {rate} a second", { rate: report.rate_hint.rate })}
          </Button>
        </Notice>
      )}
      <Head tone={clip.capture_rate ? "quiet" : "amber"}>{t("How many frames a second did the camera take?")}</Head>
      <Text fontSize="12px" color="quiet" mb="6px">
        {t(
          "Slow motion plays slower than it was filmed. Step to one ground contact and mark it: a wrong answer then shows itself.",
        )}
      </Text>
      <Flex gap="6px" mb="6px">
        <Button size="xs" variant="outline" onClick={() => setContact([frame, contact[1]])}>
          {t("Foot lands here {which}", { which: on !== undefined && on !== null ? `(${on})` : "" })}
        </Button>
        <Button size="xs" variant="outline" onClick={() => setContact([contact[0], frame])}>
          {t("Foot leaves here {which}", { which: off !== undefined && off !== null ? `(${off})` : "" })}
        </Button>
      </Flex>
      {guesses.map((g) => (
        <Flex
          key={g.rate}
          as="button"
          w="100%"
          textAlign="left"
          gap="10px"
          px="8px"
          mx="-8px"
          py="3px"
          borderRadius="4px"
          cursor="pointer"
          bg={g.rate === clip.capture_rate ? "raised" : undefined}
          _hover={{ bg: "raised" }}
          data-rate={g.rate}
          onClick={() => put({ capture_rate: g.rate })}
        >
          <Text w="58px" fontWeight="600">
            {t("{rate} /s", { rate: g.rate })}
          </Text>
          <Text
            flex="1"
            fontSize="12px"
            color={g.possible ? "chalk" : "clay"}
            textDecoration={g.possible ? undefined : "line-through"}
          >
            {g.text}
          </Text>
        </Flex>
      ))}
      <Flex gap="6px" mt="6px" align="center">
        <Input
          w="90px"
          placeholder={t("other")}
          value={rate}
          onChange={(e) => setRate(e.target.value)}
          aria-label={t("capture rate")}
        />
        <Button size="xs" variant="outline" disabled={!(typed > 0)} onClick={() => put({ capture_rate: typed })}>
          {t("Use it")}
        </Button>
      </Flex>
      {answer.error && (
        <Notice tone="clay" mt="6px">
          {answer.error.message}
        </Notice>
      )}

      <Flex gap="24px" mt="14px">
        <Box>
          <Label>{t("View")}</Label>
          <Flex gap="4px">
            {(["side", "back", "front", "oblique"] as const).map((v) => (
              <Button
                key={v}
                size="xs"
                px="8px"
                variant={clip.view === v ? "solid" : "outline"}
                onClick={() => put({ view: v })}
              >
                {word(v)}
              </Button>
            ))}
          </Flex>
        </Box>
        <Box>
          <Label>{t("Moves to the")}</Label>
          <Flex gap="4px">
            {([-1, 1] as const).map((d) => (
              <Button
                key={d}
                size="xs"
                px="8px"
                variant={clip.direction === d ? "solid" : "outline"}
                onClick={() => put({ direction: d })}
              >
                {d < 0 ? t("← left") : t("Right →")}
              </Button>
            ))}
          </Flex>
        </Box>
      </Flex>

      <Box mt="14px">
        <Label>{t("Scale: a known length along the lane")}</Label>
        <Flex gap="6px" align="center">
          <Input
            w="90px"
            placeholder={t("metres")}
            value={metres}
            onChange={(e) => setMetres(e.target.value)}
            aria-label={t("known length in metres")}
          />
          <Button
            size="xs"
            variant={scaling ? "solid" : "outline"}
            disabled={!((readNumber(metres) ?? 0) > 0)}
            onClick={() => onScaling(scaling ? null : (readNumber(metres) ?? null))}
          >
            {scaling ? t("Drag along the known length") : t("Set the scale")}
          </Button>
          {work.scale && (
            <Button
              size="xs"
              variant="ghost"
              onClick={() => edit({ kind: "scale", clip: clip.id, key: "line", value: null })}
            >
              {t("Remove")}
            </Button>
          )}
        </Flex>
      </Box>

      {clip.state === "ready" && (
        <Box mt="14px">
          <Label>{t("Points")}</Label>
          <Flex gap="14px" fontSize="12.5px">
            <a href={`/api/clips/${clip.id}/keypoints.json`} download>
              {t("COCO keypoints")}
            </a>
            <a href={`/api/clips/${clip.id}/points.c3d`} download>
              C3D
            </a>
            <RouterLink to={`/against/${attempt.id}?clip=${clip.id}`}>
              {t("take in, or hold against others’")}
            </RouterLink>
          </Flex>
        </Box>
      )}

      <Flex gap="6px" mt="18px">
        {(clip.state === "waiting" || clip.state === "importing") && (
          <Button size="xs" variant="outline" onClick={() => act.mutate({ id: clip.id, what: "cancel" })}>
            {t("Stop the import")}
          </Button>
        )}
        {(clip.state === "failed" || clip.state === "cancelled") && (
          <Button size="xs" onClick={() => act.mutate({ id: clip.id, what: "retry" })}>
            {t("Try again")}
          </Button>
        )}
        <Button
          size="xs"
          variant="ghost"
          onClick={() =>
            confirm(t("Delete this clip with its points and flags for good?")) &&
            act.mutate({ id: clip.id, what: "delete" })
          }
        >
          {t("Delete clip")}
        </Button>
      </Flex>
    </Box>
  );
}

/** Judged: by which model and style the attempt is judged. Flags of positions that
 * both have stay. */
function Judged({ attempt, model }: { attempt: Attempt; model: Model }) {
  const change = useChangeAttempt();
  const put = (c: Partial<Attempt>) => {
    const { id, state: _state, revision: _revision, created_at: _created, model_n: _version, ...rest } = attempt;
    change.mutate({ id, body: { ...rest, ...c } });
  };
  const pick = (name: string, value: string, options: [string, string][], onPick: (v: string) => void) => (
    <Box flex="1">
      <Label>{name}</Label>
      <NativeSelect.Root size="xs">
        <NativeSelect.Field
          aria-label={name}
          value={value}
          bg="raised"
          borderColor="seam"
          onChange={(e) => onPick(e.target.value)}
        >
          {options.map(([v, n]) => (
            <option key={v} value={v}>
              {n}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </Box>
  );
  const variants = model.variants ?? [];
  const now = variants.find((v) => v.id === attempt.variant) ?? variants[0];
  return (
    <Box mb="12px" data-testid="judged">
      <Flex gap="8px">
        {pick(t("Event"), attempt.event, Object.entries(events), (v) => put({ event: v as EventID, variant: "" }))}
        {variants.length > 1 &&
          pick(
            t("Style"),
            now.id,
            variants.map((v) => [v.id, v.name]),
            (v) => put({ variant: v }),
          )}
      </Flex>
      {now && (
        <Text fontSize="11.5px" color="quiet" mt="3px">
          {now.says}
        </Text>
      )}
      {change.error && (
        <Notice tone="clay" mt="4px">
          {change.error.message}
        </Notice>
      )}
    </Box>
  );
}
