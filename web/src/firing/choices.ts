import type { Deviation, Firing, Step } from "../api/client";
import { type Course, deviated, orderOf } from "./course";
import { begun, extraOf } from "./fold";

/** A way the firing can go on other than planned: what it is called, and the deviations it takes, in order. */
export interface Choice {
  /** The same for every blade of a load. */
  key: string;
  what: "again" | "harden_again" | "left_out" | "next" | "put_in" | "longer" | "shorter";
  kind: Step["kind"];
  /** Round or bath that is left out, from 1. */
  round?: number;
  /** By how long, s. */
  by_s?: number;
  /** From which step on it is hardened again. */
  from?: Step["kind"];
  how: Deviation[];
}

const HEATS: Step["kind"][] = [
  "normalize",
  "refine",
  "anneal",
  "stress_relief",
  "temper",
  "sub_zero",
];
/** Before the quench and after it other steps make sense. */
const BEFORE: Step["kind"][] = ["normalize", "stress_relief", "straighten", "cool"];
const AFTER: Step["kind"][] = ["straighten", "cool", "sub_zero", "temper"];

/** A hold is made longer or shorter by this, s. */
function stride(lasts_s: number): number {
  if (lasts_s >= 3600) return 1800;
  if (lasts_s >= 600) return 300;
  if (lasts_s >= 120) return 60;
  return lasts_s >= 20 ? 10 : 1;
}

/** Hardened again: from the last heat before it that softens it, and straight from the hardening heat. */
function hardenAgain(firing: Firing): Omit<Choice, "key">[] {
  if (!firing.state.quenched) return [];
  const order = orderOf(firing);
  const { steps } = firing;
  const kinds = order.map((n) => steps[n]?.kind);
  const confirmed = new Set(
    firing.actions.slice(0, firing.state.position).map((a) => order.indexOf(a.step)),
  );
  const quench = kinds.findLastIndex((k, at) => k === "quench" && confirmed.has(at));
  const heat = kinds.findLastIndex((k, at) => k === "austenitize" && at < quench);
  if (heat < 0) return [];
  const before = kinds.slice(0, heat);
  const soft = before.findLastIndex((k) => k === "normalize" || k === "refine" || k === "anneal");
  // Coat, clay and preheat belong to the heat behind them.
  const again = (at: number): Deviation => ({
    deviation: "again",
    from: order[at] as number,
    to: order[quench] as number,
  });
  const first = soft + 1;
  const normalize = (firing.extras ?? []).find((e) => e.step.kind === "normalize");
  const what = "harden_again" as const;
  const choices: Omit<Choice, "key">[] = [];
  if (soft >= 0) {
    choices.push({ what, kind: "quench", from: kinds[soft], how: [again(soft)] });
  } else if (normalize) {
    // What is put in later comes first.
    const put: Deviation = { deviation: "extra", step: normalize.step };
    choices.push({ what, kind: "quench", from: "normalize", how: [again(first), put] });
  }
  choices.push({ what, kind: "quench", from: "austenitize", how: [again(first)] });
  return choices;
}

function leftOut(firing: Firing): Omit<Choice, "key">[] {
  const { actions, steps } = firing;
  const order = orderOf(firing);
  const { position } = firing.state;
  const [last, next] = [actions[position - 1], actions[position]];
  if (!next) return [];
  const what = "left_out" as const;
  const rest = last?.step === next.step;
  const choices: Omit<Choice, "key">[] = [];
  const step = steps[next.step];
  if (rest && step && (step.kind === "temper" || step.kind === "quench")) {
    const round = (last?.round ?? 0) + 1;
    const how: Deviation = { deviation: "left_out", step: next.step, round };
    choices.push({ what, kind: step.kind, round: round + 1, how: [how] });
  }
  const at = order.indexOf(next.step) + (rest ? 1 : 0);
  const number = order[at];
  const kind = number === undefined ? undefined : steps[number]?.kind;
  if (number !== undefined && kind) {
    choices.push({ what, kind, how: [{ deviation: "left_out", step: number }] });
  }
  return choices;
}

