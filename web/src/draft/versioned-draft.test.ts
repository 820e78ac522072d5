import { describe, expect, it } from "vitest";
import { beginDraft, type DraftAction, type DraftState, draftReducer } from "./versioned-draft";

type Draft = DraftState<number[]>;
const begun = () => beginDraft({ value: [1], version: 3 });
const push = (n: number): DraftAction<number[]> => ({ type: "change", to: (now) => [...now, n] });
const run = (state: Draft, ...actions: DraftAction<number[]>[]) =>
  actions.reduce<Draft>(draftReducer, state);

describe("a versioned draft", () => {
  it("is undone and redone, and a new change ends what could be redone", () => {
    const twice = run(begun(), push(2), push(3));
    const back = run(twice, { type: "undo" }, { type: "undo" }, { type: "undo" });
    expect(back.now).toEqual([1]);
    expect(run(back, { type: "redo" }).now).toEqual([1, 2]);
    expect(run(back, { type: "redo" }, push(9), { type: "redo" }).now).toEqual([1, 2, 9]);
  });

  it("holds no change that changes nothing", () => {
    const same = run(begun(), { type: "change", to: (now) => now });
    expect(same.past).toHaveLength(0);
  });

  it("keeps a hundred changes", () => {
    const many = Array.from({ length: 150 }, (_, n) => push(n));
    expect(run(begun(), ...many).past).toHaveLength(100);
  });

  it("of two who changed it: mine is saved over their version, theirs can be undone", () => {
    const theirs = { value: [7], version: 8 };
    const problem = new Error("changed");
    const refused = run(begun(), push(2), { type: "refused", problem, theirs });
    const mine = run(refused, { type: "keep-mine" });
    expect(mine).toMatchObject({ now: [1, 2], version: 8, kept: "[7]", problem: null });
    const taken = run(refused, { type: "take-theirs" });
    expect(taken).toMatchObject({ now: [7], version: 8, kept: "[7]", theirs: null });
    expect(run(taken, { type: "undo" }).now).toEqual([1]);
  });

  it("keeps what is written when a save fails, and forgets the fault when one succeeds", () => {
    const failed = run(
      begun(),
      push(2),
      { type: "sent", value: [1, 2] },
      { type: "refused", problem: new Error("no answer"), theirs: null },
    );
    expect(failed.now).toEqual([1, 2]);
    expect(failed.problem?.message).toBe("no answer");
    expect(run(failed, { type: "stored", version: 4 })).toMatchObject({
      problem: null,
      version: 4,
    });
  });
});
