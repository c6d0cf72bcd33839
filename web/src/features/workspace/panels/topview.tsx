import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { ask, client } from "../../../api/client";
import { factsOf } from "../../../api/events";
import { Modal } from "../../../ui/modal";
import { Head, Notice } from "../../../ui/parts";
import { useMe } from "../../account/api";
import { useOpenClip } from "../context";
import { Circle, Now } from "./topview/circle";
import { Joints } from "./topview/joints";
import type { Say } from "./topview/parts";
import { Disc, Release } from "./topview/release";
import { RunUp } from "./topview/runup";
import { Spiral, Table } from "./topview/turns";
import { t } from "../../../texts/texts";
import { fixed } from "../../../ui/written";

/** TopViewPanel: a throw out of a circle, or a run-up, seen from above. */
export function TopViewPanel() {
  const { model } = useOpenClip();
  return factsOf(model.id).runway ? <RunUpPanel /> : <ThrowPanel />;
}

/** The ground of a run-up in words, by its template. */
const grounds: Record<string, string> = {
  board: t("the board and both edges of the runway marked"),
  bar: t("the uprights and the bar marked"),
  box: t("the box and both edges of the runway marked"),
  arc: t("the arc and the runway's lines marked"),
};

function RunUpPanel() {
  const { sheet, input, player, dispatch, evaluation, model } = useOpenClip();
  const report = evaluation.report!;
  if (report.approach?.feet.length) return <RunUp report={report} player={player} name={sheet.athlete.name} />;
  const onGround = () => dispatch({ type: "panel", panel: "ground" });
  return (
    <Box data-testid="runup">
      <Head tone="chalk">{t("Run-up from above")}</Head>
      <Text color="quiet" fontSize="12.5px" mb="8px">
        {t(
          "Where each foot stood, how long and how fast the last steps were, and how the body leaves the ground. It takes three things:",
        )}
      </Text>
      <Steps done={!!input.camera} onDo={onGround} says={t("the camera looked at")} />
      <Steps done={!!input.ground?.points.length} onDo={onGround} says={grounds[factsOf(model.id).runway!]} />
      <Steps
        done={!!input.points?.left_toe}
        onDo={() => dispatch({ type: "panel", panel: "track" })}
        says={t("the athlete drafted")}
      />
      {(report.approach?.missing ?? []).concat(report.problems).map((m) => (
        <Notice key={m} mt="8px">
          {m}
        </Notice>
      ))}
    </Box>
  );
}

