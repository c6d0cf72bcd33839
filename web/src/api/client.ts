import createClient from "openapi-fetch";
import type { components, paths } from "./gen/contract.gen";
import { t } from "../texts/texts";

type Schemas = components["schemas"];
export type Problem = Schemas["Problem"];
export type Athlete = Schemas["Athlete"];
export type NewAthlete = Schemas["NewAthlete"];
export type NewAttempt = Schemas["NewAttempt"];
export type Attempt = Schemas["Attempt"];
export type QueueItem = Schemas["QueueItem"];
export type Workspace = Schemas["Workspace"];
export type Work = Schemas["Work"];
export type ClipWork = Schemas["ClipWork"];
export type Clip = Schemas["Clip"];
export type ClipAnswers = Schemas["ClipAnswers"];
export type Edit = Schemas["Edit"];
export type Advice = Schemas["Advice"];
export type Model = Schemas["Model"];
export type Directions = Schemas["User"]["directions"];
export type EventModel = Schemas["EventModel"];
export type ModelChange = Schemas["ModelChange"];
export type Checkpoint = Schemas["ModelCheckpoint"];
export type Drill = Schemas["ModelDrill"];
export type Reading = Schemas["ReportReading"];
export type Report = Schemas["Report"];
export type Stereo = Schemas["EvaluateStereo"];
export type Finding = Schemas["ReportFinding"];
export type Estimate = Schemas["UncertaintyEstimate"];
export type Point = Schemas["TrackPoint"];
export type ScaleLine = Schemas["CalibrationLine"];
export type Track = Schemas["Track"];
export type Annotation = Schemas["AnnotateAnnotation"];
export type Word = Schemas["Word"];
export type FollowRequest = Schemas["VideoanalysisFollowRequest"];
export type Step = Schemas["ReportStep"];
export type CircleSeen = Schemas["VideoanalysisCircleSeen"];
export type ControlPoints = Schemas["GroundControlPoints"];
export type Box = Schemas["Box"];
export type Page = Schemas["Page"];
export type Me = Schemas["Me"];
export type Calls = Schemas["Calls"];
export type Effect = Schemas["CompareEffect"];
export type Agreement = Schemas["CompareAgreement"];
export type Comparison = Schemas["Comparison"];
export type Log = Schemas["Log"];
export type News = Schemas["News"];
export type EventLog = Schemas["EventLog"];
export type CueLog = Schemas["CueLog"];
export type MeasureLog = Schemas["MeasureLog"];
export type Logged = Schemas["Logged"];
export type Followup = Schemas["Followup"];
export type SessionEntry = Schemas["SessionEntry"];
export type NewNote = Schemas["NewNote"];
export type Workshop = Schemas["Workshop"];
export type WorkshopCalls = Schemas["WorkshopCalls"];
export type WorkshopFact = Schemas["Fact"];
export type Question = Schemas["WorkshopQuestion"];
export type QuestionInput = Schemas["WorkshopInput"];
export type QuestionValue = Schemas["WorkshopValue"];
export type QuestionAnswer = Schemas["WorkshopAnswer"];
export type AnswerLine = Schemas["WorkshopLine"];
export type Place = Schemas["WorkshopPlace"];
export type PlanDrawing = Schemas["WorkshopDrawing"];
export type Calculation = Schemas["Calculation"];
export type NewCalculation = Schemas["NewCalculation"];
export type Reckoned = Schemas["Reckoned"];
export type FieldSheet = Schemas["FieldSheet"];
export type SeasonView = Schemas["PlanningView"];
export type Outline = Schemas["SeasonOutline"];
export type Competition = Schemas["SeasonCompetition"];
export type FreeDay = Schemas["SeasonFree"];
export type WayBack = Schemas["SeasonReturn"];
export type PlanWeek = Schemas["SeasonWeek"];
export type PlanSession = Schemas["SeasonSession"];
export type PlanChange = Schemas["SeasonChange"];
export type PlanRule = Schemas["PlanningRuleNow"];
export type Training = Schemas["Training"];
export type NewTraining = Schemas["NewTraining"];
export type TrackPack = Schemas["PlanningTrack"];
export type TrackAthlete = Schemas["PlanningTrackAthlete"];
export type TrackCue = Schemas["PlanningTrackCue"];
export type TrackNote = Schemas["TracksideNote"];
export type TrackTry = Schemas["TracksideTry"];
export type TrackField = TrackNote["field"];
export type JoinedNotes = Schemas["JoinedNotes"];
export type Board = Schemas["PlanningBoard"];
export type SquadMeasure = Schemas["PlanningSquadMeasure"];
export type SquadSign = Schemas["SquadTold"]["sign"];
export type SeriesView = Schemas["PlanningSeriesView"];
export type Squad = Schemas["PlanningSquad"];
export type SquadLine = Schemas["PlanningSquadLine"];
export type EyeView = Schemas["SeeingEye"];
export type EyeSet = Schemas["SeeingSet"];
export type EyeExercise = Schemas["SeeingExercise"];
export type EyeKind = EyeExercise["kind"];
export type EyeShown = Schemas["SeeingShown"];
export type EyeJudgement = Schemas["SeeingJudgement"];
export type EyeAnswered = Schemas["SeeingAnswered"];
export type LadderStanding = Schemas["PlanningStanding"];
export type GhostView = Schemas["GhostsView"];
export type LibraryDrill = Schemas["DrillsDrill"];
export type OwnDrill = Schemas["OwndrillsView"];
export type NewOwnDrill = Schemas["NewOwnDrill"];
export type DrillFigure = Schemas["MovingDrawn"];
export type Planned = Schemas["Planned"];
export type Chapter = Schemas["VoiceoverChapter"];
export type Scene = Schemas["VoiceoverScene"];
export type Drawing = Schemas["VoiceoverDrawing"];
export type Film = Schemas["Film"];
export type ExportRequest = Schemas["VideoexportExportRequest"];
export type Recording = Schemas["VoiceoverRecording"];
export type SharedPage = Schemas["SharedPage"];
export type Member = Schemas["Member"];
export type Invitation = Schemas["Invitation"];
export type Signin = Schemas["Signin"];
export type AuditEvent = Schemas["Event"];
export type Letter = Schemas["Letter"];
export type Deletion = Schemas["Deletion"];

