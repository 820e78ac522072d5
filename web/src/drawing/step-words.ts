import type { Step } from "../api/client";
import type { Kind } from "../quantity/parse";
import { LOOKS, MEDIA, PARTS, STEPS } from "../words/names";
import { GLOW_EDGES, glow } from "./glow";
import type { Corner } from "./path-layout";

/** Cuts a line into pieces of one colour. */
export function pieces(corners: Corner[]): { from: Corner; to: Corner; colour: string }[] {
  const all: { from: Corner; to: Corner; colour: string }[] = [];
  for (let i = 1; i < corners.length; i++) {
    const [a, b] = [corners[i - 1] as Corner, corners[i] as Corner];
    const inside = GLOW_EDGES.filter((t) => (t - a[1]) * (t - b[1]) < 0).map((t): Corner => {
      const share = (t - a[1]) / (b[1] - a[1]);
      return [a[0] + share * (b[0] - a[0]), t];
    });
    const cuts = [a, ...inside.sort((p, q) => p[0] - q[0]), b];
    for (let k = 1; k < cuts.length; k++) {
      const [from, to] = [cuts[k - 1] as Corner, cuts[k] as Corner];
      all.push({ from, to, colour: glow((from[1] + to[1]) / 2) });
    }
  }
  return all;
}

type Show = (kind: Kind, value: number) => string;

/** Its two numbers; a heat that an eye judges is about so hot. */
export function stepNumbers(step: Step, show: Show): [string, string] {
  const [first, second] = numbers(step, show);
  return [("by" in step && step.by ? "about " : "") + first, second];
}

function numbers(step: Step, show: Show): [string, string] {
  switch (step.kind) {
    case "austenitize":
      return [show("temperature", step.temperature_c), show("time", step.soak_s)];
    case "quench": {
      const first = step.stages[0];
      const rest = step.stages.slice(1).map((s) => MEDIA[s.medium]);
      if (!first) return ["", ""];
      const words = first.for_s
        ? `${MEDIA[first.medium]} ${show("time", first.for_s)}`
        : `${MEDIA[first.medium]} ${show("temperature", first.bath_c)}`;
      return [words, rest.length > 0 ? `then ${rest.join(", ")}` : ""];
    }
    case "temper": {
      const times = step.times > 1 ? `${step.times} × ` : "";
      return [show("temperature", step.temperature_c), `${times}${show("time", step.hold_s)}`];
    }
    case "coat":
      return ["anti-scale", ""];
    case "pouch":
      return ["steel foil", ""];
    case "straighten":
      return ["while it bends", ""];
    case "stamp":
      return ["hot", ""];
    case "check":
      return [LOOKS[step.look], ""];
    case "torch_temper":
      return [show("temperature", step.temperature_c), PARTS[step.part]];
    case "cool":
      return [
        `to ${show("temperature", step.temperature_c)}`,
        step.hold_s > 0 ? show("time", step.hold_s) : "",
      ];
    default:
      return [show("temperature", step.temperature_c), show("time", step.hold_s)];
  }
}

export function stepSentence(step: Step, show: Show): string {
  const [a, b] = stepNumbers(step, show);
  return `${STEPS[step.kind]}, ${a}${b ? `, ${b}` : ""}`;
}
