import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
/** Pairs as plain lists, as openapi-fetch gives them. */
type Loose<T> = T extends readonly (infer U)[]
  ? Loose<U>[]
  : T extends object
    ? { [K in keyof T]: Loose<T[K]> }
    : T;
export type Blade = Schemas["Blade"];
export type BladeBody = Schemas["BladeBody"];
export type Step = Schemas["Step"];
export type StepDraft = Schemas["StepDraft"];
export type Stage = Schemas["Stage"];
export type Medium = Schemas["Medium"];
export type Plan = Schemas["Plan"];
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
export type HouseMethod = Schemas["HouseMethod"];
export type Help = Schemas["Help"];
export type OutlineRead = Schemas["OutlineRead"];
export type Bar = Schemas["Bar"];
export type Layer = Schemas["LayerDraft"];
export type TrialView = Schemas["TrialView"];
export type TrialEntry = Schemas["Entry"];
export type Ready = Schemas["Ready"];
export type Checked = Schemas["Checked"];
export type Warning = Schemas["Warning"];
export type Change = Schemas["Change"];
export type Interval = Schemas["Interval"];
export type Reason = Schemas["Reason"];
export type Firing = Omit<Schemas["Firing"], "prediction"> & { prediction: Prediction };
export type Reading = Schemas["ReadingView"];
export type Taken = Schemas["Taken"];
export type NotCounted = Schemas["NotCounted"];
export type Finding = Schemas["Finding"];
export type FindingRow = Schemas["FindingView"];
export type Cause = Schemas["Cause"];
export type Symptom = Schemas["Symptom"];
export type EventRow = Schemas["Event"];
export type Photo = Schemas["Photo"];
export type TraceView = Loose<Schemas["TraceView"]>;
export type LogRead = Loose<Schemas["LogRead"]>;
export type LogColumns = Schemas["Columns"];
export type Station = Schemas["Station"];
export type StationKind = Schemas["StationKind"];
export type StationSays = Schemas["StationSays"];
export type StationBody = Schemas["StationBody"];
export type Device = Schemas["Device"];
export type CalibrationRow = Schemas["CalibrationRow"];
export type Against = Schemas["Against"];
export type SteelView = Schemas["SteelView"];
export type Session = Schemas["Session"];
export type Problem = Schemas["Problem"];
export type Fault = Schemas["Fault"];
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

export const api = createClient<paths>({
  baseUrl: window.location.origin,
  // Looked up at each call, so that a test can answer instead.
  fetch: (request) => globalThis.fetch(request),
});

/** What the server said was wrong. */
export class ApiError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }

  /** Messages by field. */
  get fields(): Record<string, string> {
    return Object.fromEntries(
      (this.problem.fields ?? []).map((f) => [
        f.field,
        f.allowed ? `${f.message} Allowed: ${f.allowed}.` : f.message,
      ]),
    );
  }
}

const OFFLINE: Problem = {
  status: 0,
  title: "No answer",
  detail: "The server does not answer. What you typed is still here; try again.",
  fields: [],
};

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
    const problem = error as Partial<Problem> | undefined;
    throw new ApiError({ ...OFFLINE, status: response.status, ...problem });
  }
  return data as T;
}

export function problemOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
