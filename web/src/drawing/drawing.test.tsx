import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { predicted, show, steps } from "../testing/shop.test";
import { GaugeStrip } from "./gauge-strip";
import { HeatPath } from "./heat-path";

describe("the heat path", () => {
  it("says every step, level and warning in words too", () => {
    show(<HeatPath steps={steps} selected={1} prediction={predicted(steps)} />);
    const options = screen.getAllByRole("option").map((o) => o.getAttribute("aria-label"));
    expect(options[0]).toBe("Step 1 of 4: Normalize, 860 °C, 2 min, warning 1");
    expect(options[3]).toBe("Step 4 of 4: Temper, 205 °C, 2 × 2 h");
    for (const name of ["Acm 730", "non-magnetic 770", "Ac1 723", "martensite starts 168"]) {
      expect(screen.getByText(name)).toBeTruthy();
    }
    expect(screen.getByRole("listbox").getAttribute("aria-activedescendant")).toContain("-1");
  });
});

describe("a gauge strip", () => {
  it("speaks its interval and opens its reasons", async () => {
    const p = predicted(steps);
    show(
      <GaugeStrip
        name="Hardness"
        unit="HRC"
        scale={[50, 66]}
        wanted={[59, 61]}
        now={p.hardness.tempered}
        earlier={p.hardness.tempered}
        recorded={[60]}
        sentence="As it is."
        reasons={p.reasons}
      />,
    );
    expect(screen.getByRole("img").getAttribute("aria-label")).toBe(
      "Hardness 61.5 HRC, nine in ten between 60.5 and 62.5; wanted 59.0 to 61.0; predicted before firing 61.5; recorded 60.0",
    );
    await userEvent.click(screen.getByRole("button", { name: "why" }));
    expect(screen.getByText("−0.6")).toBeTruthy();
    expect(screen.getByText(/oven runs 9/)).toBeTruthy();
  });
  it("is honest when nothing is known", () => {
    show(<GaugeStrip name="Grain" unit="ASTM" scale={[5, 13]} sentence="" />);
    expect(screen.getByText("—")).toBeTruthy();
  });
});
