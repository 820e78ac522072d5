import type { DoNow } from "../api/client";
import { type Say, type Wording, word } from "./quantities";

const NOW: Wording<DoNow> = {
  stop: () =>
    "Stop. A crack goes on: do not bend or knock it. Close the firing and give it up, with its cause.",
  look_for_line: () =>
    "Look for a line under a lens and good light before it goes on; chalk or penetrant shows it.",
  file_again: (f) => {
    const first =
      f.warm && f.skin_on ? "cold, with the skin off" : f.warm ? "cold" : "with the skin off";
    return `That says nothing yet: file again ${first}.`;
  },
  harden_again: (f) =>
    `Softer than it should be: at most ${f.at_most_hrc.toFixed(0)} HRC where ${f.promised_hrc.toFixed(0)} or more was to come. Do not temper: normalize, then harden again, and ask Help what went wrong.`,
  temper: () => "As hard as it should be: temper it now.",
  straighten: (f, say) => {
    const shim =
      f.shim_mm == null ? "" : ` In the temper clamp it ${say.about(f.shim_mm)} past straight.`;
    return `More than the ${say.about(f.tolerance_mm)} that can be left.${shim}`;
  },
  leave_it: (f, say) => `Straight enough: up to ${say.about(f.tolerance_mm)} can be left.`,
};

/** What a finding at the fire asks for now, in a sentence. */
export const doNow = (now: DoNow, say: Say) => word(NOW, now, say);
