import type { Deviation, Firing, FiringAction, Step } from "../api/client";
import { actionsOf, type Course, deviated, planned, type SaidBath } from "./course";
import { atMs, type EventBody } from "./device";

type Said = Firing["state"]["said"][number];
type Deviated = NonNullable<Firing["state"]["deviations"]>[number];

/** What was done one after the other: only the last of it can be taken back. */
type Done = { id: string; at: number } | { id: string; deviated: Deviated; before: Course };

/** A step that was put in, with what there is to do in it: as the server said, or as it stands in the firing. */
export const extraOf = (firing: Firing) => (step: Step, number: number) => {
  const alike = JSON.stringify(step);
  const known = (firing.extras ?? []).find((e) => JSON.stringify(e.step) === alike);
  return known ?? { step, actions: firing.actions.filter((a) => a.step === number) };
};

/** The course of a firing, and what was done in it, one after the other. */
export function begun(firing: Firing): { course: Course; done: Done[] } {
  const { confirmed_ms, deviations = [] } = firing.state;
  const by = firing.state.confirmed_by ?? [];
  let course = planned(
    firing.planned?.steps ?? firing.steps,
    firing.planned?.actions ?? firing.actions,
  );
  const done: Done[] = [];
  const confirm = (upto: number) => {
    for (let i = done.filter((d) => ("at" in d)).length; i < upto; i += 1) {
      done.push({ id: by[i] ?? "", at: confirmed_ms[i] ?? 0 });
    }
  };
  for (const one of deviations) {
    confirm(one.position);
    done.push({ id: one.event, deviated: one, before: course });
    course = deviated(course, one.position, one, extraOf(firing)) ?? course;
  }
  confirm(confirmed_ms.length);
  return { course, done };
}

/** What was said of steps, as the state has it. */
const saidOf = (spoken: EventBody[]): Said[] =>
  spoken.flatMap((event) =>
    event.kind === "say" && event.step !== undefined
      ? [
          {
            kind: "say" as const,
            step: event.step,
            round: event.round,
            temperature_c: event.temperature_c,
            by: event.by,
            medium: event.medium,
            lasted_s: event.lasted_s,
            note: event.note || undefined,
          },
        ]
      : [],
  );

const bathsOf = (said: Said[]): SaidBath[] =>
  said.flatMap((s) =>
    s.kind === "say" && s.medium ? [{ step: s.step, round: s.round ?? 0, medium: s.medium }] : [],
  );

/** What the confirmed actions made of the blade. */
function followed(actions: FiringAction[], confirmed: number[]) {
  let untempered: number | undefined;
  let quenched = false;
  confirmed.forEach((at, i) => {
    const action = actions[i];
    if (action?.mark === "quenched") {
      quenched = true;
      untempered = at;
    } else if (action?.mark === "tempering" || action?.kind.code === "into_fire") {
      untempered = undefined;
    }
  });
  const lasting = actions.findLast((a) => a.mark === "quenched" || a.mark === "tempering");
  return {
    untempered_since_ms: untempered,
    quenched,
    tempered: quenched && confirmed.length === actions.length && lasting?.mark === "tempering",
  };
}

/**
 * A firing with events that the server has not seen yet, as it will be once it has. The rules are the
 * server's (`vatten_core::record::firing`), which refuses what cannot be; a test holds this to the same cases.
 */
export function fold(firing: Firing, events: EventBody[]): Firing {
  let { course, done } = begun(firing);
  let { closed, end } = firing.state;
  let closed_at = firing.closed_at;
  // What was said here and not taken back, in order.
  let spoken: EventBody[] = [];
  let found = firing.state.found ?? [];
  const positionOf = (all: Done[]) => all.filter((d) => "at" in d).length;
  const late = (event: EventBody) =>
    event.kind === "say" || event.kind === "found" || event.kind === "operator";
  const deviate = (event: EventBody, how: Deviation) => {
    const position = positionOf(done);
    const then = deviated(course, position, how, extraOf(firing));
    if (!then) return;
    const one = { event: event.id, position, ...how } as Deviated;
    done = [...done, { id: event.id, deviated: one, before: course }];
    course = then;
  };
  const takeBack = (last: Done) => {
    done = done.slice(0, -1);
    if (!("deviated" in last)) return;
    course = last.before;
    // What was said of steps that are no more is said of nothing.
    spoken = spoken.filter((s) => (s.step ?? 0) < course.steps.length);
  };
  for (const event of events) {
    const told =
      event.kind === "undo" &&
      (spoken.some((s) => s.id === event.event) || found.some((f) => f.event === event.event));
    // What really was may be said later.
    if (closed && !told && !late(event)) continue;
    const position = positionOf(done);
    const last = done.at(-1);
    if (event.kind === "confirm") {
      const length = course.order.reduce((n, s) => n + s.actions.length, 0);
      if (event.action === position && position < length) {
        done = [...done, { id: event.id, at: atMs(event) }];
      }
    } else if (told) {
      spoken = spoken.filter((s) => s.id !== event.event);
      found = found.filter((f) => f.event !== event.event);
    } else if (event.kind === "undo") {
      if (last && last.id === event.event) takeBack(last);
    } else if (event.kind === "deviate") {
      if (event.how) deviate(event, event.how);
    } else if (late(event)) {
      spoken.push(event);
      if (event.found) found = [...found, { event: event.id, found: event.found }];
    } else if (event.kind === "close") {
      closed = true;
      end = event.end ?? end;
      closed_at = new Date(atMs(event)).toISOString();
    }
  }
  const said = [...firing.state.said, ...saidOf(spoken)].filter(
    (s) => s.kind !== "say" || s.step < course.steps.length,
  );
  const actions = actionsOf(course, bathsOf(said));
  const confirmed = done.flatMap((d) => ("at" in d ? [d] : []));
  const deviations = done.flatMap((d) => ("deviated" in d ? [d.deviated] : []));
  const position = confirmed.length;
  return {
    ...firing,
    closed_at,
    actions,
    steps: course.steps,
    order: course.order.map((s) => s.number),
    planned: firing.planned ?? { steps: firing.steps, actions: firing.actions },
    state: {
      position,
      confirmed_ms: confirmed.map((c) => c.at),
      confirmed_by: confirmed.map((c) => c.id),
      ...followed(
        actions,
        confirmed.map((c) => c.at),
      ),
      doing: actions[position - 1]?.doing,
      closed,
      end,
      said,
      deviations: deviations.length > 0 ? deviations : undefined,
      found: found.length > 0 ? found : undefined,
      operator:
        spoken.findLast((e) => e.kind === "operator" && e.name)?.name ?? firing.state.operator,
    },
  };
}
