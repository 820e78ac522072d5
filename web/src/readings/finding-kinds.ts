import type { Finding } from "../api/client";
import type { Units } from "../quantity/parse";
import { LIGHTS } from "../words/sightings";
import { readPlaces } from "./places";

/** What can be found, as it is chosen. */
export const KINDS = {
  line: "where the hamon sits",
  straight: "how straight it is",
  sori: "how it curved, edge to spine",
  clamped: "clamped in a temper",
  crack: "cracked, or sound",
  file: "what the files said",
  punch: "what the punch said",
  grain: "grain of a broken coupon",
  polish: "polished with",
  etch: "etched with",
  trial: "a trial of the edge",
  burn: "a colour from the belt",
  twist: "twisted",
  heard: "what was heard",
  temper_colour: "temper colour",
  skin_off: "scale and skin taken off",
  as_received: "how hard it came",
  scrap: "given up",
  side: "how it bent sideways",
} as const;
export type Kind = keyof typeof KINDS;

/** What is offered; a sideways bend is now written as straightness. */
export const OFFERED = Object.fromEntries(
  Object.entries(KINDS).filter(([kind]) => kind !== "side"),
) as Record<string, string>;

export const AFTER = {
  forging: "before the fire",
  quench: "straight from the quench",
  straightening: "after straightening",
  temper: "after the last temper",
  grinding: "after finish grinding",
};
export const WORK = {
  carve: "carved seasoned wood",
  chop: "chopped",
  cross_cut: "cut across fibre",
  flex: "flexed over a rod",
};
export const EDGE = {
  held: "it held",
  rolled: "it rolled",
  chipped: "it chipped",
  dulled: "it went dull soon",
};
export const SOUNDS = {
  ping: "a ping from the bath",
  clear: "it rings clear",
  dull: "it sounds dull",
};
export const SCRAP = {
  cracked: "it cracked",
  bent: "it would not come straight",
  soft: "it would not harden",
  burned: "burned",
  coarse: "grain too coarse",
  ground: "ground too thin",
  other: "something else",
};
export const COLOURS = [
  "pale straw",
  "straw",
  "dark straw",
  "bronze",
  "purple",
  "dark blue",
  "light blue",
  "grey",
];

/** Choices beside what is typed, by kind. */
export const CHOICES: Partial<Record<Kind, { label: string; options: Record<string, string> }>> = {
  straight: { label: "When", options: AFTER },
  crack: { label: "It cracked", options: { no: "no, it is sound", yes: "yes" } },
  file: {
    label: "When",
    options: { as_quenched: "after the quench", tempered: "after the last temper" },
  },
  punch: {
    label: "When",
    options: { as_quenched: "after the quench", tempered: "after the last temper" },
  },
  trial: { label: "It", options: WORK },
  heard: { label: "It was", options: SOUNDS },
  line: { label: "Which", options: { first: "the hamon", second: "a second line beside it" } },
  temper_colour: { label: "Colour", options: Object.fromEntries(COLOURS.map((c) => [c, c])) },
  burn: { label: "Colour", options: Object.fromEntries(COLOURS.map((c) => [c, c])) },
  scrap: { label: "Why", options: SCRAP },
};

/** A second choice, for those that need one. */
export const SECOND: Partial<Record<Kind, { label: string; options: Record<string, string> }>> = {
  file: {
    label: "Of the files",
    options: { both: "one skates, one bites", skates: "one skates", bites: "one bites" },
  },
  punch: { label: "It left", options: { no: "no mark", yes: "a mark" } },
  trial: { label: "The edge", options: EDGE },
  temper_colour: { label: "Seen", options: LIGHTS },
};

