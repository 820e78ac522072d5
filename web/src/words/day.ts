import type {
  DayBar,
  DayChange,
  DayCure,
  DayMeasures,
  DayRelaxation,
  DayStation,
  DayTrouble,
  DayView,
} from "../api/client";
import { hrc, MEDIA, STATION_KINDS, STEPS, span } from "./names";
import type { Say } from "./quantities";

/** What a day is told with: its marks and the names of its stations. */
export interface DayNames {
  mark: (blade: string) => string;
  station: (id: string) => string;
}

const nameOf = (s: DayStation) => {
  if (s.name) return s.name;
  if (!s.kind) return "Bench";
  const medium = s.medium && s.kind === "tank" ? MEDIA[s.medium as keyof typeof MEDIA] : null;
  return medium ? `a tank of ${medium}` : `a ${STATION_KINDS[s.kind]}`;
};

/** The names of a day; of blades that are no longer on it those of the rack. */
export function dayNames(day: DayView, rack: { id: string; mark: string }[] = []): DayNames {
  const marks = new Map([
    ...rack.map((b) => [b.id, b.mark] as const),
    ...day.blades.map((b) => [b.blade_id, b.mark] as const),
  ]);
  const stations = new Map(day.stations.map((s) => [s.id, nameOf(s)]));
  return {
    mark: (blade) => marks.get(blade) ?? "a blade",
    station: (id) => stations.get(id) ?? "a station",
  };
}

/** A time of day on this device's clock. */
export const clock = (at_s: number) =>
  new Date(at_s * 1000).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });

/** With the day of the week where it is not the one that is spoken of. */
export function clockOn(at_s: number, today_s: number): string {
  const [at, today] = [new Date(at_s * 1000), new Date(today_s * 1000)];
  if (at.toDateString() === today.toDateString()) return clock(at_s);
  return `${at.toLocaleDateString("en-GB", { weekday: "short" })} ${clock(at_s)}`;
}

/** How many times a step of this kind is done to the blade before and in all. */
function countOf(bar: DayBar, day: DayView): string {
  const same = day.bars.filter(
    (b) => b.blade === bar.blade && b.step_kind === bar.step_kind && b.phase === bar.phase,
  );
  if (same.length < 2) return "";
  const nth = same.findIndex((b) => b.activity === bar.activity) + 1;
  return ` ${nth} of ${same.length}`;
}

/** What is done, as a heading: Temper 1 of 2. */
export function doneIn(bar: DayBar, day: DayView): string {
  const step = STEPS[bar.step_kind];
  switch (bar.phase) {
    case "cooling":
      return `Cool after ${step.toLowerCase()}`;
    case "drying":
      return "Clay dries";
    case "cool":
      return "Cool";
    default:
      return bar.step_kind === "clay" ? "Clay" : `${step}${countOf(bar, day)}`;
  }
}

/** A moment that asks for hands, in the imperative. */
export function asks(bar: DayBar, which: "in" | "at" | "out"): string {
  const step = STEPS[bar.step_kind].toLowerCase();
  if (which === "at") return bar.step_kind === "clay" ? "clay" : step;
  const fire = bar.phase === "cold" ? "the cold" : bar.phase === "temper" ? "temper" : "the fire";
  if (which === "out") return `out of ${fire}`;
  return bar.phase === "temper" || bar.phase === "heat" ? `in to ${step}` : `into ${fire}`;
}

/** Why it is not earlier. */
export function binding(bar: DayBar, names: DayNames, day: DayView): string {
  const why = bar.binds;
  switch (why.code) {
    case "step_before":
      return bar.activity === 0 ? "It begins when it may." : "It follows the step before.";
    case "now":
      return "It begins now.";
    case "station": {
      const holds = day.bars.find((b) => b.blade === why.blade && b.activity === why.activity);
      const until = holds ? ` until ${clock(holds.leave_s)}` : "";
      return `${names.mark(why.blade)} is in ${names.station(why.station)}${until}.`;
    }
    case "heat":
      return `${names.station(why.station)} has to change its heat first.`;
    case "hands":
      return `No hands are free before: ${why.operator} would be the first.`;
    case "alone":
      return `Nobody would be there with ${names.station(why.station)}.`;
    case "bath":
      return `${names.station(why.station)} has to cool or warm to its range first.`;
    case "wait":
      return why.blade === bar.blade
        ? "Earlier it would wait hard or hot afterwards."
        : `Earlier ${names.mark(why.blade)} would wait hard or hot.`;
    case "pin":
      return "It is pinned.";
  }
}

