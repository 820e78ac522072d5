import type { Firing } from "../api/client";
import type { Say } from "../words/quantities";
import { clock } from "./timing";

/** What the straightening window says now. */
export interface StraightenNow {
  /** When it opens and closes, ms; both sound. */
  opens: number;
  closes: number;
  text: string;
  /** Share of the window that is left, 0 to 1; null before it opens. */
  left: number | null;
}

/**
 * The straightening window, counted from the bath: shown while the blade is in the last quench, or just
 * out of it. The numbers are the engine's, frozen with the prediction.
 */
export function straightenNow(firing: Firing, now: number, say: Say): StraightenNow | null {
  const w = firing.prediction.straightening;
  if (!w) return null;
  const last = firing.steps.map((s) => s.kind).lastIndexOf("quench");
  const bath = firing.actions.findIndex((b) => b.step === last);
  const since = firing.state.confirmed_ms[bath];
  const here = firing.actions[firing.state.position - 1];
  const next = firing.actions[firing.state.position];
  const straightening = next && firing.steps[next.step]?.kind === "straighten";
  if (bath < 0 || since === undefined || !here) return null;
  if (here.step !== last && !straightening) return null;
  const opens = since + 1000 * w.pull_s;
  const out = here.mark === "quenched";
  const closes = since + 1000 * (out ? w.until_s : w.in_bath_s);
  const longest = since + 1000 * w.until_s;
  if (now < opens) {
    const text = `In ${clock(Math.ceil((opens - now) / 1000))} it can come out to be straightened: then ${clock(w.until_s - w.pull_s)} until it stiffens at ${say.temperature(w.martensite_start_c)}.`;
    return { opens, closes: longest, text, left: null };
  }
  if (now >= closes) {
    if (now > longest + 60_000) return null;
    return { opens, closes, text: "Too late to straighten: it springs or snaps now.", left: 0 };
  }
  const left = (closes - now) / (closes - opens);
  const text = out
    ? `Straighten now: ${clock(Math.ceil((closes - now) / 1000))} left.`
    : `Take it out to straighten: in the bath ${clock(Math.ceil((closes - now) / 1000))} left, out of it ${clock(Math.ceil((longest - now) / 1000))}.`;
  return { opens, closes, text, left };
}