/** Failure is any request that did not work, in words for the user. */
export class Failure extends Error {
  constructor(
    readonly kind: Problem["kind"] | "offline",
    says: string,
    readonly fields: string[] = [],
  ) {
    super(says);
  }
  /** passing failures may work by themselves a little later. */
  get passing() {
    return this.kind === "offline" || this.kind === "unavailable";
  }
}

/** sessionEnded is told when the server no longer knows who asks. */
export const sessionEnded = "neo:session-ended";

// What is asked for as the page goes is still sent.
let leaving = false;
if (typeof window !== "undefined") {
  window.addEventListener("pagehide", () => (leaving = true), true);
  window.addEventListener("pageshow", () => (leaving = false), true);
}

export const client = createClient<paths>({
  baseUrl: "/api",
  fetch: (request) => fetch(leaving ? new Request(request, { keepalive: true }) : request),
});

/** ask turns a call of the client into its data or a Failure. */
export async function ask<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let answer;
  try {
    answer = await call;
  } catch {
    throw new Failure(
      "offline",
      t("The server cannot be reached. What you entered is kept here; it is saved when the connection is back."),
    );
  }
  const { data, error, response } = answer;
  if (response.ok) return data as T;
  const p = error as Problem | undefined;
  if (p?.kind === "signed_out" && !response.url.endsWith("/sign-in")) dispatchEvent(new Event(sessionEnded));
  if (p?.kind) throw new Failure(p.kind, p.detail, p.fields ?? []);
  // A proxy answers for a server that restarts.
  if ([429, 502, 503, 504].includes(response.status))
    throw new Failure(
      "unavailable",
      t("The server does not answer just now. What you entered is kept here and saved as soon as it does."),
    );
  throw new Failure("internal", t("The server answered {status}. Try again.", { status: response.status }));
}
