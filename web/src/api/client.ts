import createClient from "openapi-fetch";
import { fault } from "../words/faults";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
/** Pairs as plain lists, as openapi-fetch gives them. */
type Loose<T> = T extends readonly (infer U)[]
  ? Loose<U>[]
  : T extends object
    ? { [K in keyof T]: Loose<T[K]> }
    : T;
export type Role = Schemas["ShopRole"];
export type Scope = Schemas["TokenScope"];
export type Person = Schemas["Person"];
export type ImportReport = Schemas["ImportReport"];
export type Blade = Schemas["BladeView"];
export type BladeBody = Schemas["BladeBody"];
export type BladeChange = Schemas["BladeChange"];
export type BladeEdit = Schemas["BladeEdit"];
export type Step = Schemas["Step"];
export type StepDraft = Schemas["StepDraft"];
export type Stage = Schemas["Stage"];
export type Medium = Schemas["Medium"];
export type Furnace = Schemas["Furnace"];
export type Glow = Schemas["Glow"];
export type Light = Schemas["Light"];
export type Sighting = Schemas["Sighting"];
export type TemperColour = Schemas["TemperColour"];
export type TemperSighting = Schemas["TemperSighting"];
export type Eyes = Schemas["EyesView"];
export type Plan = Schemas["PlanView"];
export type WholeBlade = Schemas["Outcomes"];
/** What was predicted; of the whole blade only when it was computed. */
export type Prediction = Omit<Schemas["Prediction"], keyof WholeBlade> & Partial<WholeBlade>;
export type Maps = Schemas["Maps"];
export type Hamon = Schemas["Hamon"];
export type Clay = Schemas["ClayDraft"];
export type ClayFace = Schemas["Face"];
export type Stroke = Schemas["Stroke"];
export type BladeClay = Schemas["BladeClay"];
export type MethodView = Schemas["MethodView"];
export type MethodsView = Schemas["MethodsView"];
export type HouseMethod = Schemas["HouseMethod"];
export type Help = Schemas["Help"];
export type OutlineRead = Schemas["OutlineRead"];
export type Bar = Schemas["Bar"];
export type Layer = Schemas["LayerDraft"];
export type TrialView = Schemas["TrialView"];
export type TrialEntry = Schemas["Entry"];
export type LadderView = Loose<Schemas["LadderView"]>;
export type LadderRung = Schemas["Rung"];
export type LadderTreatment = Schemas["Treatment"];
export type Salvage = Schemas["Salvage"];
export type EdgeLayer = Schemas["EdgeLayer"];
export type MeasuredBath = Schemas["MeasuredBath"];
export type Reclaimed = Schemas["Reclaimed"];
export type Ready = Schemas["Ready"];
export type Checked = Schemas["Checked"];
export type Warning = Schemas["Warning"];
export type Change = Schemas["Change"];
export type Interval = Schemas["Interval"];
export type Reason = Schemas["Reason"];
export type Firing = Loose<Omit<Schemas["Firing"], "prediction">> & { prediction: Prediction };
export type DayView = Loose<Schemas["DayView"]>;
export type DayBar = DayView["bars"][number];
export type DayStation = DayView["stations"][number];
export type DayBlade = DayView["blades"][number];
export type DayMeasures = Schemas["DayMeasures"];
export type DayChange = Schemas["DayChange"];
export type DayTrouble = Schemas["DayTrouble"];
export type DayRelaxation = Schemas["DayRelaxation"];
export type DayCure = Schemas["CureView"];
export type DayWhatIf = Schemas["DayWhatIf"];
export type ShopHours = Loose<Schemas["ShopHours"]>;
export type Shift = ShopHours["shifts"][number];
export type Made = Firing["made"];
export type Done = Firing["done"];
export type Deviation = Schemas["Deviation"];
export type Outlook = Schemas["Outlook"];
export type DoNow = Schemas["DoNow"];
export type Departure = Schemas["Departure"];
export type Doubt = NonNullable<Done["doubts"]>[number];
export type Reading = Schemas["ReadingView"];
export type Taken = Schemas["Taken"];
export type NotCounted = Schemas["NotCounted"];
export type Finding = Schemas["Finding"];
export type FindingRow = Schemas["FindingView"];
export type Cause = Schemas["Cause"];
export type Contradiction = Schemas["Contradiction"];
export type Symptom = Schemas["Symptom"];
export type EventRow = Schemas["EventView"];
export type Photo = Schemas["Photo"];
export type TraceView = Loose<Schemas["TraceView"]>;
export type LogRead = Loose<Schemas["LogRead"]>;
export type LogColumns = Schemas["Columns"];
export type Station = Schemas["Station"];
export type StationKind = Schemas["StationKind"];
export type StationSays = Schemas["StationSays"];
export type TesterValue = Schemas["TesterValue"];
export type StationBody = Schemas["StationBody"];
export type Device = Schemas["Device"];
export type CalibrationRow = Schemas["KeptCalibration"];
export type Against = Schemas["Against"];
export type SchoolId = Schemas["School"];
export type SchoolAgainst = Schemas["SchoolAgainst"];
export type Unreadable = Schemas["Unreadable"];
export type Fit = Schemas["Fit"];
export type PlanRisk = Schemas["PlanRisk"];
export type Why = Schemas["Why"];
export type CheckReach = Schemas["CheckReach"];
export type Agitation = Schemas["Agitation"];
export type PlaceHistory = Schemas["PlaceHistory"];
export type CrackCause = Schemas["CrackCause"];
export type SpreadFrom = Schemas["SpreadFrom"];
export type Drawback = Schemas["Drawback"];
export type OtherTemper = Schemas["OtherTemper"];
export type CheckCost = Schemas["CheckCost"];
export type NoLine = Schemas["NoLine"];
export type Next = Schemas["Next"];
export type TemperFor = Schemas["TemperFor"];
export type OutcomeValue = Schemas["OutcomeValue"];
export type FiringAction = Schemas["FiringAction"];
export type Doing = Schemas["Doing"];
export type HeatInRow = Schemas["HeatInRow"];
export type Culprit = Schemas["Culprit"];
export type Evidence = Schemas["Evidence"];
export type LogNote = Schemas["LogNote"];
export type TrialGuide = Schemas["Guide"];
export type TrialEnd = Schemas["TrialEnd"];
export type ClayAdvice = Schemas["ClayAdvice"];
export type Conflict = Schemas["Conflict"];
export type LayerOutcome = Schemas["LayerOutcome"];
export type Suits = Schemas["Suits"];
export type Service = Schemas["Service"];
export type Designation = Schemas["Designation"];
export type FoundSteel = Schemas["FoundSteel"];
export type SteelView = Schemas["SteelView"];
export type Session = Schemas["Session"];
export type Problem = Schemas["Problem"];
export type Fault = Schemas["Fault"];
export type AllowedRange = Schemas["AllowedRange"];
export type LessonsView = Schemas["LessonsView"];
export type OutcomeLesson = Schemas["OutcomeLesson"];
export type OutcomeName = Schemas["OutcomeName"];
export type Bias = Schemas["BiasView"];
export type CrackCount = Schemas["CountView"];
export type Marked = Schemas["Marked"];
export type CompareView = Schemas["CompareView"];
export type ComparedBlade = Schemas["ComparedBlade"];
export type ComparedPair = Schemas["PairView"];
export type Aspect = Schemas["Aspect"];
export type Proposal = Schemas["ProposalView"];

