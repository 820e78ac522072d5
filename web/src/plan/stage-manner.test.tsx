import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import type { Step } from "../api/client";
import { serve, show } from "../testing/shop.test";
import { manner } from "../words/manner";
import { say } from "../words/quantities";
import { QuenchFields } from "./quench-fields";

type Quench = Extract<Step, { kind: "quench" }>;
const SAY = say({ temperature: "c", length: "mm" });

function Page({ first, onChange }: { first: Quench; onChange: (step: Quench) => void }) {
  const [step, setStep] = useState<Quench>(first);
  const change = (to: Quench) => {
    setStep(to);
    onChange(to);
  };
  return <QuenchFields step={step} onChange={change} error={() => undefined} />;
}

/** The fields of a quench, and what it became. */
function edit(stage: Quench["stages"][number], warmth?: object) {
  const asked = serve(({ path }) =>
    path === "/api/v1/bath"
      ? { body: { warmth: warmth ?? null, thickness: 4.7, convection: 0.77 } }
      : undefined,
  );
  let now: Quench = { kind: "quench", stages: [stage] };
  show(
    <Page
      first={now}
      onChange={(to) => {
        now = to;
      }}
    />,
  );
  return { asked, is: () => now };
}

describe("how a blade goes into a bath", () => {
  it("is said way by way, and how far", async () => {
    const { is } = edit({ medium: "medium_oil", bath_c: 15 });
    await userEvent.click(screen.getByText("how it goes in"));
    await userEvent.selectOptions(screen.getByLabelText("Goes in"), "tip_first");
    await userEvent.selectOptions(screen.getByLabelText("How far"), "edge");
    expect(is().stages[0]).toMatchObject({ entry: "tip_first", edge_depth_mm: 15 });
    expect(manner(is(), SAY)).toBe("point first, edge 15 mm deep");
    expect(await screen.findByText(/4.7 times as thick/)).toBeTruthy();
  });

  it("is warmed by a bar, unless that sets it on fire", async () => {
    const { asked, is } = edit(
      { medium: "medium_oil", bath_c: 15, litres: 10 },
      { after_c: 38.2, most_c: 120, too_hot: false },
    );
    await userEvent.click(screen.getByText("10 l"));
    await userEvent.click(await screen.findByRole("button", { name: "Take that" }));
    expect(is().stages[0]?.bath_c).toBe(38);
    expect(asked.find((a) => a.path === "/api/v1/bath")?.body).toMatchObject({
      litres: 10,
      bar_kg: 1,
      bar_c: 700,
    });
  });

  it("warns of a bar that is too much for so little oil", async () => {
    edit(
      { medium: "medium_oil", bath_c: 15, litres: 0.5 },
      { after_c: 299, most_c: 120, too_hot: true },
    );
    await userEvent.click(screen.getByText("0.5 l"));
    expect((await screen.findByRole("alert")).textContent).toMatch(/smokes, boils or burns/);
    expect(screen.queryByRole("button", { name: "Take that" })).toBeNull();
  });

  it("is between plates of a metal and a thickness", async () => {
    const { is } = edit({ medium: "plates", bath_c: 20 });
    await userEvent.click(screen.getByText("how it goes in"));
    await userEvent.selectOptions(screen.getByLabelText("Plates of"), "steel");
    await userEvent.click(screen.getByLabelText("lies on one slab, air above"));
    expect(manner(is(), SAY)).toBe("on one slab of steel of 25.4 mm");
  });
});

describe("the manner of other steps", () => {
  it.each([
    [
      { kind: "temper", temperature_c: 205, hold_s: 7200, times: 2, clamp: { shim_mm: 1.5 } },
      "clamped 1.50 mm past straight",
    ],
    [
      { kind: "temper", temperature_c: 205, hold_s: 60, times: 1, cooled: "oven" },
      "cooled in the oven",
    ],
    [
      {
        kind: "sub_zero",
        temperature_c: -75,
        hold_s: 60,
        wait_s: 0,
        bath: "nitrogen",
        until_c: -20,
      },
      "nitrogen, warmed up to −20 °C",
    ],
    [{ kind: "anneal", temperature_c: 760, hold_s: 60, bed: "ash" }, "in ash"],
    [{ kind: "straighten" }, ""],
  ] as [Step, string][])("%o", (step, words) => {
    expect(manner(step, SAY).replace("-", "−")).toBe(words);
  });
});
