import { IDBFactory } from "fake-indexeddb";
import { openDB } from "idb";
import { beforeEach, describe, expect, it } from "vitest";
import { firing } from "../testing/shop.test";
import { open } from "./device";

beforeEach(() => {
  globalThis.indexedDB = new IDBFactory();
});

describe("what is kept on the device", () => {
  it("is brought over from the version before, presses that wait too", async () => {
    const before = await openDB("vatten", 1, {
      upgrade(db) {
        db.createObjectStore("entries", { keyPath: "seq", autoIncrement: true });
        db.createObjectStore("firings", { keyPath: "id" });
      },
    });
    const { actions, state, ...rest } = firing;
    const at = "2026-11-25T10:00:00Z";
    for (const body of [
      { id: "a", kind: "confirm", beat: 2, at },
      { id: "b", kind: "hand", name: "Tove", at },
      { id: "c", kind: "undo", event: "a", at },
    ]) {
      await before.add("entries", { workshop: "w", firing: firing.id, body });
    }
    await before.put("firings", {
      id: firing.id,
      workshop: "w",
      firing: {
        ...rest,
        beats: actions.map(({ kind: action, ...known }) => ({ ...known, action })),
        state: { ...state, hand: "Tove" },
      },
    });
    before.close();

    const now = await open();
    expect((await now.getAll("entries")).map((e) => e.body)).toEqual([
      { id: "a", kind: "confirm", action: 2, at },
      { id: "b", kind: "operator", name: "Tove", at },
      { id: "c", kind: "undo", event: "a", at },
    ]);
    const kept = await now.get("firings", firing.id);
    expect(kept?.firing).toEqual({ ...firing, state: { ...state, operator: "Tove" } });
    now.close();
  });
});
