import type { ClayAdvice } from "../api/client";
import type { Say } from "./quantities";

/** The clay that brings the line nearest to the wanted one, in a sentence. */
export function found(a: ClayAdvice, say: Say): string {
  if (a.thickness_mm == null || a.off_mm == null) {
    return "No clay gives a line here: this steel in this quench hardens through, or not at all.";
  }
  return `${say.about(a.thickness_mm)} of clay on both faces brings the line within ${say.about(a.off_mm)} of what you want. Let it dry overnight, or an hour at ${say.temperature(200)}.`;
}
