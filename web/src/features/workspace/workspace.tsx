import { Box, Button, Flex, Tabs as PanelTabs, Text } from "@chakra-ui/react";
import { useCallback, useEffect, useMemo, useRef } from "react";
import { useNavigate, useParams } from "react-router";
import type { Report, Workspace } from "../../api/client";
import { useRefresh } from "../../api/topic";
import { Boundary } from "../../ui/boundary";
import { Opening } from "../../ui/opening";
import { Notice, Panel } from "../../ui/parts";
import { useTitle } from "../../ui/title";
import { DropArea } from "../uploads/droparea";
import { send } from "../uploads/uploads";
import { TalkBar } from "../voiceover/bar";
import { useWorkspace } from "./api";
import { OpenContext, type Open } from "./context";
import { AddClip, KeySheet, Others } from "./dialogs";
import { Header } from "./header";
import { useOpenAttempt } from "./hooks/useOpenAttempt";
import { panels } from "./panels/registry";
import { Tabs } from "./panels/tabs";
import { Rejudge } from "./rejudge";
import { useShortcuts } from "./shortcuts";
import { BesideStage } from "./stage/beside";
import { Guide } from "./stage/guide";
import { Asked, ToolPrompt } from "./stage/prompts";
import { Readout } from "./stage/readout";
import { Stage } from "./stage/stage";
import type { PanelID } from "./state";
import { CurvePicker } from "./timeline/curvepicker";
import { save, toPNG, toSVG } from "./timeline/export";
import { Timeline, type Handle } from "./timeline/timeline";
import { Toolbar } from "./timeline/toolbar";
import { Wheel } from "./timeline/wheel";
import { t } from "../../texts/texts";
import type { Next } from "./next";
import { Path } from "./path";
import { bySchool } from "./school";
import { useSettings } from "../../settings/settings";
import { Standing } from "../../ui/standing";
import { farOf } from "./sides";

/** The workspace opens one attempt. */
export default function WorkspacePage() {
  const { id = "" } = useParams();
  const sheet = useWorkspace(id);
  useTitle(sheet.data?.athlete.name, sheet.data && (sheet.data.attempt.mark || sheet.data.model.name.toLowerCase()));
  const { phases } = useSettings();
  const named = useMemo(
    () => sheet.data && { ...sheet.data, model: bySchool(sheet.data.model, phases) },
    [sheet.data, phases],
  );
  if (!named) return <Opening what={t("the attempt")} error={sheet.error} />;
  return <Attempt key={id} sheet={named} />;
}

const noPositions: Report["positions"] = [];

function Attempt({ sheet }: { sheet: Workspace }) {
  const w = useOpenAttempt(sheet);
  const { open, command, talk, saving } = w;
  const { state, dispatch, clip, player, evaluation, model } = open;
  const { report, ready, broken } = evaluation;
  const timeline = useRef<Handle>(null);
  useShortcuts(command, timeline, state.dialog === "keys");
  // For benchmarks and tests; the application itself never uses it.
  useEffect(() => {
    Object.assign(window, {
      neokinema: {
        player,
        core: w.loaded,
        score: timeline,
      },
    });
  }, [player, w.loaded]);

  const close = () => dispatch({ type: "dialog", dialog: null });
  const trouble = w.trouble || broken || saving.says;
  return (
    <OpenContext value={open}>
      <main className="bench">
        <TopBar w={w} />
        {trouble && (
          <Notice tone={saving.state === "kept" ? "amber" : "clay"} m="8px 16px 0">
            {trouble}
            <Button size="2xs" variant="ghost" ml="auto" onClick={w.dismiss}>
              {t("Close")}
            </Button>
          </Notice>
        )}
        {w.linked && (
          <Notice tone="moss" m="8px 16px 0">
            <Text flex="1" truncate>
              {w.linked}
            </Text>
            <Button size="2xs" variant="ghost" onClick={w.unlink}>
              {t("Close")}
            </Button>
          </Notice>
        )}
        <Rejudge attempt={sheet.attempt.id} newer={sheet.newer} />
        <div className="halves">
          <div className="left">
            <div className="stages">
              <div className="place">
                {clip ? (
                  <Stage
                    clip={clip}
                    player={player}
                    points={evaluation.points}
                    model={model}
                    report={report}
                    lit={state.reading}
                    asked={w.asked}
                    hidden={state.hidden}
                    selected={state.landmark}
                    onSelect={(landmark) => dispatch({ type: "select", landmark })}
                    onPlace={w.place}
                    tool={w.active}
                    far={farOf(clip)}
                    bones={state.skeleton}
                    overlays={w.overlays}
                    inSight={w.inSight}
                  />
                ) : (
                  <NoClip attempt={sheet.attempt.id} event={model.id} film={model.film} />
                )}
                {w.asked && (
                  <Asked
                    asked={w.asked}
                    model={model}
                    hidden={state.hidden}
                    onHide={() => dispatch({ type: "hide" })}
                    onSkip={() => command.skip()}
                  />
                )}
                {w.active && <ToolPrompt tool={w.active} onLeave={() => dispatch({ type: "escape" })} />}
                {ready && (
                  <TalkBar
                    recorder={talk.recorder}
                    said={talk.said}
                    attempt={sheet.attempt.id}
                    again={talk.again}
                    onAgain={talk.toggle}
                  />
                )}
                {ready && !w.asked && (
                  <Readout
                    player={player}
                    zero={evaluation.flags.move ?? evaluation.flags.set}
                    rate={clip!.capture_rate}
                    pictures={clip!.pictures}
                  />
                )}
                {ready && !w.asked && !w.active && !state.beside && <Guide player={player} watch={model.watch} />}
              </div>
              <Second w={w} />
            </div>
            {ready && <Wheel player={player} />}
            {clip && <Below w={w} timeline={timeline} />}
          </div>
          <Side open={open} next={w.next} onNext={command.goOn} />
        </div>
        {state.dialog === "compare" && <Others sheet={sheet} onClose={close} />}
        {state.dialog === "keys" && <KeySheet onClose={close} />}
        {state.dialog === "add-clip" && <AddClip attempt={sheet.attempt.id} onClose={close} />}
      </main>
    </OpenContext>
  );
}

