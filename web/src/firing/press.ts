import { v7 as uuid } from "uuid";
import { aheadMs } from "../api/clock";
import type { EventBody } from "./device";

/** The last moment that was stamped: times of one device never go back, whatever its clock does. */
let stamped = 0;

/** A moment as it is told of an event: by the clock of this device, and how far the server's is ahead. */
export type Moment = Pick<EventBody, "at" | "ahead_ms">;

/** Now, or a time by the server's clock. */
export function moment(serverMs?: number): Moment {
  const ahead = aheadMs();
  if (serverMs !== undefined) {
    return { at: new Date(serverMs - (ahead ?? 0)).toISOString(), ahead_ms: ahead };
  }
  stamped = Math.max(Date.now(), stamped);
  return { at: new Date(stamped).toISOString(), ahead_ms: ahead };
}

/** What an event is, before it has an id and a time. */
export type What = Omit<EventBody, "id" | "at" | "ahead_ms">;

export const event = (what: What, at: Moment): EventBody => ({ ...what, ...at, id: uuid() });
