import type { DayBar, DayStation, DayView } from "../api/client";

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
  station: DayStation;
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
  const lasts = [...bars.map((b) => b.end_s), ...shifts.map(([, b]) => b ?? 0)];
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

/** A lane for each station that something is done at, fires first. What only cools or dries lies in the last one. */
export function lanesOf(day: DayView, shown: Window, least_s: number): Lane[] {
  const bars = day.bars.filter((b) => overlaps(b, shown));
  const lanes = day.stations.map((station) => {
    const here = bars.filter((b) => b.station === station.id);
    const air = station.kind ? [] : bars.filter((b) => !b.station);
    const { placed, rows } = stacked([...here, ...air], least_s);
    return { station, bars: placed, rows };
  });
  const rank = (s: DayStation) =>
    ["kiln", "forge", "tank", "plates", "cold_box", "oven"].indexOf(s.kind ?? "");
  const worth = lanes.filter(
    (l) => l.bars.length > 0 || (FIRES.includes(l.station.kind ?? "") && !l.station.presumed),
  );
  return worth.sort((a, b) => {
    const [x, y] = [rank(a.station), rank(b.station)];
    return (x < 0 ? 9 : x) - (y < 0 ? 9 : y);
  });
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
