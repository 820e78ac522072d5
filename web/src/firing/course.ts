import type { Deviation, Firing, FiringAction, Medium, Step } from "../api/client";

/** One step with what there is to do in it. */
interface CourseStep {
  number: number;
  actions: FiringAction[];
}

/**
 * The steps of a firing as they stand once it went another way than was planned. The rules are the core's
 * (`vatten_core::record::firing::course`), which refuses what cannot be; a test holds this to the same cases.
 */
export interface Course {
  /** Every step there ever was, by its number. */
  steps: Step[];
  /** Those that are done or to be done, in order. */
  order: CourseStep[];
}

/** Something that can be put in, with what there is to do in it. */
type Extra = Firing["extras"][number];

/** The numbers of the steps in order; a firing kept by an older version has none but those of its plan. */
export const orderOf = (firing: Firing): number[] =>
  firing.order ?? firing.steps.map((_, number) => number);

export function planned(steps: Step[], actions: FiringAction[]): Course {
  const of = (number: number) => actions.filter((a) => a.step === number);
  return { steps, order: steps.map((_, number) => ({ number, actions: of(number) })) };
}

const kindOf = (course: Course, step: CourseStep | undefined) =>
  step && course.steps[step.number]?.kind;

/** Number of the first action of the step at a place. */
const firstOf = (course: Course, place: number) =>
  course.order.slice(0, place).reduce((n, s) => n + s.actions.length, 0);

/** Where a step that comes next stands: behind the one that was begun last. */
function nextPlace(course: Course, position: number): number {
  let first = 0;
  for (const [place, step] of course.order.entries()) {
    if (first >= position) return place;
    first += step.actions.length;
  }
  return course.order.length;
}

function leftOut(course: Course, position: number, number: number, round: number): Course | null {
  const place = course.order.findIndex((s) => s.number === number);
  const [of, step] = [course.order[place], course.steps[number]];
  if (!of || !step) return null;
  const first = firstOf(course, place);
  if (round === 0) {
    return first < position ? null : { ...course, order: course.order.toSpliced(place, 1) };
  }
  const at = of.actions.findIndex((a) => a.round === round);
  if (at < 0 || first + at < position) return null;
  const less: Step =
    step.kind === "temper"
      ? { ...step, times: round }
      : step.kind === "quench"
        ? { ...step, stages: step.stages.slice(0, round) }
        : step;
  const actions = of.actions.filter((a) => (a.round ?? 0) < round);
  return {
    steps: course.steps.with(number, less),
    order: course.order.with(place, { number, actions }),
  };
}

const isHot = (course: Course, position: number) => {
  const last = course.order.flatMap((s) => s.actions)[position - 1];
  return last?.doing.code === "quenching" || last?.doing.code === "straightening_warm";
};

function putIn(course: Course, position: number, extras: Extra[]): Course | null {
  const steps = extras.map((e) => e.step);
  if (
    isHot(course, position) &&
    !steps.every((s) => s.kind === "straighten" || s.kind === "check")
  ) {
    return null;
  }
  const quench = steps.findIndex((s) => s.kind === "quench");
  if (quench >= 0 && !steps.slice(0, quench).some((s) => s.kind === "austenitize")) return null;
  const from = course.steps.length;
  const put = extras.map((e, i) => ({
    number: from + i,
    actions: e.actions.map((a) => ({ ...a, step: from + i })),
  }));
  return {
    steps: [...course.steps, ...steps],
    order: course.order.toSpliced(nextPlace(course, position), 0, ...put),
  };
}

function again(course: Course, position: number, from: number, to: number): Course | null {
  const [first, last] = [from, to].map((n) => course.order.findIndex((s) => s.number === n));
  if (first === undefined || last === undefined || first < 0 || last < first) return null;
  const those = course.order.slice(first, last + 1);
  return putIn(
    course,
    position,
    those.map((s) => ({ step: course.steps[s.number] as Step, actions: s.actions })),
  );
}

function earlier(course: Course, position: number, number: number): Course | null {
  const place = course.order.findIndex((s) => s.number === number);
  const [step, next] = [course.order[place], nextPlace(course, position)];
  if (!step || place < next) return null;
  return { ...course, order: course.order.toSpliced(place, 1).toSpliced(next, 0, step) };
}

function timed(course: Course, number: number, round: number, lasts_s: number): Course | null {
  const place = course.order.findIndex((s) => s.number === number);
  const of = course.order[place];
  const at = of?.actions.findIndex((a) => (a.round ?? 0) === round && a.lasts_s != null) ?? -1;
  const action = of?.actions[at];
  if (!of || !action) return null;
  const actions = of.actions.with(at, { ...action, lasts_s });
  return { ...course, order: course.order.with(place, { number, actions }) };
}

/** Steps that can be set to another temperature at the fire. */
const HEATS: Step["kind"][] = [
  "anneal",
  "stress_relief",
  "normalize",
  "refine",
  "preheat",
  "austenitize",
  "sub_zero",
  "temper",
];

function heat(course: Course, position: number, number: number, temperature_c: number) {
  const place = course.order.findIndex((s) => s.number === number);
  const [of, step] = [course.order[place], course.steps[number]];
  if (!of || !step || firstOf(course, place) + of.actions.length <= position) return null;
  if (!HEATS.includes(step.kind)) return null;
  // A heat in degrees is by an instrument.
  const { by: _, ...rest } = step as Step & { by?: unknown };
  return { ...course, steps: course.steps.with(number, { ...rest, temperature_c } as Step) };
}

