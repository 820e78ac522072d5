import type { DayBar, DayStation, DayView } from "../api/client";
import { momentsOf } from "./moments";

/** A part of a day that is shown: from and to, s since 1970. */
export interface Window {
  from_s: number;
  to_s: number;
}

/** A bar with the row of its lane that it lies in. */
export interface Placed {
  bar: DayBar;
  row: number;
}

export interface Lane {
  /** None for what only cools or dries in the air. */
  station: DayStation | null;
  bars: Placed[];
  rows: number;
}

const HOUR = 3600;
/** Shown at least, s. */
const LEAST = 8 * HOUR;

/** Midnight of the day that a moment is on, on this device's clock, s. */
export function dayOf(at_s: number): number {
  const at = new Date(at_s * 1000);
  return new Date(at.getFullYear(), at.getMonth(), at.getDate()).getTime() / 1000;
}

/** Midnight so many days later: a day is not always 24 hours long. */
export function daysLater(midnight_s: number, days: number): number {
  const at = new Date(midnight_s * 1000);
  return new Date(at.getFullYear(), at.getMonth(), at.getDate() + days).getTime() / 1000;
}

export const overlaps = (bar: Pick<DayBar, "start_s" | "end_s">, w: Window) =>
  bar.start_s < w.to_s && bar.end_s > w.from_s;

/** What of a day is worth showing: from the first hour that somebody works to the last that something goes on. */
export function windowOf(day: DayView, midnight_s: number): Window {
  const whole = { from_s: midnight_s, to_s: daysLater(midnight_s, 1) };
  const today = whole.from_s <= day.now_s && day.now_s < whole.to_s;
  const bars = day.bars.filter((b) => overlaps(b, whole));
  const begins = bars.filter((b) => b.start_s >= whole.from_s).map((b) => b.start_s);
  // What lies over from the day before does not call for showing the night.
  const over = bars.some((b) => b.start_s < whole.from_s);
  const shifts = day.operators
    .flatMap((o) => o.hours)
    .filter(([a, b]) => (a ?? 0) < whole.to_s && (b ?? 0) > whole.from_s);
  const firsts = [
    ...begins,
    ...shifts.map(([a]) => Math.max(a ?? 0, whole.from_s)),
    ...(over ? [whole.from_s + 6 * HOUR] : []),
  ];
  const first = Math.min(...firsts);
  // Long before anything begins there is nothing to be seen.
  if (today && day.now_s > first - 2 * HOUR) firsts.push(day.now_s);
  // What runs on alone into the night is told at its bar.
  const asked = bars
    .flatMap(momentsOf)
    .map((m) => m.to_s)
    .filter((at) => at <= whole.to_s);
  const lasts = [...asked, ...shifts.map(([, b]) => b ?? 0)];
  const from = firsts.length ? Math.min(...firsts) : whole.from_s + 8 * HOUR;
  const to = lasts.length ? Math.max(...lasts) : from + LEAST;
  const from_s = Math.max(whole.from_s, Math.floor((from - 600) / HOUR) * HOUR);
  const to_s = Math.min(Math.max(Math.ceil((to + 600) / HOUR) * HOUR, from_s + LEAST), whole.to_s);
  return { from_s, to_s };
}

/** Bars beside each other where they lie in the same place at the same time. */
export function stacked(bars: DayBar[], least_s: number): { placed: Placed[]; rows: number } {
  const ends: number[] = [];
  const placed = [...bars]
    .sort((a, b) => a.start_s - b.start_s || a.end_s - b.end_s)
    .map((bar) => {
      const free = ends.findIndex((end) => end <= bar.start_s);
      const row = free >= 0 ? free : ends.length;
      ends[row] = Math.max(bar.end_s, bar.start_s + least_s);
      return { bar, row };
    });
  return { placed, rows: Math.max(1, ends.length) };
}

/** Kinds that are shown though nothing is in them: fires are there to be used. */
const FIRES = ["kiln", "forge", "oven"];

const RANK = ["kiln", "forge", "tank", "plates", "cold_box", "oven"];

/** A lane for each station that something is done at, fires first; the last is for what cools or dries in the air. */
export function lanesOf(day: DayView, shown: Window, least_s: number): Lane[] {
  const bars = day.bars.filter((b) => overlaps(b, shown));
  const lane = (station: DayStation | null): Lane => {
    const here = bars.filter((b) => (b.station ?? null) === (station?.id ?? null));
    const { placed, rows } = stacked(here, least_s);
    return { station, bars: placed, rows };
  };
  const worth = ({ station, bars }: Lane) =>
    bars.length > 0 || (FIRES.includes(station?.kind ?? "") && !station?.presumed);
  const rank = (s: DayStation) => (RANK.indexOf(s.kind ?? "") + 10) % 10;
  const stations = [...day.stations].sort((a, b) => rank(a) - rank(b));
  return [...stations.map(lane), lane(null)].filter(worth);
}

/** When nobody is there, in what is shown. */
export function away(day: DayView, shown: Window): Window[] {
  const there = day.operators
    .flatMap((o) => o.hours)
    .map(([a, b]) => ({ from_s: a ?? 0, to_s: b ?? 0 }))
    .filter((w) => w.from_s < shown.to_s && w.to_s > shown.from_s)
    .sort((a, b) => a.from_s - b.from_s);
  const gaps: Window[] = [];
  let at = shown.from_s;
  for (const w of there) {
    if (w.from_s > at) gaps.push({ from_s: at, to_s: w.from_s });
    at = Math.max(at, w.to_s);
  }
  if (at < shown.to_s) gaps.push({ from_s: at, to_s: shown.to_s });
  return gaps;
}
