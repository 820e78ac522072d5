import type { LogNote } from "../api/client";
import { plural, type Say, type Wording, word } from "./quantities";

const NOTES: Wording<LogNote> = {
  rows_left_out: (f) =>
    `${plural(f.rows, "row", "rows")} without a time or a temperature left out.`,
  other_unit: (f) =>
    `${plural(f.rows, "row names", "rows name")} the other unit (${f.fahrenheit ? "Fahrenheit" : "Celsius"}) than the rest: turned into the same.`,
  clock_went_back: (f) =>
    `The clock went back ${plural(f.times, "time", "times")}: time was taken to go on.`,
  past_midnight: () => "It goes past midnight.",
  too_hot: (f, say) =>
    `It goes up to ${say.temperature(f.hottest_c)}, hotter than steel is treated: if the log is in Fahrenheit, say so.`,
  gap: (f, say) =>
    `Nothing for ${say.time(60 * Math.round(f.gap_s / 60))}${f.clock_put_forward ? ", perhaps a clock that was put forward" : ""}: not counted.`,
  more_gaps: (f) => `${plural(f.gaps, "more gap", "more gaps")}.`,
  thinned: (f) =>
    `${f.samples_read} samples: of each stretch the hottest and the coolest are kept.`,
};

/** What was odd in a log, in a sentence. */
export const logNote = (note: LogNote, say: Say) => word(NOTES, note, say);
