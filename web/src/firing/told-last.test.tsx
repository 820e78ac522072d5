import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import folds from "../../../crates/core/tests/folds.json";
import type { DoNow, Firing } from "../api/client";
import { firing, serve, show } from "../testing/shop.test";
import type { What } from "./press";
import { LastFound } from "./told-last";

/** Out of the bath, with something found that asks for this. */
function asks(now: DoNow): { written: What[] } {
  serve();
  const hard = folds.actions.findIndex((a) => a.mark === "quenched") + 1;
  const of = {
    ...firing,
    steps: folds.steps,
    actions: folds.actions,
    extras: folds.extras,
    order: folds.steps.map((_, i) => i),
    state: {
      ...firing.state,
      position: hard,
      quenched: true,
      confirmed_ms: Array.from({ length: hard }, (_, i) => i),
      confirmed_by: Array.from({ length: hard }, (_, i) => `c${i}`),
      found: [{ event: "e", found: { kind: "crack", cracked: true } }],
    },
    now: [now],
  } as unknown as Firing;
  const written: What[] = [];
  show(
    <LastFound
      firing={of}
      onTakeBack={() => undefined}
      onDo={(all) => {
        written.push(...all);
      }}
    />,
  );
  return { written };
}

const press = (name: RegExp) => userEvent.click(screen.getByRole("button", { name }));

describe("what a finding asks for is one press", () => {
  it("gives a cracked blade up, once that was asked", async () => {
    const { written } = asks({ code: "stop" });
    await press(/^Give it up$/);
    expect(written).toEqual([]);
    await press(/press again/);
    expect(written).toEqual([{ kind: "close", end: "abandoned" }]);
  });

  it("clamps a bow past straight in the temper that comes, no thicker than a shim can be", async () => {
    const { written } = asks({ code: "straighten", off_mm: 9, tolerance_mm: 0.6, shim_mm: 31 });
    await press(/Clamp it so/);
    const how = { deviation: "clamp", step: 4, shim_mm: 20 };
    expect(written).toEqual([{ kind: "deviate", how }]);
  });

  it("hardens a soft one again from normalizing", async () => {
    const { written } = asks({ code: "harden_again", at_most_hrc: 50, promised_hrc: 63 });
    await press(/from normalizing/);
    const how = { deviation: "again", from: 1, to: 3 };
    expect(written).toEqual([{ kind: "deviate", how }]);
  });
});
