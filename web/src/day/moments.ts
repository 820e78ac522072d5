import type { DayBar, DayView } from "../api/client";

/** A moment that asks for hands. */
export interface Moment {
  bar: DayBar;
  /** It goes in, is worked on all the while, or comes out. */
  which: "in" | "at" | "out";
  from_s: number;
  to_s: number;
  who: string | null;
}

/** The moments of a bar that ask for hands, in their order. */
export function momentsOf(bar: DayBar): Moment[] {
  const [first, all, last] = bar.hands;
  if (bar.attended) {
    return [{ bar, which: "at", from_s: bar.start_s, to_s: bar.end_s, who: all ?? null }];
  }
  const moments: Moment[] = [];
  if (bar.in_s > 0) {
    const to_s = bar.start_s + bar.in_s;
    moments.push({ bar, which: "in", from_s: bar.start_s, to_s, who: first ?? all ?? null });
  }
  if (bar.out_s > 0) {
    const to_s = bar.leave_s + bar.out_s;
    moments.push({ bar, which: "out", from_s: bar.leave_s, to_s, who: last ?? all ?? null });
  }
  return moments;
}

/** What is still to be done by hand, in the order of time: of what goes on only what is left. */
export function coming(day: DayView, from_s = Number.NEGATIVE_INFINITY): Moment[] {
  return day.bars
    .filter((b) => b.standing !== "done")
    .flatMap(momentsOf)
    .filter((m) => (m.bar.standing === "coming" ? true : m.which === "out"))
    .filter((m) => m.to_s > from_s)
    .sort((a, b) => a.from_s - b.from_s || a.to_s - b.to_s);
}

/** The same by who does it, everybody of the day with their own; what nobody is named for comes last. */
export function byWhom(day: DayView, from_s?: number): { who: string | null; moments: Moment[] }[] {
  const all = coming(day, from_s);
  const named = day.operators.map((o) => ({
    who: o.name as string | null,
    moments: all.filter((m) => m.who === o.name),
  }));
  const known = new Set(day.operators.map((o) => o.name));
  const nobody = all.filter((m) => !m.who || !known.has(m.who));
  return [...named, ...(nobody.length > 0 ? [{ who: null, moments: nobody }] : [])];
}

/** Moments that are one for whoever does them: the same done to several blades, one after the other. */
export interface Together {
  first: Moment;
  blades: string[];
}

/** Further apart than this they are two, s. */
const APART_S = 300;

/** Moments that follow each other and ask for the same at the same station, as one. */
export function gathered(moments: Moment[]): Together[] {
  const all: (Together & { last_s: number })[] = [];
  const same = (a: Moment, b: Moment) =>
    a.which === b.which &&
    a.bar.step_kind === b.bar.step_kind &&
    a.bar.phase === b.bar.phase &&
    a.bar.station === b.bar.station &&
    a.bar.heat_c === b.bar.heat_c;
  for (const m of moments) {
    const before = all.findLast(
      (t) => same(t.first, m) && m.from_s - t.last_s <= APART_S && !t.blades.includes(m.bar.blade),
    );
    // Each quench is its own: a blade goes into the bath alone.
    if (before && m.bar.phase !== "bath") {
      before.blades.push(m.bar.blade);
      before.last_s = m.from_s;
    } else {
      all.push({ first: m, blades: [m.bar.blade], last_s: m.from_s });
    }
  }
  return all;
}

/** Of whoever a device is with; what nobody is named for is everybody's. */
export const meant = (moments: Moment[], whose: string | null) =>
  moments.filter((m) => !whose || !m.who || m.who === whose);
