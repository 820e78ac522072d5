import { useState } from "react";
import type { Firing } from "../api/client";
import { useUnits } from "../quantity/units";
import { told as toldOf } from "../readings/finding-kinds";
import { deviation } from "../words/deviations";
import { action } from "../words/firing";
import { MEDIA } from "../words/names";
import type { Say } from "../words/quantities";
import { sighting } from "../words/sightings";
import { atMs, type Entry } from "./device";
import css from "./firing.module.css";
import { useWaiting } from "./in-fire";
import { journal } from "./journal";
import { event, moment } from "./press";

const at = (ms: number) =>
  new Date(ms).toLocaleTimeString("en-GB", {
    hour: "2-digit",
    minute: "2-digit",
    second: "2-digit",
  });

/** What an event was, in words. */
export function told({ body }: Entry, firing: Firing, say: Say): string {
  const when = at(atMs(body));
  if (body.kind === "confirm") {
    const confirmed = firing.actions[body.action ?? -1];
    return `“${confirmed ? action(confirmed.kind, say) : "a step"}” at ${when}`;
  }
  if (body.kind === "undo") {
    const of = firing.state.confirmed_by?.indexOf(body.event ?? "") ?? -1;
    const confirmed = firing.actions[of];
    return confirmed ? `Undo of “${action(confirmed.kind, say)}” at ${when}` : `Undo at ${when}`;
  }
  if (body.kind === "deviate" && body.how) {
    return `“${deviation(body.how, firing.steps, say)}” at ${when}`;
  }
  if (body.kind === "close") return `Close at ${when}`;
  if (body.kind === "operator") return `“${body.name ?? ""} quenches” at ${when}`;
  if (body.kind === "found" && body.found) {
    return `“${toldOf(body.found, say.about)}” at ${when}`;
  }
  const step = body.step === undefined ? "" : `Of step ${body.step + 1}: `;
  const values = [
    body.by ? sighting(body.by) : "",
    body.temperature_c === undefined ? "" : say.temperature(body.temperature_c),
    body.lasted_s === undefined ? "" : say.time(body.lasted_s),
    body.medium ? MEDIA[body.medium] : "",
    body.note ? `“${body.note}”` : "",
  ].filter(Boolean);
  return `${step}${values.join(", ")} at ${when}`;
}

/** The same day at another time of the clock; null when that is no time. */
export function sameDay(ms: number, clock: string): number | null {
  const parts = /^(\d{1,2}):(\d{2})(?::(\d{2}))?$/.exec(clock.trim());
  if (!parts) return null;
  const [hours, minutes, seconds] = [Number(parts[1]), Number(parts[2]), Number(parts[3] ?? 0)];
  if (hours > 23 || minutes > 59 || seconds > 59) return null;
  const day = new Date(ms);
  day.setHours(hours, minutes, seconds, 0);
  return day.getTime();
}

/** One that the server would not take: it is changed and sent again, kept as a remark, or let go. */
function Refused({ entry, firing }: { entry: Entry; firing: Firing }) {
  const { say } = useUnits();
  const [clock, setClock] = useState(() => at(atMs(entry.body)));
  const then = sameDay(atMs(entry.body), clock);
  const words = told(entry, firing, say);
  return (
    <div className={`${css.caut} ${css.strong}`} role="alert">
      <p>
        Not taken: {words}. {entry.refused}
      </p>
      <div className={css.alt}>
        <label>
          At{" "}
          <input
            className="form-control"
            aria-invalid={then === null}
            value={clock}
            onChange={(e) => setClock(e.target.value)}
          />
        </label>
        <button
          type="button"
          disabled={then === null}
          onClick={() => then !== null && journal.amend(entry, moment(then))}
        >
          Send it again
        </button>
        <button
          type="button"
          onClick={() => {
            const step =
              entry.body.step ??
              firing.actions[entry.body.action ?? firing.state.position - 1]?.step;
            const note = `Pressed on a device, not taken: ${words}.`.slice(0, 500);
            journal.asRemark(entry, event({ kind: "say", step: step ?? 0, note }, moment()));
          }}
        >
          Keep as a remark
        </button>
        <button type="button" onClick={() => journal.dismiss(entry)}>
          Let it go
        </button>
      </div>
    </div>
  );
}

/** Whether everything reached the server, what this device could not keep, and what was not taken. */
export function Waiting({ firing }: { firing: Firing }) {
  const { say } = useUnits();
  const { entries, gone } = useWaiting();
  const waiting = entries.filter((e) => !e.refused);
  const unsaved = waiting.filter((e) => e.unsaved);
  const refused = entries.filter((e) => e.refused && e.firing === firing.id);
  return (
    <>
      {gone && (
        <div className={css.caut} role="status">
          No server.{" "}
          {waiting.length > unsaved.length
            ? `${waiting.length - unsaved.length} kept on this device, written up when it is back.`
            : unsaved.length > 0
              ? "Go on; it is tried again."
              : "All is written up; go on."}
        </div>
      )}
      {unsaved.length > 0 && (
        <div className={`${css.caut} ${css.strong}`} role="alert">
          <p>
            The storage of this device is full or closed: what follows stands in this page and
            nowhere else. Leave it open until it is written up, or write it down.
          </p>
          <ul>
            {unsaved.map((e) => (
              <li key={e.body.id}>
                {e.firing === firing.id ? told(e, firing, say) : "A press of another blade"}
              </li>
            ))}
          </ul>
        </div>
      )}
      {refused.map((entry) => (
        <Refused key={entry.body.id} entry={entry} firing={firing} />
      ))}
    </>
  );
}
