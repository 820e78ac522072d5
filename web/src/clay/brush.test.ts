import { describe, expect, it } from "vitest";
import { type BrushAction, brushReducer, RESTING } from "./brush";

const run = (...actions: BrushAction[]) => actions.reduce(brushReducer, RESTING);
const start: [number, number] = [40, 10];

describe("the brush", () => {
  it("draws only while it is down", () => {
    expect(run({ type: "drag", at: [5, 5] }).drawn).toBeNull();
    const stroke = run({ type: "down", at: [1, 1] }, { type: "drag", at: [2, 1] });
    expect(stroke.drawn).toEqual([
      [1, 1],
      [2, 1],
    ]);
    expect(brushReducer(stroke, { type: "lift" }).drawn).toBeNull();
  });

  it("is moved by keys from the middle, and paints on its way when it was put down", () => {
    const moved = run({ type: "move", by: [2, 0], start });
    expect(moved).toEqual({ at: [42, 10], drawn: null, byKeys: true });
    const painted = run(
      { type: "press", start },
      { type: "move", by: [2, 0], start },
      { type: "move", by: [0, 2], start },
    );
    expect(painted.drawn).toEqual([start, [42, 10], [42, 12]]);
  });

  it("shows itself for keys only", () => {
    expect(run({ type: "focus" }, { type: "down", at: [1, 1] }).byKeys).toBe(false);
    expect(run({ type: "focus" }, { type: "blur" }).byKeys).toBe(false);
  });
});
