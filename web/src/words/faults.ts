import type { AllowedRange, Fault } from "../api/client";
import { shownUnits } from "../quantity/shown";
import { type Say, say } from "./quantities";

/** A range that is allowed, in the units of who reads. */
export function allowed(r: AllowedRange, say: Say): string {
  const { low, high } = r;
  switch (r.unit) {
    case "celsius":
      return say.temperatures(low, high);
    case "kelvin":
      return `${say.difference(low)} to ${say.difference(high)}`;
    case "millimetre":
      return say.lengths(low, high);
    case "second":
      return `${say.time(low)} to ${say.time(high)}`;
    case "metre":
      return `${low} to ${high} m`;
    case "litre":
      return `${low} to ${high} l`;
    case "kilogram":
      return `${low} to ${high} kg`;
    case "hrc":
      return `${low} to ${high} HRC`;
    case "percent":
      return `${low} to ${high} %`;
  }
}

/** What was wrong with a field, and what is allowed there. */
export function fault(f: Fault): string {
  const may = f.range ? allowed(f.range, say(shownUnits())) : f.allowed;
  return may ? `${f.message} Allowed: ${may}.` : f.message;
}
