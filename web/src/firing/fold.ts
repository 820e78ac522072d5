import type { Firing } from "../api/client";
import type { EventBody } from "./journal";

/**
 * A firing with events that the server has not seen yet, as it will be once it has. The rules are the
 * server's (`vatten_core::firing`), which refuses what cannot be; a test holds this to the same cases.
 */
export function fold(firing: Firing, events: EventBody[]): Firing {
  const { beats, steps } = firing;
  let { position, closed } = firing.state;
  let confirmed = [...firing.state.confirmed_ms];
  const said = [...firing.state.said];
  let hand = firing.state.hand;
  let closed_at = firing.closed_at;
  for (const event of events) {
    // What really was may be said later.
    if (closed && event.kind !== "say" && event.kind !== "hand") continue;
    if (event.kind === "confirm" && event.beat === position && position < beats.length) {
      confirmed.push(Date.parse(event.at));
      position += 1;
    } else if (event.kind === "undo" && position > 0 && event.beat === position - 1) {
      confirmed = confirmed.slice(0, -1);
      position -= 1;
    } else if (event.kind === "say" && event.step !== undefined) {
      said.push({
        kind: "say",
        step: event.step,
        temperature_c: event.temperature_c,
        lasted_s: event.lasted_s,
        note: event.note,
      });
    } else if (event.kind === "hand" && event.name) {
      hand = event.name;
    } else if (event.kind === "close") {
      closed = true;
      closed_at = event.at;
    }
  }
  let untempered: number | undefined;
  let quenched = false;
  confirmed.forEach((at, i) => {
    const mark = beats[i]?.mark;
    if (mark === "quenched") {
      quenched = true;
      untempered = at;
    }
    if (mark === "tempering") untempered = undefined;
  });
  const tempers = steps.some((s) => s.kind === "temper");
  return {
    ...firing,
    closed_at,
    state: {
      position,
      confirmed_ms: confirmed,
      untempered_since_ms: untempered,
      doing: beats[position - 1]?.doing,
      quenched,
      tempered: quenched && position === beats.length && tempers,
      closed,
      said,
      hand,
    },
  };
}
