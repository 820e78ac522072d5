import type { Blade } from "../api/client";
import { doing } from "./firing";
import { span } from "./names";

export interface Standing {
  group: "now" | "fire" | "bench";
  text: string;
  loud: boolean;
}

/** Where a blade stands, in a few words. */
export function standing(blade: Blade, now: number): Standing {
  const state = blade.firing_state;
  const since = state?.confirmed_ms.at(-1);
  const ago = since ? `, ${span((now - since) / 1000)}` : "";
  // Hard, but where it belongs: in the cold, straight after the quench.
  if (blade.firing_open && state?.doing?.code === "in_cold") {
    return { group: "fire", text: `in the cold${ago}`, loud: false };
  }
  if (blade.untempered_since) {
    const waited = (now - Date.parse(blade.untempered_since)) / 1000;
    return { group: "now", text: `hard, untempered ${span(waited)}`, loud: true };
  }
  if (blade.firing_open && state) {
    if (state.tempered) return { group: "now", text: "all done: close the firing", loud: false };
    return {
      group: "fire",
      text: `${state.doing ? doing(state.doing).toLowerCase() : "begun"}${ago}`,
      loud: false,
    };
  }
  if (state?.end === "abandoned") {
    return { group: "bench", text: `abandoned, ${state.quenched ? "hard" : "soft"}`, loud: false };
  }
  if (state?.tempered) return { group: "bench", text: "tempered: read and finish", loud: false };
  if (blade.firing_id) return { group: "bench", text: "fired", loud: false };
  return { group: "bench", text: blade.plan_id ? "planned" : "no plan yet", loud: false };
}
