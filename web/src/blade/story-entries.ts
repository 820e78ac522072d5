import type {
  Blade,
  BladeEdit,
  EventRow,
  FindingRow,
  Firing,
  Photo,
  Reading,
  TraceView,
} from "../api/client";
import type { Kind } from "../quantity/parse";
import { told } from "../readings/finding-kinds";
import { burned } from "../readings/finding-list";
import { STAGES } from "../readings/reading-values";
import { action, doing } from "../words/firing";
import { hrc, span } from "../words/names";
import type { Say } from "../words/quantities";
import { sighting } from "../words/sightings";

/** One thing that happened. */
export interface Told {
  /** ms since 1970. */
  at: number;
  text: string;
  note?: string;
  /** It was taken back or withdrawn. */
  undone?: boolean;
}

interface Words {
  show: (kind: Kind, value: number) => string;
  about: (mm: number) => string;
  say: Say;
}

export const time = (iso: string) => Date.parse(iso);

/** The blade as it went into the fire, whatever was written of it since. */
function asItWas({ made, steel_name }: Firing, { about }: Words): string {
  const steel = made.steel.of === "house" ? made.steel.name : steel_name;
  const from = made.bar ? ` from ${made.bar.name}` : "";
  const clay = made.clay ? ", under clay" : "";
  return `${made.name}, ${steel}${from}, ${about(made.blade.length_mm)} long, ${about(made.blade.spine_mm)} at the spine, ${about(made.blade.edge_mm)} at the edge${clay}`;
}

/** A change after the fire, in words: the fire itself stays as it was. */
export function editSentence(edit: BladeEdit, { about }: Words): string {
  const shown = (field: string, value: unknown) => {
    if (value === null || value === undefined || value === "") return "nothing";
    if (typeof value === "number") {
      if (field.endsWith("_mm")) return about(value);
      return field.endsWith("_hrc") ? `${hrc(value)} HRC` : String(value);
    }
    if (typeof value === "boolean") return value ? "yes" : "no";
    return typeof value === "string" ? value : "";
  };
  const parts = Object.entries(edit.changed).map(([field, [before, after]]) => {
    if (field === "clay") return "its clay was painted anew";
    if (field === "finished") return after ? "off the rack" : "back on the rack";
    const name = FIELDS[field] ?? field.replace(/^ready\./, "").replaceAll("_", " ");
    const [was, is] = [shown(field, before), shown(field, after)];
    return was && is ? `${name} from ${was} to ${is}` : `${name} changed`;
  });
  return `Written anew${edit.by ? ` by ${edit.by}` : ""}: ${parts.join("; ")}`;
}

/** Names of fields whose own name says too little. */
const FIELDS: Record<string, string> = {
  steel_name: "steel",
  bar_id: "the bar it is from,",
  length_mm: "length",
  width_mm: "width",
  spine_mm: "spine",
  edge_mm: "edge",
  target_low_hrc: "wanted, at least,",
  target_high_hrc: "wanted, at most,",
};

/** What happened in a firing, in words; a confirmed action that was taken back says so. */
function ofFiring(firing: Firing, events: EventRow[], number: number, words: Words): Told[] {
  const p = firing.prediction.hardness;
  const all: Told[] = [
    {
      at: time(firing.started_at),
      text: `Firing ${number} begun with ${asItWas(firing, words)}; predicted ${hrc(p.as_quenched.middle)} HRC as quenched, ${hrc(p.tempered.middle)} tempered (${hrc(p.tempered.low)} to ${hrc(p.tempered.high)})`,
    },
  ];
  // What an event was, to be found when it is taken back.
  const known = new Map<string, Told>();
  for (const { id, what, at } of events) {
    const when = time(at);
    const count = all.length;
    if (what.kind === "confirm") {
      const confirmed = firing.actions[what.action];
      all.push({
        at: when,
        text: confirmed
          ? `${action(confirmed.kind, words.say)}. ${doing(confirmed.doing)}`
          : "Confirmed",
      });
    } else if (what.kind === "undo") {
      const of = known.get(what.event);
      if (of) of.undone = true;
      all.push({ at: when, text: of ? `Taken back: ${of.text.toLowerCase()}` : "Taken back" });
    } else if (what.kind === "operator") {
      all.push({ at: when, text: `${what.name} quenches` });
    } else if (what.kind === "say") {
      const said = [
        what.by ? sighting(what.by) : "",
        what.temperature_c !== null && what.temperature_c !== undefined
          ? words.show("temperature", what.temperature_c)
          : "",
        what.lasted_s !== null && what.lasted_s !== undefined ? span(what.lasted_s) : "",
      ].filter(Boolean);
      const round = what.round ?? null;
      const step = `Step ${what.step + 1}${round === null ? "" : `, ${round + 1}.`}`;
      all.push({
        at: when,
        text:
          said.length > 0 ? `${step} really was ${said.join(", ")}` : `Of step ${what.step + 1}`,
        note: what.note || undefined,
      });
    } else if (what.kind === "close") {
      const how =
        what.end === "mistake"
          ? "was begun by mistake: nothing was done to the blade"
          : what.end === "abandoned"
            ? "abandoned"
            : "closed";
      all.push({ at: when, text: `Firing ${number} ${how}` });
    }
    // What was found stands in the story as the finding that it is.
    for (const t of all.slice(count)) known.set(id, t);
  }
  return all;
}

/** Everything about a blade, in time order. */
export function story(
  blade: Blade,
  parts: {
    firings: Firing[];
    events: Map<string, EventRow[]>;
    readings: Reading[];
    findings: FindingRow[];
    photos: Photo[];
    traces: TraceView[];
    edits: BladeEdit[];
  },
  words: Words,
): Told[] {
  const all: Told[] = [
    {
      at: time(blade.created_at),
      text: `Entered: ${blade.name}, ${blade.steel_name}, ${words.about(blade.length_mm)} long, ${words.about(blade.spine_mm)} at the spine`,
      note: blade.note || undefined,
    },
  ];
  const oldest = [...parts.firings].sort((a, b) => time(a.started_at) - time(b.started_at));
  oldest.forEach((f, i) => {
    all.push(...ofFiring(f, parts.events.get(f.id) ?? [], i + 1, words));
  });
  for (const r of parts.readings) {
    const odd =
      r.outlier === null || r.outlier === undefined
        ? ""
        : `; ${hrc(r.values_hrc[r.outlier] ?? 0)} is odd`;
    all.push({
      at: time(r.taken_at),
      text: `Read ${r.values_hrc.map(hrc).join(", ")} HRC ${STAGES[r.stage]}${odd}`,
      note: r.note || undefined,
      undone: !!r.withdrawn_at,
    });
  }
  for (const f of parts.findings) {
    const loss = burned(f.burn, words.about);
    all.push({
      at: time(f.found_at),
      text: `${told(f.found, words.about)}${loss ? `. ${loss}` : ""}`,
      note: f.note || undefined,
      undone: !!f.withdrawn_at,
    });
  }
  for (const p of parts.photos) all.push({ at: time(p.taken_at), text: "Photograph" });
  for (const t of parts.traces) {
    const first = t.samples[0]?.[0];
    if (first !== undefined) all.push({ at: first, text: `Trace begins: ${t.name}` });
  }
  for (const e of parts.edits) all.push({ at: time(e.at), text: editSentence(e, words) });
  if (blade.finished_at) all.push({ at: time(blade.finished_at), text: "Off the rack" });
  return all.sort((a, b) => a.at - b.at);
}
