import { type DBSchema, openDB } from "idb";
import type { Deviation, Finding, Firing, Medium, Sighting } from "../api/client";

/** Something that happened at the fire, as it goes to the server. */
export interface EventBody {
  /** Made here, so that sending it again changes nothing. */
  id: string;
  kind: "confirm" | "undo" | "say" | "deviate" | "found" | "operator" | "close";
  /** By the clock of this device. */
  at: string;
  /** How far the server's clock was ahead of it when it was pressed, ms, as far as that was ever measured. */
  ahead_ms?: number;
  action?: number;
  /** The event that is taken back. */
  event?: string;
  step?: number;
  round?: number;
  temperature_c?: number;
  /** In what way it goes on otherwise than planned. */
  how?: Deviation;
  /** The bath it really went into. */
  medium?: Medium;
  /** How it ended, where not as most do. */
  end?: "abandoned" | "mistake";
  /** What was found. */
  found?: Finding;
  /** By what a heat was judged. */
  by?: Sighting;
  lasted_s?: number;
  note?: string;
  name?: string;
}

/** When it happened by the server's clock, as far as this device knows that, ms. */
export const atMs = (body: EventBody) => Date.parse(body.at) + (body.ahead_ms ?? 0);

/** An event on this device that the server has not confirmed. */
export interface Entry {
  seq?: number;
  workshop: string;
  firing: string;
  body: EventBody;
  /** Why the server would not take it; it is kept until the smith has seen that. */
  refused?: string;
  /** This device could not keep it: it is in this page and nowhere else. */
  unsaved?: boolean;
}

/** A firing as last seen, for when the server is gone. */
export interface Kept {
  id: string;
  workshop: string;
  firing: Firing;
}

export interface Tables extends DBSchema {
  entries: { key: number; value: Entry };
  firings: { key: string; value: Kept };
}

/** What version 1 kept, under the names it used. */
interface Entry1 extends Omit<Entry, "body"> {
  body: Omit<EventBody, "kind" | "action"> & { kind: EventBody["kind"] | "hand"; beat?: number };
}
interface Firing1 extends Omit<Firing, "actions" | "state"> {
  beats: (Omit<Firing["actions"][number], "kind"> & {
    action: Firing["actions"][number]["kind"];
  })[];
  state: Firing["state"] & { hand?: string };
}

const entryOf1 = ({ body: { beat, kind, ...body }, ...entry }: Entry1): Entry => ({
  ...entry,
  body: {
    ...body,
    kind: kind === "hand" ? "operator" : kind,
    ...(beat === undefined ? {} : { action: beat }),
  },
});

const firingOf1 = ({ beats, state: { hand, ...state }, ...firing }: Firing1): Firing => ({
  ...firing,
  actions: beats.map(({ action: kind, ...rest }) => ({ ...rest, kind })),
  state: { ...state, ...(hand === undefined ? {} : { operator: hand }) },
});

/** The tables on this device; those of an older version are brought over, what waits in them too. */
export const open = () =>
  openDB<Tables>("vatten", 2, {
    async upgrade(db, from, _to, moving) {
      if (from < 1) {
        db.createObjectStore("entries", { keyPath: "seq", autoIncrement: true });
        db.createObjectStore("firings", { keyPath: "id" });
        return;
      }
      const entries = moving.objectStore("entries");
      for (const entry of await entries.getAll()) {
        await entries.put(entryOf1(entry as unknown as Entry1));
      }
      const firings = moving.objectStore("firings");
      for (const kept of await firings.getAll()) {
        await firings.put({ ...kept, firing: firingOf1(kept.firing as unknown as Firing1) });
      }
    },
  });