/** What the typed part is called, and what to write there; none where nothing is typed. */
export const TYPED: Partial<Record<Kind, { label: string; help: string; lengths?: boolean }>> = {
  line: {
    label: "Measured",
    help: "Height above the edge: one number, several from heel to tip at even steps, or places like 40/11 90/12.",
    lengths: true,
  },
  straight: {
    label: "From the heel / off the straight",
    help: "0 for straight all along, or places like 40/0.3 90/-0.6: left is plus, seen from the heel, edge down.",
    lengths: true,
  },
  side: {
    label: "Measured",
    help: "Sag straight from the quench, before straightening; 0 for straight.",
    lengths: true,
  },
  sori: {
    label: "Curve; before the fire, if it had one",
    help: "Straight from the quench: towards the spine is plus, towards the edge minus: 0.6; then perhaps what it was before: 0.6 0.2.",
    lengths: true,
  },
  clamped: {
    label: "Bow, past straight, left",
    help: "How far it was bowed, how far past straight it was shimmed, what bow was left: 1.2 2.5 0.1; minus went to the other side.",
    lengths: true,
  },
  file: {
    label: "Hardness of the files, HRC",
    help: "The one that skates, then the one that bites, HRC: 60 65; one number where one alone was tried.",
  },
  punch: { label: "Hardness of the punch, HRC", help: "As its maker says, HRC: 58." },
  grain: { label: "ASTM number", help: "By comparison; higher is finer: 9.5." },
  polish: { label: "With", help: "Paper or stone: 600 paper." },
  etch: { label: "With, dips, seconds each", help: "Like: iron salts 1:8, 4, 10." },
  trial: { label: "Strokes, if counted", help: "A whole number, or nothing." },
  crack: {
    label: "Where, if it did",
    help: "A place like 120/1, from the heel and above the edge, or nothing.",
    lengths: true,
  },
  twist: {
    label: "Degrees from heel to tip",
    help: "Like 3; minus for a left-hand screw.",
  },
  skin_off: {
    label: "Taken off each face",
    help: "One number: 0.1.",
    lengths: true,
  },
  as_received: { label: "HRC", help: "As it came: 22." },
  burn: {
    label: "Where; seconds hot, if known",
    help: "A place like 120/1, or point at the drawing; then perhaps the seconds: 120/1 0.5.",
    lengths: true,
  },
};

/** Kinds that count less, or not, on a warm blade or through its skin. */
export const OF_THE_STEEL: Kind[] = ["file", "punch"];

/** What is asked of a finding besides its kind. */
export interface Said {
  text: string;
  choice: string;
  second: string;
  /** The blade was still warm. */
  warm?: boolean;
  /** The decarburized skin was still on. */
  skin_on?: boolean;
}

/** Numbers as typed: with spaces between, decimal point or comma, in mm or inch. */
export function numbers(text: string, per: number): number[] | null {
  const all = text
    .trim()
    .split(/[\s;]+/)
    .filter((part) => part !== "")
    .map((part) => Number(part.replace(",", ".")) * per);
  return all.length > 0 && all.every(Number.isFinite) ? all : null;
}

const stageOf = (choice: string) => (choice === "tempered" ? "tempered" : "as_quenched");