type Parts = ReturnType<typeof useOpenAttempt>;

function TopBar({ w }: { w: Parts }) {
  const { open, command, saving } = w;
  const { dispatch } = open;
  const navigate = useNavigate();
  const help = useCallback(() => dispatch({ type: "dialog", dialog: "keys" }), [dispatch]);
  const compare = useCallback(() => dispatch({ type: "dialog", dialog: "compare" }), [dispatch]);
  const feedback = useCallback(() => void navigate("feedback"), [navigate]);
  const { athlete, attempt } = open.sheet;
  const workshop = useCallback(
    () => void navigate(`/workshop/${athlete.id}?attempt=${attempt.id}`),
    [navigate, athlete.id, attempt.id],
  );
  return (
    <Header
      sheet={open.sheet}
      effect={open.evaluation.effect}
      state={saving.state}
      canUndo={open.work.can_undo}
      canRedo={open.work.can_redo}
      onUndo={command.undo}
      onRedo={command.redo}
      onHelp={help}
      onFeedback={feedback}
      onBeside={compare}
      onLink={command.link}
      onWorkshop={workshop}
    />
  );
}

/** Second is the other clip beside the main stage, when the coach wants one. */
function Second({ w }: { w: Parts }) {
  const { sheet, state, dispatch, clip, player, work, model } = w.open;
  const other = sheet.clips.find((c) => c.id === state.beside);
  if (!clip || !other || other.id === clip.id || other.state !== "ready") return null;
  const told = w.companions?.find((c) => c.clip === other.id);
  return (
    <BesideStage
      key={other.id}
      clip={other}
      offset={told?.problem ? undefined : told?.offset?.seconds}
      bySound={told?.offset?.by.join() === "sound"}
      problem={told?.problem}
      main={player}
      model={model}
      points={work.clips[other.id]?.points ?? noPoints}
      bones={state.skeleton}
      onOpen={(frame) => dispatch({ type: "clip", id: other.id, frame, from: clip.id })}
      onClose={() => dispatch({ type: "beside", id: null })}
    />
  );
}

const noPoints = {};

function NoClip({ attempt, event, film }: { attempt: string; event: string; film: string }) {
  const refresh = useRefresh();
  return (
    <Panel h="100%" display="flex" alignItems="center" justifyContent="center" p="30px">
      <Box maxW="480px">
        <Text fontSize="16px" fontWeight="600">
          {t("No clip on this attempt yet")}
        </Text>
        <Text color="quiet" mb="10px">
          {film}
        </Text>
        <Standing event={event} />
        <DropArea files={[]} onFiles={(f) => send(attempt, f, () => refresh("queue", "workspace"))} />
      </Box>
    </Panel>
  );
}

/** Below the stage: playing, flagging, and the clip over time. */
function Below({ w, timeline }: { w: Parts; timeline: React.RefObject<Handle | null> }) {
  const { open } = w;
  const { sheet, model, player, state, dispatch, evaluation } = open;
  const { ready, report, catalogue, points } = evaluation;
  const clip = open.clip!;
  const placed = Object.keys(points).join(" ");
  const pick = useCallback((id: string) => dispatch({ type: "curve", id }), [dispatch]);
  const place = useCallback(() => dispatch({ type: "place" }), [dispatch]);
  const keep = useCallback(
    async (kind: "svg" | "png") => {
      const drawing = timeline.current?.svg();
      if (!drawing) return;
      const name = t("{name} {name2} score.{kind}", { name: sheet.athlete.name, name2: model.name, kind });
      save(name, kind === "svg" ? new Blob([toSVG(drawing)], { type: "image/svg+xml" }) : await toPNG(drawing));
    },
    [timeline, sheet.athlete.name, model.name],
  );
  const unreadable = sheet.work.unreadable;
  const picker = useMemo(
    () =>
      catalogue &&
      ready && (
        <CurvePicker
          kinds={catalogue.curves}
          on={state.curves}
          placed={placed}
          onPick={pick}
          onKeep={keep}
          vtt={`/api/clips/${clip.id}/score.vtt`}
        />
      ),
    [catalogue, ready, state.curves, placed, pick, keep, clip.id],
  );
  return (
    <div className="panel score">
      <Toolbar
        model={model}
        player={player}
        ready={ready}
        flags={evaluation.flags}
        own={evaluation.ownFlags}
        chosen={open.position}
        next={report?.next}
        placing={state.mode.is === "placing"}
        problem={
          unreadable.length
            ? t("Stored, but not to be read any more: {unreadable}. Make it anew.", {
                unreadable: unreadable.join(", "),
              })
            : report?.problems[0]
        }
        onFlag={w.flag}
        onPlacing={place}
      >
        {picker}
      </Toolbar>
      {ready ? (
        <Timeline
          ref={timeline}
          model={model}
          positions={report?.positions ?? noPositions}
          phases={report?.phases}
          contacts={report?.contacts}
          glimpses={report?.glimpses}
          flags={evaluation.ownFlags}
          curves={w.curves}
          doubtful={w.doubtful}
          player={player}
          known={clip.capture_rate > 0}
          chosen={open.position}
          onChoose={open.choose}
          onFlag={w.dragFlag}
        />
      ) : (
        <Text color="quiet" py="20px">
          {t("The score appears when the clip is ready.")}
        </Text>
      )}
    </div>
  );
}