function clamp(course: Course, position: number, number: number, shim_mm?: number | null) {
  const place = course.order.findIndex((s) => s.number === number);
  const [of, step] = [course.order[place], course.steps[number]];
  if (!of || step?.kind !== "temper") return null;
  if (firstOf(course, place) + of.actions.length <= position) return null;
  const to = { ...step, clamp: shim_mm == null ? {} : { shim_mm } };
  return { ...course, steps: course.steps.with(number, to) };
}

/** Something is quenched, and it was at heat before. */
function hardens(course: Course): boolean {
  const kinds = course.order.map((s) => kindOf(course, s));
  const quench = kinds.indexOf("quench");
  return quench >= 0 && kinds.slice(0, quench).includes("austenitize");
}

const WARM = {
  kind: { code: "out_warm" },
  doing: { code: "straightening_warm" },
  caution: "straighten",
} as const;
const COLD = {
  kind: { code: "out_cold" },
  doing: { code: "looking_over" },
  caution: "brittle",
} as const;

/** Out of a bath that was not left yet: warm, where it is straightened next. */
function mendWaysOut(course: Course, position: number): Course {
  const order = course.order.map((step, place) => {
    const out = step.actions.at(-1);
    const end = firstOf(course, place) + step.actions.length;
    if (end <= position || out?.mark !== "quenched") return step;
    const way = kindOf(course, course.order[place + 1]) === "straighten" ? WARM : COLD;
    return { ...step, actions: step.actions.with(-1, { ...out, ...way }) };
  });
  return { ...course, order };
}

/** The course after a deviation that was said when `position` actions were confirmed; null where it cannot be. */
export function deviated(
  course: Course,
  position: number,
  how: Deviation,
  extraOf: (step: Step, number: number) => Extra,
): Course | null {
  const then = (() => {
    switch (how.deviation) {
      case "left_out":
        return leftOut(course, position, how.step, how.round ?? 0);
      case "again":
        return again(course, position, how.from, how.to);
      case "extra":
        return putIn(course, position, [extraOf(how.step, course.steps.length)]);
      case "earlier":
        return earlier(course, position, how.step);
      case "timed":
        return timed(course, how.step, how.round ?? 0, how.lasts_s);
      case "heat":
        return heat(course, position, how.step, how.temperature_c);
      case "clamp":
        return clamp(course, position, how.step, how.shim_mm);
    }
  })();
  if (!then || (hardens(course) && !hardens(then))) return null;
  return mendWaysOut(then, position);
}

/** Numbers the heats of a kind that follow each other, and the rounds that are left of a temper. */
function countHeats(course: Course): FiringAction[] {
  const kinds = course.order.map((s) => kindOf(course, s));
  return course.order.flatMap((of, place) => {
    const step = course.steps[of.number];
    let [before, after] = [place, place];
    while (before > 0 && kinds[before - 1] === kinds[place]) before -= 1;
    while (kinds[after + 1] === kinds[place] && after + 1 < kinds.length) after += 1;
    return of.actions.map((a) => {
      if (!("heat" in a.doing)) return a;
      const { heat } = a.doing;
      const counted =
        step?.kind === "temper"
          ? { ...heat, count: step.times }
          : { ...heat, number: place - before + 1, count: after - before + 1 };
      return { ...a, doing: { ...a.doing, heat: counted } };
    });
  });
}

/** A blade that lies hard is brittle before it is anything else; a magnet is held to steel that still glows. */
function warnOfHard(actions: FiringAction[]): FiringAction[] {
  let hard = false;
  return actions.map((a) => {
    if (a.mark === "quenched") hard = true;
    else if (a.mark === "tempering" || a.kind.code === "into_fire") hard = false;
    const { doing } = a;
    if (doing.code === "looking" && doing.look === "magnet") return { ...a, caution: "hot" };
    if (doing.code !== "looking" && doing.code !== "cooled") return a;
    return { ...a, caution: hard ? "brittle" : "air" };
  });
}

function cautionOf(medium: Medium): FiringAction["caution"] {
  switch (medium) {
    case "brine":
    case "water":
      return "water";
    case "plates":
    case "forced_air":
    case "still_air":
      return "hot";
    case "salt":
      return "salt";
    default:
      return "oil";
  }
}

/** A bath that was another one than planned. */
export interface SaidBath {
  step: number;
  round: number;
  medium: Medium;
}

/** What there is to do, in order, with the baths that were said. */
export function actionsOf(course: Course, said: SaidBath[]): FiringAction[] {
  return warnOfHard(countHeats(course)).map((a) => {
    const step = course.steps[a.step];
    if (a.kind.code !== "into_bath" || step?.kind !== "quench") return a;
    const other = said.findLast((s) => s.step === a.step && s.round === (a.round ?? 0));
    const medium = other?.medium ?? step.stages[a.round ?? 0]?.medium;
    if (!medium || medium === a.kind.medium) return a;
    return {
      ...a,
      kind: { code: "into_bath", medium },
      doing: { code: "quenching", medium },
      caution: cautionOf(medium),
    };
  });
}
