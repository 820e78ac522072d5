import type { DayBar, DayView } from "../api/client";

/** Noon of a day, s. */
export const NOON = new Date(2026, 10, 30, 12).getTime() / 1000;

/** A bar an hour long: K-1 in the oven from noon, unless said otherwise. */
export function dayBar(over: Partial<DayBar> = {}): DayBar {
  const start_s = over.start_s ?? NOON;
  return {
    blade: "b1",
    activity: 0,
    kind: "temper",
    station: "oven",
    start_s,
    leave_s: start_s + 3540,
    end_s: start_s + 3600,
    heat_c: 205,
    preheat_c: null,
    hands: ["Runa", null, "Runa"],
    load: null,
    binds: { code: "step_before" },
    step: 0,
    step_kind: "temper",
    round: 0,
    phase: "temper",
    standing: "coming",
    pinned: false,
    nominal_c: 205,
    departs_ppm: 0,
    departs_hrc: 0,
    in_s: 60,
    attended: false,
    out_s: 60,
    ...over,
  };
}

const oven = {
  id: "oven",
  kind: "oven" as const,
  name: "Kitchen oven",
  medium: null,
  presumed: false,
  places: 6,
  runs_alone: true,
  heats_in_s: 900,
  heat: [
    [NOON - 900, 20],
    [NOON, 205],
    [NOON + 3600, 205],
  ],
  free_s: NOON + 3540,
};

/** A day with these bars: one blade, one oven, two people from eight to six. */
export function dayOf(bars: DayBar[], over: Partial<DayView> = {}): DayView {
  const ids = [...new Set(bars.map((b) => b.blade))];
  return {
    version: 1,
    now_s: NOON,
    bars,
    blades: ids.map((id, i) => ({
      blade_id: id,
      mark: `K-${i + 1}`,
      not_before_s: NOON,
      due_s: null,
      firing_id: null,
      done_s: NOON + 7200,
      left_out: false,
      risk_ppm: 0,
      hard: null,
      hard_at_most_s: null,
      untempered: false,
      trouble: null,
    })),
    stations: [oven],
    operators: ["Runa", "Tove"].map((name) => ({
      name,
      hours: [[NOON - 4 * 3600, NOON + 6 * 3600]],
      breaks: [],
    })),
    measures: {
      ends_s: NOON + 7200,
      left_out: 0,
      broken_s: 0,
      late_s: 0,
      risk_ppm: 0,
      ails: false,
    },
    news: [],
    learned: [],
    ...over,
  } as DayView;
}
