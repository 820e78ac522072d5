import type { IDBPDatabase } from "idb";
import { ApiError, api, type Firing, take, unreachable } from "../api/client";
import { type Entry, type EventBody, open, type Tables } from "./device";

/** Wait before the server is tried again, ms. */
const AGAIN = 3_000;

/**
 * What happened at the fire is written to this device before anything else, and stays there until the
 * server has it: a reload, a flat battery or a server that is gone lose nothing. Every event has its own
 * id, so it happens once however often it is sent. Where the device cannot keep it, it stays in the page,
 * which says so, and goes to the server from there.
 */
export class Journal {
  private db: Promise<IDBPDatabase<Tables>> | undefined;
  private stored: readonly Entry[] = [];
  private unsaved: readonly Entry[] = [];
  private workshop = "";
  /** Called when it works for a shop: what is pressed before that waits for it. */
  private starters: (() => void)[] = [];
  private listeners = new Set<() => void>();
  private sending: Promise<void> | undefined;
  private writing: Promise<unknown> = Promise.resolve();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private gone = false;
  private known = new Map<string, Firing>();
  private shown: { entries: readonly Entry[]; gone: boolean } = { entries: [], gone: false };
  /** Called with every firing that the server answers. */
  onFiring: (firing: Firing) => void = () => undefined;

  private base() {
    this.db ??= open().catch((error: unknown) => {
      // It may be let in later: it is tried again.
      this.db = undefined;
      throw error;
    });
    return this.db;
  }

  private get entries(): readonly Entry[] {
    return [...this.stored, ...this.unsaved];
  }

  /** Begins to work for a shop: reads what is on the device and sends it. */
  async begin(workshop: string) {
    this.workshop = workshop;
    this.known.clear();
    for (const start of this.starters.splice(0)) start();
    await this.read();
    this.send();
  }

  /** Stops working for the shop: what waits stays on the device until it is signed in again. */
  async end() {
    this.workshop = "";
    this.stored = [];
    this.unsaved = [];
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
    this.stored = all.filter((e) => e.workshop === this.workshop);
    this.tell();
  }

  /** Does one thing after the other: what was pressed first stands first. */
  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const done = this.writing.then(work, work);
    this.writing = done.catch(() => undefined);
    return done;
  }

  /** Keeps events on this device, all or none; when this is done they survive the power going. */
  add(events: { firing: string; body: EventBody }[]): Promise<void> {
    return this.inTurn(async () => {
      // The page of a fire can be there a moment before it is known whose it is.
      if (this.workshop === "") await new Promise<void>((start) => this.starters.push(start));
      await this.put(events, []);
    });
  }

  /** In one step: events are kept, and refused ones they stand for are let go of. */
  private async put(events: { firing: string; body: EventBody }[], instead: readonly Entry[]) {
    const fresh = events.map(({ firing, body }) => ({ workshop: this.workshop, firing, body }));
    try {
      // What came before goes before it.
      await this.save([...this.unsaved, ...fresh], instead);
    } catch {
      this.unsaved = [
        ...this.unsaved.filter((e) => !instead.some((i) => i.body.id === e.body.id)),
        ...fresh.map((e) => ({ ...e, unsaved: true })),
      ];
      // A refused one stays where it is until what stands for it is kept somewhere.
      this.tell();
    }
    this.send();
  }

  private async save(entries: readonly Entry[], instead: readonly Entry[]) {
    const tx = (await this.base()).transaction("entries", "readwrite", { durability: "strict" });
    for (const { unsaved, ...entry } of entries) tx.store.add(entry);
    for (const { seq } of instead) if (seq !== undefined) tx.store.delete(seq);
    await tx.done;
    this.unsaved = [];
    await this.read();
  }

  /** Keeps a refused event as a remark instead, in one step: there is always one of the two. */
  asRemark(entry: Entry, body: EventBody): Promise<void> {
    return this.inTurn(() => this.put([{ firing: entry.firing, body }], [entry]));
  }

  /** Sends a refused event once more, perhaps with another time. */
  amend(entry: Entry, part: Partial<EventBody>): Promise<void> {
    return this.inTurn(async () => {
      const { refused, ...again } = { ...entry, body: { ...entry.body, ...part } };
      await this.change(entry, again);
      this.send();
    });
  }

  /** Lets go of an event that the server refused. */
  dismiss(entry: Entry): Promise<void> {
    return this.inTurn(() => this.change(entry, undefined));
  }

  /** Puts another in the place of an entry, or nothing. */
  private async change(entry: Entry, to: Entry | undefined) {
    if (entry.seq !== undefined) {
      const db = await this.base();
      if (to) await db.put("entries", to);
      else await db.delete("entries", entry.seq);
      await this.read();
      return;
    }
    this.unsaved = this.unsaved.flatMap((e) =>
      e.body.id === entry.body.id ? (to ? [to] : []) : [e],
    );
    this.tell();
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

  /** Sends what waits, in order; goes on trying while there is something. */
  send() {
    this.sending ??= this.sendAll()
      .catch(() => undefined)
      .finally(() => {
        this.sending = undefined;
        clearTimeout(this.timer);
        // Something may have come while the last answer was awaited.
        const wait = this.gone || this.unsaved.length > 0 ? AGAIN : 0;
        if (this.entries.some((e) => !e.refused)) this.timer = setTimeout(() => this.send(), wait);
      });
    return this.sending;
  }

  private async sendAll() {
    for (;;) {
      if (this.unsaved.length > 0) {
        await this.inTurn(() => this.save(this.unsaved, [])).catch(() => undefined);
      }
      const next = this.entries.find((e) => !e.refused);
      if (!next) return;
      // A press that was refused and taken back never was.
      const idle = this.entries.find((e) => e.refused && e.body.id === next.body.event);
      if (next.body.kind === "undo" && idle) {
        await this.inTurn(() => this.change(idle, undefined));
        await this.inTurn(() => this.change(next, undefined));
        continue;
      }
      try {
        const firing = await take(
          api.POST("/api/v1/firings/{id}/events", {
            params: { path: { id: next.firing } },
            body: { ...next.body, sent_at: new Date().toISOString() },
          }),
        );
        // Shown before it is let go of: folding it once more onto that changes nothing.
        this.onFiring(this.newest(firing));
        this.reached(true);
        await this.inTurn(() => this.settle(next, firing));
      } catch (error) {
        // Not now is not never: no answer, a server in trouble, too much at once, or nobody signed in.
        if (!(error instanceof ApiError) || unreachable(error) || LATER.has(error.problem.status)) {
          this.reached(false);
          return;
        }
        this.reached(true);
        const refused = error.problem.detail;
        await this.inTurn(() => this.change(next, { ...next, refused }));
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
    if (entry.seq === undefined) {
      await this.change(entry, undefined);
      return;
    }
    const db = await this.base();
    const tx = db.transaction(["entries", "firings"], "readwrite");
    tx.objectStore("entries").delete(entry.seq);
    if (firing.closed_at) tx.objectStore("firings").delete(firing.id);
    else tx.objectStore("firings").put({ id: firing.id, workshop: this.workshop, firing });
    await tx.done;
    await this.read();
  }
}

/** Answers that mean later: nobody is signed in, it took too long, or too much came at once. */
const LATER = new Set([401, 408, 429]);

export const journal = new Journal();
