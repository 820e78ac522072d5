import { useQueries } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { Link } from "react-router";
import type { Blade } from "../api/client";
import {
  queries,
  useEdits,
  useFindings,
  useFirings,
  usePhotos,
  useReadings,
  useTraces,
} from "../api/queries";
import { useUnits } from "../quantity/units";
import css from "./blade.module.css";
import { story, type Told } from "./story-entries";

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
  const { show, about, say } = useUnits();
  const firings = useFirings(blade.id);
  const readings = useReadings(blade.id);
  const findings = useFindings(blade.id);
  const photos = usePhotos(blade.id);
  const traces = useTraces(blade.id);
  const edits = useEdits(blade.id);
  const ids = (firings.data ?? []).map((f) => f.id);
  const events = useQueries({
    queries: ids.map((id) => queries.events(blade.id, id)),
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
      edits: edits.data ?? [],
    },
    { show, about, say },
  );
  const days = new Map<string, Told[]>();
  for (const t of all) {
    const day = new Date(t.at).toLocaleDateString("en-GB", { dateStyle: "full" });
    days.set(day, [...(days.get(day) ?? []), t]);
  }
  return (
    <div className={`page ${css.story}`}>
      <div className="row-of top-line">
        <p className="soft">
          Everything that happened to it, in order. What was done in the fire is never changed; what
          was written anew since stands beside it.
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
              <li key={`${t.at} ${i}`} className={t.undone ? css.undone : ""}>
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