const later = (by_s: number) => `${span(Math.abs(by_s))} ${by_s > 0 ? "later" : "earlier"}`;

/** What is other, in a few words. */
export function changed(of: DayChange, names: DayNames, now_s: number): string {
  switch (of.code) {
    case "moved": {
      const step = STEPS[of.kind as DayBar["step_kind"]]?.toLowerCase() ?? of.kind;
      return `${names.mark(of.blade)} ${step} ${later(of.by_s)}`;
    }
    case "free":
      return `${names.station(of.station)} free at ${clockOn(of.at_s, now_s)}`;
    case "left_out":
      return `${names.mark(of.blade)} is off`;
    case "added":
      return `${names.mark(of.blade)} is on`;
  }
}

/** Several of them in one line: what came or went first, then who moved most, then what is free when. */
export function news(all: DayChange[], names: DayNames, now_s: number, most = 4): string {
  const rank = { left_out: 0, added: 1, moved: 2, free: 3 };
  const sorted = [...all].sort((a, b) => rank[a.code] - rank[b.code]);
  const told = sorted.slice(0, most).map((c) => changed(c, names, now_s));
  const more = all.length - told.length;
  return `${told.join("; ")}${more > 0 ? `; and ${more} more` : ""}.`;
}

/** Why a blade is not on the day. */
export function trouble(of: DayTrouble, mark: string): string {
  switch (of.code) {
    case "no_plan":
      return `${mark} has no plan yet.`;
    case "no_station": {
      const what = of.medium
        ? `a tank of ${MEDIA[of.medium as keyof typeof MEDIA] ?? of.medium}`
        : `a ${STATION_KINDS[of.kind]}`;
      return `${mark} needs ${what} in step ${of.step + 1}, and the shop has none.`;
    }
    case "too_long":
      return `${mark} is too long for every station of step ${of.step + 1}.`;
    case "unknown":
      return `What ${mark} is made of is no longer known.`;
  }
}

/** What could be given, as a question to the day. */
export function relaxation(of: DayRelaxation, names: DayNames): string {
  switch (of.code) {
    case "unpin":
      return `the pin of ${names.mark(of.blade)} is let go`;
    case "longer":
      return `${of.operator} stays ${span(of.by_s)} longer`;
    case "due":
      return `${names.mark(of.blade)} is wanted ${span(of.by_s)} later`;
    case "second":
      return `there is a second ${names.station(of.station)}`;
    case "without":
      return `${names.mark(of.blade)} waits for another day`;
  }
}

/** What cannot be on a day, in one sentence. */
export function ails(m: DayMeasures): string {
  const parts = [
    m.left_out > 0 &&
      `${m.left_out === 1 ? "one blade finds" : `${m.left_out} blades find`} no room`,
    m.broken_s > 0 && `what is pinned or done breaks a rule by ${span(m.broken_s)}`,
    m.late_s > 0 && `${span(m.late_s)} late in all`,
  ].filter(Boolean);
  const text = parts.join(", ");
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}.`;
}

export function cure(of: DayCure, names: DayNames): string {
  const left = [
    of.left_out > 0 && `${of.left_out} without room`,
    of.broken_s > 0 && `${span(of.broken_s)} against a rule`,
    of.late_s > 0 && `${span(of.late_s)} late`,
  ].filter(Boolean);
  const still = of.cures || left.length === 0 ? "" : ` (leaves ${left.join(", ")})`;
  return `${relaxation(of.gives, names)}${still}`;
}

/** What a departure from the planned heat is and costs. */
export function departure(bar: DayBar, say: Say): string | null {
  if (bar.heat_c == null || bar.nominal_c == null) return null;
  const off = bar.heat_c - bar.nominal_c;
  if (Math.abs(off) < 0.5) return null;
  const cost = bar.departs_ppm / 10_000;
  const costs =
    cost < 0.01 ? "at no cost" : `which costs ${cost.toFixed(cost < 1 ? 2 : 1)} in a hundred`;
  const by = Math.abs(bar.departs_hrc);
  const leaves = by < 0.05 ? "" : `, ${hrc(by)} HRC ${bar.departs_hrc > 0 ? "harder" : "softer"}`;
  return `${say.difference(off)} ${off > 0 ? "hotter" : "cooler"} than planned to share the fire${leaves}, ${costs}`;
}