function next(firing: Firing): Omit<Choice, "key">[] {
  const { actions, steps } = firing;
  const order = orderOf(firing);
  const { position, quenched } = firing.state;
  const begunAt = order.indexOf(actions[position - 1]?.step ?? -1);
  // Behind the one that comes next anyway.
  const later = order.slice(begunAt + 2);
  const first = steps[order[begunAt + 1] ?? -1]?.kind;
  const kinds = new Set<Step["kind"] | undefined>([first, "quench", "austenitize"]);
  return later.flatMap((number) => {
    const kind = steps[number]?.kind;
    if (!kind || kinds.has(kind) || (!quenched && AFTER.includes(kind))) return [];
    kinds.add(kind);
    return [{ what: "next" as const, kind, how: [{ deviation: "earlier", step: number }] }];
  });
}

function timed(firing: Firing): Omit<Choice, "key">[] {
  const last = firing.actions[firing.state.position - 1];
  const step = last && firing.steps[last.step];
  if (!last?.lasts_s || !step) return [];
  const by_s = stride(last.lasts_s);
  const to = (lasts_s: number): Deviation[] => [
    { deviation: "timed", step: last.step, round: last.round ?? 0, lasts_s },
  ];
  const of = { kind: step.kind, by_s };
  return [
    { what: "longer", ...of, how: to(last.lasts_s + by_s) },
    ...(last.lasts_s > by_s
      ? [{ what: "shorter" as const, ...of, how: to(last.lasts_s - by_s) }]
      : []),
  ];
}

/** In what ways a firing can go on from here other than planned; only what the rules allow. */
export function choices(firing: Firing): Choice[] {
  if (firing.closed_at) return [];
  const { position, quenched } = firing.state;
  const last = firing.steps[firing.actions[position - 1]?.step ?? -1];
  const again: Omit<Choice, "key">[] =
    last && HEATS.includes(last.kind)
      ? [
          {
            what: "again",
            kind: last.kind,
            how: [
              {
                deviation: "again",
                from: firing.actions[position - 1]?.step ?? 0,
                to: firing.actions[position - 1]?.step ?? 0,
              },
            ],
          },
        ]
      : [];
  const put: Omit<Choice, "key">[] = (firing.extras ?? [])
    .filter((e) => (quenched ? AFTER : BEFORE).includes(e.step.kind))
    .map((e) => ({
      what: "put_in" as const,
      kind: e.step.kind,
      how: [{ deviation: "extra" as const, step: e.step }],
    }));
  const all = [
    ...timed(firing),
    ...again,
    ...leftOut(firing),
    ...next(firing),
    ...put,
    ...hardenAgain(firing),
  ];
  const { course } = begun(firing);
  const allowed = (how: Deviation[]) => {
    let then: Course | null = course;
    for (const one of how) then = then && deviated(then, position, one, extraOf(firing));
    return then !== null;
  };
  return all
    .filter((c) => allowed(c.how))
    .map((c) => ({ ...c, key: `${c.what} ${c.kind} ${c.from ?? ""} ${c.round ?? ""}` }));
}

/** It would stay as hard as it came from the quench. */
export function leavesHard(firing: Firing, way: Choice): boolean {
  if (way.what !== "left_out" || way.kind !== "temper" || way.round) return false;
  const { actions, steps } = firing;
  const { position, quenched } = firing.state;
  const out = way.how.flatMap((h) => (h.deviation === "left_out" ? [h.step] : []));
  const tempers = (all: typeof actions) =>
    all.filter((a) => steps[a.step]?.kind === "temper" && !out.includes(a.step));
  const quench = actions.findLastIndex(
    (a, at) => at < position && steps[a.step]?.kind === "quench",
  );
  return quenched && tempers(actions.slice(quench + 1)).length === 0;
}
