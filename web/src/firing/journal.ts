import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { ApiError, api, type Firing, take } from "../api/client";

/** Something that happened at the fire, as it goes to the server. */
export interface EventBody {
  /** Made here, so that sending it again changes nothing. */
  id: string;
  kind: "confirm" | "undo" | "say" | "hand" | "close";
  at: string;
  beat?: number;
  step?: number;
  temperature_c?: number;
  lasted_s?: number;
  note?: string;
  name?: string;
}

/** An event on this device that the server has not confirmed. */
export interface Entry {
  seq?: number;
  workshop: string;
  firing: string;
  body: EventBody;
  /** Why the server would not take it; it is kept until the smith has seen that. */
  refused?: string;
}

/** A firing as last seen, for when the server is gone. */
export interface Kept {
  id: string;
  workshop: string;
  firing: Firing;
}

interface Tables extends DBSchema {
  entries: { key: number; value: Entry };
  firings: { key: string; value: Kept };
}

const open = () =>
  openDB<Tables>("vatten", 1, {
    upgrade(db) {
      db.createObjectStore("entries", { keyPath: "seq", autoIncrement: true });
      db.createObjectStore("firings", { keyPath: "id" });
    },
  });

/** Wait before the server is tried again, ms. */
const AGAIN = 3_000;

/**
 * What happened at the fire is written to this device before anything else, and stays there until the
 * server has it: a reload, a flat battery or a server that is gone lose nothing. Every event has its own
 * id, so it happens once however often it is sent.
 */
export class Journal {
  private db: Promise<IDBPDatabase<Tables>> | undefined;
  private entries: readonly Entry[] = [];
  private workshop = "";
  private listeners = new Set<() => void>();
  private sending: Promise<void> | undefined;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private gone = false;
  private known = new Map<string, Firing>();
  private shown: { entries: readonly Entry[]; gone: boolean } = { entries: [], gone: false };
  /** Called with every firing that the server answers. */
  onFiring: (firing: Firing) => void = () => undefined;

  private base() {
    this.db ??= open();
    return this.db;
  }

  /** Begins to work for a shop: reads what is on the device and sends it. */
  async begin(workshop: string) {
    this.workshop = workshop;
    this.known.clear();
    await this.read();
    this.send();
  }

  /** Stops working for the shop: what waits stays on the device until it is signed in again. */
  async end() {
    this.workshop = "";
    this.entries = [];
    clearTimeout(this.timer);
    await this.sending;
    // Unless it was begun anew meanwhile.
    if (this.workshop === "") clearTimeout(this.timer);
    this.tell();
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** What waits, and whether the server is gone. */
  snapshot = () => this.shown;

  private tell() {
    this.shown = { entries: this.entries, gone: this.gone };
    for (const listener of this.listeners) listener();
  }

  private async read() {
    const all = await (await this.base()).getAll("entries");
    this.entries = all.filter((e) => e.workshop === this.workshop);
    this.tell();
  }

  /** Keeps events on this device, all or none; when this is done they survive the power going. */
  async add(events: { firing: string; body: EventBody }[]) {
    const tx = (await this.base()).transaction("entries", "readwrite", { durability: "strict" });
    for (const { firing, body } of events) {
      tx.store.add({ workshop: this.workshop, firing, body });
    }
    await tx.done;
    await this.read();
    this.send();
  }

  /**
   * The newest that is known of a firing: an answer that was on its way while events were taken is older
   * than theirs.
   */
  newest(firing: Firing): Firing {
    const known = this.known.get(firing.id);
    if (known && known.version > firing.version) return known;
    this.known.set(firing.id, firing);
    return firing;
  }

  /** Keeps a firing as the server said it is. */
  async keep(firing: Firing) {
    const db = await this.base();
    if (firing.closed_at) await db.delete("firings", firing.id);
    else await db.put("firings", { id: firing.id, workshop: this.workshop, firing });
  }

  /** The firings kept on this device. */
  async kept(): Promise<Firing[]> {
    const all = await (await this.base()).getAll("firings");
    return all.filter((k) => k.workshop === this.workshop).map((k) => k.firing);
  }

  /** Lets go of an event that the server refused. */
  async dismiss(entry: Entry) {
    if (entry.seq !== undefined) await (await this.base()).delete("entries", entry.seq);
    await this.read();
  }

  /** Sends what waits, in order; goes on trying while there is something. */
  send() {
    this.sending ??= this.sendAll()
      .catch(() => undefined)
      .finally(() => {
        this.sending = undefined;
        clearTimeout(this.timer);
        // Something may have come while the last answer was awaited.
        const wait = this.gone ? AGAIN : 0;
        if (this.entries.some((e) => !e.refused)) this.timer = setTimeout(() => this.send(), wait);
      });
    return this.sending;
  }

  private async sendAll() {
    for (;;) {
      const next = this.entries.find((e) => !e.refused);
      if (!next) return;
      try {
        const firing = await take(
          api.POST("/api/v1/firings/{id}/events", {
            params: { path: { id: next.firing } },
            body: next.body,
          }),
        );
        // Shown before it is let go of: folding it once more onto that changes nothing.
        this.onFiring(this.newest(firing));
        this.reached(true);
        await this.settle(next, firing);
      } catch (error) {
        const problem = error instanceof ApiError ? error.problem : undefined;
        // Not now is not never: no answer, a server in trouble, or nobody signed in.
        if (!problem || problem.status === 0 || problem.status >= 500 || problem.status === 401) {
          this.reached(false);
          return;
        }
        this.reached(true);
        const db = await this.base();
        await db.put("entries", { ...next, refused: problem.detail });
        await this.read();
      }
    }
  }

  /** Says whether the server answered. */
  reached(yes: boolean) {
    if (this.gone === !yes) return;
    this.gone = !yes;
    this.tell();
  }

  /** In one step: the event is the server's, and this is what it amounts to. */
  private async settle(entry: Entry, firing: Firing) {
    const db = await this.base();
    const tx = db.transaction(["entries", "firings"], "readwrite");
    if (entry.seq !== undefined) tx.objectStore("entries").delete(entry.seq);
    if (firing.closed_at) tx.objectStore("firings").delete(firing.id);
    else tx.objectStore("firings").put({ id: firing.id, workshop: this.workshop, firing });
    await tx.done;
    await this.read();
  }
}

export const journal = new Journal();