/** The finding that was typed, or what to write instead. */
export function read(kind: Kind, said: Said, length: number, units: Units): Finding | string {
  const help = TYPED[kind]?.help ?? "";
  const { text, choice, second, warm = false, skin_on = false } = said;
  const per = units.length === "in" ? 25.4 : 1;
  switch (kind) {
    case "crack": {
      const at = text.trim() === "" ? [] : readPlaces(text, units);
      if (!at || at.length > 1) return help;
      const [x, y] = at[0] ?? [];
      const cracked = choice === "yes";
      return x === undefined ? { kind, cracked } : { kind, cracked, place: [x, y ?? 0] };
    }
    case "twist":
    case "skin_off":
    case "as_received": {
      const all = numbers(text, kind === "skin_off" ? per : 1);
      const value = all?.length === 1 ? all[0] : undefined;
      if (value === undefined) return help;
      if (kind === "twist") return { kind, degrees: value };
      return kind === "skin_off" ? { kind, off_mm: value } : { kind, hrc: value };
    }
    case "heard":
      return { kind, sound: (choice || "ping") as keyof typeof SOUNDS };
    case "temper_colour":
      return {
        kind,
        colour: choice || COLOURS[0] || "",
        light: (second || "daylight") as keyof typeof LIGHTS,
      };
    case "scrap":
      return { kind, cause: (choice || "other") as keyof typeof SCRAP };
    case "line": {
      const beside = choice === "second" ? { second: true } : {};
      if (text.includes("/")) {
        const places = readPlaces(text, units);
        if (!places || places.some((p) => p[1] === null)) return help;
        return { kind, ...beside, places: places.map(([x, h]) => [x, h ?? 0]) };
      }
      const all = numbers(text, per);
      // Evenly along the blade, the ends left out.
      return all
        ? { kind, ...beside, places: all.map((h, i) => [((i + 0.5) / all.length) * length, h]) }
        : help;
    }
    case "straight": {
      const after = (choice || "quench") as keyof typeof AFTER;
      if (text.trim() === "0") return { kind, after, places: [[length / 2, 0]] };
      const all = readPlaces(text, units);
      if (!all || all.length === 0 || all.some((p) => p[1] === null)) return help;
      return { kind, after, places: all.map(([x, off]) => [x, off ?? 0]) };
    }
    case "side": {
      const all = numbers(text, per);
      return all?.length === 1 ? { kind, sag_mm: all[0] ?? 0 } : help;
    }
    case "sori": {
      const [sori_mm, before_mm = 0, ...more] = numbers(text, per) ?? [];
      return sori_mm === undefined || more.length > 0 ? help : { kind, sori_mm, before_mm };
    }
    case "clamped": {
      const [bow_mm, shim_mm, left_mm, ...more] = numbers(text, per) ?? [];
      if (bow_mm === undefined || shim_mm === undefined || left_mm === undefined) return help;
      return more.length > 0 ? help : { kind, bow_mm, shim_mm, left_mm };
    }
    case "file": {
      const all = numbers(text, 1);
      const of = { kind, stage: stageOf(choice), warm, skin_on } as const;
      const one = second === "skates" || second === "bites";
      if (all?.length !== (one ? 1 : 2)) return help;
      if (second === "bites") return { ...of, high_hrc: all[0] };
      return { ...of, low_hrc: all[0], high_hrc: all[1] };
    }
    case "punch": {
      const all = numbers(text, 1);
      return all?.length === 1
        ? {
            kind,
            stage: stageOf(choice),
            punch_hrc: all[0] ?? 0,
            marked: second === "yes",
            warm,
            skin_on,
          }
        : help;
    }
    case "grain": {
      const all = numbers(text, 1);
      return all?.length === 1 ? { kind, astm: all[0] ?? 0 } : help;
    }
    case "polish":
      return text.trim() ? { kind, with: text.trim() } : help;
    case "etch": {
      const parts = text.split(",").map((p) => p.trim());
      const [dips, dip_s] = [Number(parts.at(-2)), Number(parts.at(-1))];
      const named = parts.slice(0, -2).join(", ");
      return named && Number.isInteger(dips) && Number.isFinite(dip_s)
        ? { kind, with: named, dips, dip_s }
        : help;
    }
    case "trial": {
      const strokes = text.trim() === "" ? undefined : Number(text);
      if (strokes !== undefined && !Number.isInteger(strokes)) return help;
      return {
        kind,
        work: (choice || "carve") as keyof typeof WORK,
        edge: (second || "held") as keyof typeof EDGE,
        strokes,
      };
    }
    case "burn": {
      const [where = "", seconds] = text.trim().split(/\s+/);
      const hot_s = seconds === undefined ? 0.5 : Number(seconds.replace(",", "."));
      const at = readPlaces(where, units);
      if (!at || !Number.isFinite(hot_s)) return help;
      const [x, y] = at[0] ?? [];
      const place = x === undefined ? undefined : ([x, y ?? 0] as [number, number]);
      return { kind, colour: choice || COLOURS[0] || "", hot_s, place };
    }
  }
}

/** What files said: one that skates, one that bites, or both. */
function filed(skates?: number | null, bites?: number | null): string {
  if (bites === null || bites === undefined) return `A file of ${skates} HRC skates`;
  if (skates === null || skates === undefined) return `A file of ${bites} HRC bites`;
  return `Between ${skates} and ${bites} HRC by file`;
}