/** Side: the clips of the attempt, what is to be answered first, and the open panel. */
function Side({ open, next, onNext }: { open: Open; next: Next; onNext(): void }) {
  const { sheet, state, dispatch, clip, evaluation } = open;
  const { attempt, clips } = sheet;
  const panel = panels.find((p) => p.id === state.panel)!;
  const to = useCallback((p: PanelID) => dispatch({ type: "panel", panel: p }), [dispatch]);
  const asks = (question: string) => (
    <Notice mb="10px">
      <Text flex="1">{question}</Text>
      <Button size="2xs" variant="outline" onClick={() => to("clip")}>
        {t("Answer")}
      </Button>
    </Notice>
  );
  const unanswered = clip?.state === "ready" && panel.id !== "clip";
  const others = clips.filter((c) => c.id !== clip?.id && c.state === "ready");
  const second = others.find((c) => c.id === state.beside) ?? others[0];
  return (
    <PanelTabs.Root
      className="panel side"
      value={panel.id}
      onValueChange={(d) => to(d.value as PanelID)}
      activationMode="manual"
      variant="plain"
      ids={{ content: (v: string) => `panel-${v}` }}
      unstyled
    >
      <Path next={next} onNext={onNext} />
      <Tabs
        event={open.model.id}
        findings={evaluation.report?.findings.length ?? 0}
        questions={evaluation.report?.questions.length ?? 0}
        look={clip?.capture_rate === 0 || (clip?.warnings.length ?? 0) > 0}
      />
      <div className="tab" role="tabpanel" id={`panel-${panel.id}`} aria-label={panel.label} tabIndex={-1}>
        {clips.length > (panel.id === "clip" ? 0 : 1) && (
          <Flex gap="4px" mb="10px" wrap="wrap">
            {clips.map((c, i) => (
              <Button
                key={c.id}
                size="xs"
                variant="outline"
                bg={c.id === clip?.id ? "raised" : undefined}
                onClick={() => dispatch({ type: "clip", id: c.id, from: clip?.id })}
              >
                {i + 1} {c.view}
              </Button>
            ))}
            {second && (
              <Button
                size="xs"
                variant="ghost"
                aria-pressed={state.beside === second.id}
                bg={state.beside === second.id ? "raised" : undefined}
                onClick={() => dispatch({ type: "beside", id: state.beside === second.id ? null : second.id })}
                title={t("Show the other clip beside this one, at the same moment")}
              >
                {t("Side by side")}
              </Button>
            )}
            <Button size="xs" variant="ghost" onClick={() => dispatch({ type: "dialog", dialog: "add-clip" })}>
              {t("Add a clip")}
            </Button>
          </Flex>
        )}
        {unanswered &&
          clip.capture_rate === 0 &&
          asks(t("The camera's frame rate is not known, so no true time can be given."))}
        {unanswered && clip.direction === 0 && clip.view === "side" && asks(t("Which way does the athlete run?"))}
        <Boundary at={panel.id} part={t("This panel")}>
          {panel.has(open) && <panel.Component />}
        </Boundary>
        {!evaluation.report && panel.id !== "clip" && (
          <Text color="quiet">
            {clip?.state === "ready"
              ? t("The numbers are being computed …")
              : clip
                ? t("The numbers come when the clip has been read.")
                : t("The numbers come with a clip.")}
          </Text>
        )}
        {attempt.injury_note && (
          <Notice mt="14px">
            <Text>{t("Injuries to consider: {injuryNote}", { injuryNote: attempt.injury_note })}</Text>
          </Notice>
        )}
        {attempt.coach_focus && (
          <Text fontSize="12px" color="quiet" mt="10px">
            {t("Focus of the own coach: {coachFocus}", { coachFocus: attempt.coach_focus })}
          </Text>
        )}
      </div>
    </PanelTabs.Root>
  );
}
