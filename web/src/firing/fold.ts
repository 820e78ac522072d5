import type { Firing } from "../api/client";
import { atMs, type EventBody } from "./device";

/**
 * A firing with events that the server has not seen yet, as it will be once it has. The rules are the
 * server's (`vatten_core::firing`), which refuses what cannot be; a test holds this to the same cases.
 */
export function fold(firing: Firing, events: EventBody[]): Firing {
  const { actions, steps } = firing;
  let { position, closed } = firing.state;
  let confirmed = [...firing.state.confirmed_ms];
  let by = [...(firing.state.confirmed_by ?? [])];
  // What was said here and not taken back, in order.
  let spoken: EventBody[] = [];
  let found = firing.state.found ?? [];
  let { end } = firing.state;
  let closed_at = firing.closed_at;
  for (const event of events) {
    const told =
      event.kind === "undo" &&
      (spoken.some((s) => s.id === event.event) || found.some((f) => f.event === event.event));
    // What really was may be said later.
    if (
      closed &&
      !told &&
      event.kind !== "say" &&
      event.kind !== "found" &&
      event.kind !== "operator"
    )
      continue;
    if (event.kind === "confirm" && event.action === position && position < actions.length) {
      confirmed.push(atMs(event));
      by.push(event.id);
      position += 1;
    } else if (told) {
      spoken = spoken.filter((s) => s.id !== event.event);
      found = found.filter((f) => f.event !== event.event);
    } else if (event.kind === "undo" && position > 0 && event.event === by.at(-1)) {
      confirmed = confirmed.slice(0, -1);
      by = by.slice(0, -1);
      position -= 1;
    } else if (event.kind === "say" || event.kind === "found" || event.kind === "operator") {
      spoken.push(event);
      if (event.found) found = [...found, { event: event.id, found: event.found }];
    } else if (event.kind === "close") {
      closed = true;
      end = event.end ?? end;
      closed_at = new Date(atMs(event)).toISOString();
    }
  }
  let untempered: number | undefined;
  let quenched = false;
  confirmed.forEach((at, i) => {
    const mark = actions[i]?.mark;
    if (mark === "quenched") {
      quenched = true;
      untempered = at;
    }
    if (mark === "tempering") untempered = undefined;
  });
  const said = spoken.flatMap((event) =>
    event.kind === "say" && event.step !== undefined
      ? [
          {
            kind: "say" as const,
            step: event.step,
            round: event.round,
            temperature_c: event.temperature_c,
            by: event.by,
            lasted_s: event.lasted_s,
            note: event.note || undefined,
          },
        ]
      : [],
  );
  const tempers = steps.some((s) => s.kind === "temper");
  return {
    ...firing,
    closed_at,
    state: {
      position,
      confirmed_ms: confirmed,
      confirmed_by: by,
      untempered_since_ms: untempered,
      doing: actions[position - 1]?.doing,
      quenched,
      tempered: quenched && position === actions.length && tempers,
      closed,
      end,
      said: [...firing.state.said, ...said],
      found: found.length > 0 ? found : undefined,
      operator:
        spoken.findLast((e) => e.kind === "operator" && e.name)?.name ?? firing.state.operator,
    },
  };
}