/** A server that says nothing for this long is not there, ms. */
export const ANSWERS_WITHIN = 10_000;
/** What takes its time by nature: a large file on its way, a computation. */
const PATIENT =
  /\/(import|export|photos|traces|methods|help|advise|predict|simulate|compare|lessons|diagnosis|blades\/[^/]+\/firings)\b/;
const PATIENT_MS = 600_000;

/** One way to ask the server: what does not come in time never comes. */
function ask(request: Request): Promise<Response> {
  const wait = PATIENT.test(new URL(request.url).pathname) ? PATIENT_MS : ANSWERS_WITHIN;
  const stop = new AbortController();
  // It also ends an answer that began and goes on no more; one that is complete takes no harm.
  setTimeout(() => stop.abort(new DOMException("No answer in time.", "TimeoutError")), wait);
  const given = request.signal;
  if (given.aborted) stop.abort(given.reason);
  given.addEventListener("abort", () => stop.abort(given.reason));
  // Looked up at each call, so that a test can answer instead.
  return globalThis.fetch(new Request(request, { signal: stop.signal }));
}

export const api = createClient<paths>({ baseUrl: window.location.origin, fetch: ask });

/** What the server said was wrong. */
export class ApiError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }

  /** Messages by field. */
  get fields(): Record<string, string> {
    return Object.fromEntries((this.problem.fields ?? []).map((f) => [f.field, fault(f)]));
  }
}

const OFFLINE: Problem = {
  status: 0,
  title: "No answer",
  detail: "The server does not answer. What you typed is still here; try again.",
  fields: [],
};

/**
 * The server cannot be reached now: no answer, one from a proxy before it, or one that is in trouble itself.
 * What is to be sent is sent again later; what was kept on this device is shown meanwhile.
 */
export function unreachable(error: unknown): boolean {
  return error instanceof ApiError && (error.problem.status === 0 || error.problem.status >= 500);
}

/** The data of an answer, or an ApiError. */
export async function take<T>(
  asked: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await asked.catch((cause: unknown) => {
    // A request that was overtaken by a newer one is not a fault.
    if (cause instanceof DOMException && cause.name === "AbortError") throw cause;
    throw new ApiError(OFFLINE);
  });
  if (error !== undefined || !response.ok) {
    // A proxy says what it has to say as a page.
    const problem = typeof error === "object" ? (error as Partial<Problem> | null) : null;
    throw new ApiError({ ...OFFLINE, status: response.status, ...problem });
  }
  return data as T;
}

export function problemOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
