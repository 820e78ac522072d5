import { useQueries } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { Link } from "react-router";
import {
  api,
  type Blade,
  type EventRow,
  type FindingRow,
  type Firing,
  type Photo,
  type Reading,
  type TraceView,
  take,
} from "../api/client";
import { useFindings, useFirings, usePhotos, useReadings, useTraces } from "../api/queries";
import type { Kind } from "../quantity/parse";
import { useUnits } from "../quantity/units";
import { hrc, span } from "../words/names";
import { told } from "./finding-kinds";
import { burned } from "./findings";
import { STAGES } from "./readings";

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
}

const time = (iso: string) => Date.parse(iso);

/** What happened in a firing, in words; a confirmed beat that was taken back says so. */
function ofFiring(firing: Firing, events: EventRow[], number: number, words: Words): Told[] {
  const p = firing.prediction.hardness;
  const all: Told[] = [
    {
      at: time(firing.started_at),
      text: `Firing ${number} begun; predicted ${hrc(p.as_quenched.middle)} HRC as quenched, ${hrc(p.tempered.middle)} tempered (${hrc(p.tempered.low)} to ${hrc(p.tempered.high)})`,
    },
  ];
  for (const { happening, at } of events) {
    const when = time(at);
    if (happening.kind === "confirm") {
      const beat = firing.beats[happening.beat];
      all.push({ at: when, text: beat ? `${beat.action}. ${beat.doing}` : "Confirmed" });
    } else if (happening.kind === "undo") {
      const action = firing.beats[happening.beat]?.action ?? "";
      const last = all.findLast((t) => !t.undone && t.text.startsWith(action));
      if (last) last.undone = true;
      all.push({ at: when, text: `Taken back: ${action.toLowerCase()}` });
    } else if (happening.kind === "hand") {
      all.push({ at: when, text: `${happening.name} quenches` });
    } else if (happening.kind === "say") {
      const said = [
        happening.temperature_c !== null && happening.temperature_c !== undefined
          ? words.show("temperature", happening.temperature_c)
          : "",
        happening.lasted_s !== null && happening.lasted_s !== undefined
          ? span(happening.lasted_s)
          : "",
      ].filter(Boolean);
      const step = `Step ${happening.step + 1}`;
      all.push({
        at: when,
        text:
          said.length > 0
            ? `${step} really was ${said.join(", ")}`
            : `Of step ${happening.step + 1}`,
        note: happening.note || undefined,
      });
    } else {
      all.push({ at: when, text: `Firing ${number} closed` });
    }
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
      r.odd === null || r.odd === undefined ? "" : `; ${hrc(r.values_hrc[r.odd] ?? 0)} is odd`;
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
  if (blade.finished_at) all.push({ at: time(blade.finished_at), text: "Off the rack" });
  return all.sort((a, b) => a.at - b.at);
}

const stamp = (ms: number) =>
  new Date(ms).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "medium" });

/** The story as plain text, to be kept or sent with the blade. */
export function asText(blade: Blade, all: Told[]): string {
  const lines = all.map((t) => {
    const undone = t.undone ? " (taken back)" : "";
    return `${stamp(t.at)}  ${t.text}${undone}${t.note ? `\n    “${t.note}”` : ""}`;
  });
  return `${blade.mark} ${blade.name}, ${blade.steel_name}\n\n${lines.join("\n")}\n`;
}

function save(name: string, text: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type: "text/plain" }));
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

/** Everything about a blade in time order, by day. */
export function StoryTab({ blade }: { blade: Blade }) {
  const { show, about } = useUnits();
  const firings = useFirings(blade.id);
  const readings = useReadings(blade.id);
  const findings = useFindings(blade.id);
  const photos = usePhotos(blade.id);
  const traces = useTraces(blade.id);
  const ids = (firings.data ?? []).map((f) => f.id);
  const events = useQueries({
    queries: ids.map((id) => ({
      queryKey: ["story", blade.id, id],
      queryFn: () => take(api.GET("/api/v1/firings/{id}/events", { params: { path: { id } } })),
    })),
  });
  const all = story(
    blade,
    {
      firings: firings.data ?? [],
      events: new Map(ids.map((id, i) => [id, events[i]?.data ?? []])),
      readings: readings.data ?? [],
      findings: findings.data ?? [],
      photos: photos.data ?? [],
      traces: traces.data ?? [],
    },
    { show, about },
  );
  const days = new Map<string, Told[]>();
  for (const t of all) {
    const day = new Date(t.at).toLocaleDateString("en-GB", { dateStyle: "full" });
    days.set(day, [...(days.get(day) ?? []), t]);
  }
  return (
    <div className="page story">
      <div className="row-of top-line">
        <p className="soft">
          Everything that happened to it, in order. Nothing here is ever changed.
        </p>
        {blade.firing_state?.quenched && (
          <Link to={`/compare?blades=${blade.id}`}>Hold it against another blade</Link>
        )}
        <Button
          variant="outline-primary"
          onClick={() => save(`${blade.mark}-story.txt`, asText(blade, all))}
        >
          Save as text
        </Button>
      </div>
      {[...days].map(([day, those]) => (
        <section key={day}>
          <h2>{day}</h2>
          <ol>
            {those.map((t, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: what happened never reorders
              <li key={`${t.at} ${i}`} className={t.undone ? "undone" : ""}>
                <time className="num" dateTime={new Date(t.at).toISOString()}>
                  {new Date(t.at).toLocaleTimeString("en-GB")}
                </time>
                <span>
                  {t.text}
                  {t.undone ? " (taken back)" : ""}
                  {t.note && <span className="soft"> “{t.note}”</span>}
                </span>
              </li>
            ))}
          </ol>
        </section>
      ))}
    </div>
  );
}
