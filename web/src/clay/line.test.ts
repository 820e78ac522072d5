import { describe, expect, it } from "vitest";
import { bent, heightAt, offBy, type Place, redrawn, thinned } from "./line";

describe("a line along the blade", () => {
  const line: Place[] = [
    [0, 8],
    [50, 10],
    [100, 6],
  ];

  it("is straight between its places and flat beyond them", () => {
    expect(heightAt(line, 25)).toBe(9);
    expect(heightAt(line, -5)).toBe(8);
    expect(heightAt(line, 130)).toBe(6);
    expect(heightAt([], 10)).toBeUndefined();
  });

  it("lies off another by what is between them, only where one is wanted", () => {
    expect(offBy(line, line)).toBeCloseTo(0);
    const above = line.map(([x, h]): Place => [x, h + 2]);
    expect(offBy(above, line)).toBeCloseTo(2);
    expect(offBy(line, [])).toBeUndefined();
    // What is far outside of the wanted part does not count.
    expect(offBy([...above, [180, 90]], line)).toBeCloseTo(2);
  });

  it("bends most where it is set", () => {
    const set = bent(line, { share: 0.5, height: 13, length: 100, from: 7 });
    expect(set.map((p) => p[1])).toEqual([8, 13, 6]);
    const first = bent([], { share: 0.5, height: 9, length: 100, from: 7 });
    expect(first.map((p) => p[1])).toEqual([7, 9, 7]);
  });

  it("keeps few of the places a brush went through", () => {
    const many = Array.from({ length: 4000 }, (_, i): Place => [i * 0.5, 5]);
    const few = thinned(many);
    expect(few.length).toBeLessThanOrEqual(201);
    expect(few[0]).toEqual([0, 5]);
    expect(few.at(-1)?.[0]).toBeGreaterThan(1990);
  });

  it("is drawn above the edge, never under it", () => {
    const drawn = redrawn(
      [],
      [
        [10, 3],
        [20, 9],
      ],
      () => 4,
    );
    expect(drawn).toEqual([
      [10, 0.5],
      [20, 5],
    ]);
  });
});
