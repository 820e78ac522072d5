import { describe, expect, it } from "vitest";
import baths from "../../../crates/core/tests/baths.json";
import type { Medium } from "../api/client";
import { MEDIA } from "../words/names";
import { USUAL_TRANSFER_S, usualBath } from "./quench-fields";
import { TORCH_S } from "./temper-judged";

describe("what is usual of a quench", () => {
  it("is what the core has", () => {
    expect(Object.keys(baths.usual_c).sort()).toEqual(Object.keys(MEDIA).sort());
    for (const [medium, celsius] of Object.entries(baths.usual_c)) {
      expect([medium, usualBath(medium as Medium)]).toEqual([medium, celsius]);
    }
    expect(USUAL_TRANSFER_S).toBe(baths.transfer_s);
    expect(TORCH_S).toBe(baths.torch_s);
  });
});