/** A finding in words. */
export function told(found: Finding, about: (mm: number) => string): string {
  const stage = (s: string) => (s === "tempered" ? "tempered" : "as quenched");
  const how = (of: { warm?: boolean; skin_on?: boolean }) =>
    [of.warm ? ", still warm" : "", of.skin_on ? ", through the skin" : ""].join("");
  switch (found.kind) {
    case "line": {
      const heights = found.places.map((p) => p[1] ?? 0);
      const graded = [
        found.clarity ? `clear ${found.clarity} of 5` : "",
        found.liveliness ? `lively ${found.liveliness} of 5` : "",
      ].filter(Boolean);
      const mean = heights.reduce((a, b) => a + b, 0) / heights.length;
      const where =
        heights.length > 6
          ? `${about(mean)} above the edge, traced`
          : `${heights.map(about).join(", ")} above the edge`;
      return `${found.second ? "Second line" : "Hamon"} ${[where, ...graded].join(", ")}`;
    }
    case "straight": {
      const most = Math.max(...found.places.map((p) => Math.abs(p[1] ?? 0)));
      const worst = found.places.find((p) => Math.abs(p[1] ?? 0) === most);
      const side = (worst?.[1] ?? 0) > 0 ? "left" : "right";
      return most === 0
        ? `Straight, ${AFTER[found.after]}`
        : `Off by ${about(most)} to the ${side} at ${about(worst?.[0] ?? 0)}, ${AFTER[found.after]}`;
    }
    case "side":
      return found.sag_mm === 0
        ? "Straight from the quench"
        : `Bent ${about(found.sag_mm)} sideways`;
    case "sori": {
      const way = (mm: number) =>
        mm === 0 ? "straight" : `${about(Math.abs(mm))} to the ${mm > 0 ? "spine" : "edge"}`;
      const before = found.before_mm ? `, ${way(found.before_mm)} before the fire` : "";
      return `Curve from the quench: ${way(found.sori_mm)}${before}`;
    }
    case "clamped":
      return `Clamped ${about(found.shim_mm)} past straight: of ${about(found.bow_mm)} ${about(Math.abs(found.left_mm))} left${found.left_mm < 0 ? " to the other side" : ""}`;
    case "crack": {
      const [x, y] = found.place ?? [];
      const where = x === undefined ? "" : ` at ${about(x)}, ${about(y ?? 0)} above the edge`;
      return found.cracked ? `Cracked${where}` : "Looked for cracks: sound";
    }
    case "twist":
      return `Twisted by ${Math.abs(found.degrees)}°${found.degrees < 0 ? ", left-hand" : ""}`;
    case "heard":
      return `Heard: ${SOUNDS[found.sound]}`;
    case "temper_colour":
      return `Temper colour: ${found.colour}${found.light ? ` ${LIGHTS[found.light]}` : ""}`;
    case "skin_off":
      return `Scale and skin taken off: ${about(found.off_mm)} each face`;
    case "as_received":
      return `Came at ${found.hrc} HRC`;
    case "file":
      return `${filed(found.low_hrc, found.high_hrc)}, ${stage(found.stage)}${how(found)}`;
    case "punch":
      return `${found.marked ? "Softer" : "Harder"} than a punch of ${found.punch_hrc} HRC, ${stage(found.stage)}${how(found)}`;
    case "grain":
      return `Grain ASTM ${found.astm}`;
    case "polish":
      return `Polished: ${found.with}`;
    case "etch":
      return `Etched: ${found.with}, ${found.dips} dips of ${found.dip_s} s`;
    case "trial":
      return `Trial: ${WORK[found.work]}${found.strokes ? ` ${found.strokes} times` : ""}, ${EDGE[found.edge]}`;
    case "burn":
      return `Burn at the belt: ${found.colour}`;
    case "scrap":
      return `Given up: ${SCRAP[found.cause]}`;
  }
}