function ThrowPanel() {
  const { sheet, work, core, input, clip, player, state, dispatch, tool, edit, evaluation } = useOpenClip();
  const {
    athlete,
    clips,
    attempt: { id: attempt },
  } = sheet;
  const report = evaluation.report!;
  const still = state.drag.length === 0;
  const onGround = () => dispatch({ type: "panel", panel: "ground" });
  const onTrack = () => dispatch({ type: "panel", panel: "track" });
  const me = useMe();
  const language = me.data?.user?.directions ?? "degrees";
  // Drawn anew when the hand has come to rest.
  const [rest, setRest] = useState({ core, input });
  if (still && (rest.core !== core || rest.input !== input)) setRest({ core, input });
  const one = useMemo(() => rest.core.top_view({ input: rest.input }).top_view, [rest]);
  const [large, setLarge] = useState(false);
  const both = useMutation({
    mutationFn: () => ask(client.GET("/attempts/{id}/two-views", { params: { path: { id: attempt } } })),
  });
  const seen = clips.filter((c) => work.clips[c.id]?.ground && work.clips[c.id]?.points.ball);
  const above = both.data?.top_view ?? one;
  const turning = both.data ?? report.throw;
  const turns = turning?.turns ?? [];
  const say: Say = (az) => core.directions({ azimuths: [az], left: above?.left ?? false, language }).names[0];
  const missing = report.throw?.missing ?? [];
  if (!above)
    return (
      <Box data-testid="above">
        <Head tone="chalk">{t("From above")}</Head>
        <Text color="quiet" fontSize="12.5px" mb="8px">
          {t(
            "Where hips, chest and feet point in every frame, and with the implement tracked its turns counted and timed, the pull, the release. It takes three things:",
          )}
        </Text>
        <Steps done={!!input.camera} onDo={onGround} says={t("the camera looked at")} />
        <Steps done={!!input.ground?.points.length} onDo={onGround} says={t("the circle marked")} />
        <Steps done={!!input.points?.left_hip} onDo={onTrack} says={t("the athlete drafted")} />
        {missing.concat(report.problems).map((m) => (
          <Notice key={m} mt="8px">
            {m}
          </Notice>
        ))}
      </Box>
    );
  const parts = { above, turns, turning, say, player };
  return (
    <Box data-testid="above">
      <Head
        tone="chalk"
        right={
          <Button size="2xs" variant="outline" onClick={() => setLarge(true)}>
            {t("Large")}
          </Button>
        }
      >
        {t("From above")}
      </Head>
      <Circle {...parts} height={338} name={t("{name} from above", { name: athlete.name })} />
      <Now {...parts} />
      {seen.length > 1 && (
        <Flex align="center" gap="8px" my="8px" data-testid="both">
          <Text flex="1" fontSize="12px" color="quiet">
            {both.data
              ? t(
                  "Both clips together{which}: {offset} ms apart, lines of sight meet within {apart} cm. This clip alone was off by {off}°.",
                  {
                    which: both.data.aligned_by === "sound" ? t(", by their sound") : "",
                    offset: Math.round(Math.abs(both.data.offset) * 1000),
                    apart: fixed(both.data.apart, 1),
                    off: fixed(both.data.off, 1),
                  },
                )
              : t("Two clips of this attempt see the circle.")}
          </Text>
          <Button
            size="2xs"
            variant="outline"
            loading={both.isPending}
            onClick={() => (both.data ? both.reset() : both.mutate())}
          >
            {both.data ? t("This clip alone") : t("Read both together")}
          </Button>
        </Flex>
      )}
      {both.error && (
        <Notice tone="clay" mb="8px">
          {both.error.message}
        </Notice>
      )}
      {turns.length > 0 && (
        <>
          <Head tone="chalk">{t("Turns, wound up")}</Head>
          <Spiral {...parts} height={300} name={t("{name} turns", { name: athlete.name })} />
          <Head tone="chalk">{t("Turn by turn")}</Head>
          <Table {...parts} />
        </>
      )}
      {both.data && <Joints joints={both.data.joints} attempt={attempt} />}
      <Release report={report} core={core} input={input} />
      {input.model === "discus" && clip && (
        <Disc report={report} clip={clip} player={player} edit={edit} onTool={tool} />
      )}
      {missing.map((m) => (
        <Notice key={m} mt="8px">
          {m}
        </Notice>
      ))}
      {large && (
        <Modal title={t("From above")} open onClose={() => setLarge(false)} wide="screen">
          <Flex gap="20px">
            <Box flex="1" minW="0">
              <Circle {...parts} height={480} name={t("{name} from above", { name: athlete.name })} />
              <input
                type="range"
                min={above.from}
                max={Math.max(above.from, above.to - 1)}
                defaultValue={player.get().frame}
                aria-label={t("frame")}
                style={{ width: "100%" }}
                onChange={(e) => player.jump(Number(e.target.value))}
              />
              <Now {...parts} />
            </Box>
            {turns.length > 0 && (
              <Box flex="1" minW="0">
                <Spiral {...parts} height={360} name={t("{name} turns", { name: athlete.name })} />
                <Table {...parts} wide />
              </Box>
            )}
          </Flex>
        </Modal>
      )}
    </Box>
  );
}

const Steps = ({ done, says, onDo }: { done: boolean; says: string; onDo(): void }) => (
  <Flex align="center" gap="8px" py="3px">
    <Text flex="1" color={done ? "moss" : "chalk"}>
      {done ? "✓" : "○"} {says}
    </Text>
    {!done && (
      <Button size="2xs" variant="outline" onClick={onDo}>
        {t("Go there")}
      </Button>
    )}
  </Flex>
);
