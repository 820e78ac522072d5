import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { type Answer, firing, serve } from "../testing/shop.test";
import type { EventBody } from "./device";
import { Journal } from "./journal";

const SHOP = "01900000-0000-7000-8000-0000000000a7";
const press = (id: string, part: Partial<EventBody> = {}) => ({
  firing: firing.id,
  body: { id, kind: "confirm", action: 0, at: "2026-11-25T10:00:00Z", ...part } as EventBody,
});
const refusal: Answer = { status: 409, body: { status: 409, title: "x", detail: "Not so." } };

let journal: Journal;
beforeEach(async () => {
  journal = new Journal();
  await journal.begin(SHOP);
});
afterEach(async () => {
  vi.restoreAllMocks();
  for (const entry of journal.snapshot().entries) await journal.dismiss(entry);
  await journal.end();
});
const ids = () => journal.snapshot().entries.map((e) => e.body.id);
const full = () =>
  vi.spyOn(IDBObjectStore.prototype, "add").mockImplementation(() => {
    throw new DOMException("full", "QuotaExceededError");
  });

describe("what was pressed at the fire", () => {
  it.each<[string, () => Response | Promise<Response>]>([
    ["a page of 502 from a proxy", () => new Response("<html>Bad Gateway</html>", { status: 502 })],
    [
      "a database that is away",
      () => new Response(JSON.stringify({ status: 503, title: "x", detail: "y" }), { status: 503 }),
    ],
    ["a fault of the server", () => new Response("", { status: 500 })],
    [
      "no answer in time",
      () => Promise.reject(new DOMException("The operation timed out.", "TimeoutError")),
    ],
    ["no connection", () => Promise.reject(new TypeError("no connection"))],
  ])("waits on this device for %s to pass, and is sent once", async (_, answer) => {
    vi.stubGlobal("fetch", async () => answer());
    await journal.add([press("a"), press("b", { action: 1 })]);
    await journal.send();
    expect(journal.snapshot().gone).toBe(true);
    expect(ids()).toEqual(["a", "b"]);
    expect(journal.snapshot().entries.some((e) => e.refused)).toBe(false);
    // As after a reload.
    const again = new Journal();
    await again.begin(SHOP);
    expect(again.snapshot().entries.map((e) => e.body.id)).toEqual(["a", "b"]);
    await again.end();
    const asked = serve(({ method }) => (method === "POST" ? { body: firing } : undefined));
    await journal.send();
    expect(asked.map((a) => (a.body as EventBody).id)).toEqual(["a", "b"]);
    expect(asked.every((a) => (a.body as { sent_at?: string }).sent_at)).toBe(true);
    expect(journal.snapshot()).toEqual({ entries: [], gone: false });
  });

  it("stays on screen when two refusals become remarks at once", async () => {
    serve(({ method }) => (method === "POST" ? refusal : undefined));
    await journal.add([press("a"), press("b", { action: 1 })]);
    await journal.send();
    const [a, b] = journal.snapshot().entries;
    if (!a || !b) throw new Error("both were refused");
    expect([a.refused, b.refused]).toEqual(["Not so.", "Not so."]);
    const asked = serve(({ method }) => (method === "POST" ? { body: firing } : undefined));
    const remark = (id: string) => press(id, { kind: "say", step: 0, note: id }).body;
    await Promise.all([journal.asRemark(a, remark("ra")), journal.asRemark(b, remark("rb"))]);
    await journal.send();
    await journal.send();
    expect(asked.map((x) => (x.body as EventBody).note)).toEqual(["ra", "rb"]);
    expect(ids()).toEqual([]);
  });

  it("stays in the page, which says so, while the storage of the device is full", async () => {
    vi.stubGlobal("fetch", async () => new Response("", { status: 502 }));
    const closed = full();
    await journal.add([press("a", { kind: "say", step: 0, note: "door left open" })]);
    await journal.send();
    expect(journal.snapshot().entries).toMatchObject([
      { unsaved: true, body: { note: "door left open" } },
    ]);
    // A refused one that is to become a remark stays until the remark stands somewhere.
    serve(({ method }) => (method === "POST" ? refusal : undefined));
    await journal.send();
    const [refused] = journal.snapshot().entries;
    expect(refused?.refused).toBe("Not so.");
    vi.stubGlobal("fetch", async () => new Response("", { status: 502 }));
    if (refused) await journal.asRemark(refused, press("r", { kind: "say", step: 0 }).body);
    expect(journal.snapshot().entries).toMatchObject([{ unsaved: true, body: { id: "r" } }]);
    // There is room again: it is kept at the next try, and then sent.
    closed.mockRestore();
    await journal.send();
    expect(journal.snapshot().entries).toMatchObject([{ body: { id: "r" } }]);
    expect(journal.snapshot().entries[0]?.unsaved).toBeUndefined();
    const asked = serve(({ method }) => (method === "POST" ? { body: firing } : undefined));
    await journal.send();
    expect(asked).toHaveLength(1);
    expect(ids()).toEqual([]);
  });

  it("is amended and sent again when it was refused", async () => {
    serve(({ method }) => (method === "POST" ? refusal : undefined));
    await journal.add([press("a")]);
    await journal.send();
    const [a] = journal.snapshot().entries;
    const asked = serve(({ method }) => (method === "POST" ? { body: firing } : undefined));
    if (a) await journal.amend(a, { at: "2026-11-25T09:58:00Z", ahead_ms: 0 });
    await journal.send();
    expect(asked[0]?.body).toMatchObject({ id: "a", at: "2026-11-25T09:58:00Z" });
    expect(ids()).toEqual([]);
  });

  it("that was refused and is taken back never was, and takes back nobody else's", async () => {
    const asked = serve(({ method, body }) => {
      if (method !== "POST") return undefined;
      return (body as EventBody).id === "a" ? refusal : { body: firing };
    });
    await journal.add([press("a"), press("u", { kind: "undo", event: "a", action: undefined })]);
    await journal.send();
    expect(asked.map((x) => (x.body as EventBody).id)).toEqual(["a"]);
    expect(ids()).toEqual([]);
  });

  it("waits to be kept until it is known whose it is", async () => {
    await journal.end();
    const early = journal.add([press("a")]);
    expect(ids()).toEqual([]);
    serve(() => undefined);
    await journal.begin(SHOP);
    await early;
    expect(journal.snapshot().entries.map((e) => e.workshop)).toEqual([SHOP]);
  });
});
