import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Finding, Firing } from "../api/client";
import { firing, show } from "../testing/shop.test";
import { FoundForm } from "./found-form";

const hard: Firing = { ...firing, state: { ...firing.state, quenched: true } };

function answers(): Finding[] {
  const all: Finding[] = [];
  show(<FoundForm firing={hard} onFound={(f) => all.push(f)} onCancel={() => undefined} />);
  return all;
}

const press = (name: string) => userEvent.click(screen.getByRole("button", { name }));

describe("what is found at the fire", () => {
  it("is a bow at one place by one press", async () => {
    const all = answers();
    await press("by the tip");
    await press("2.0 mm right");
    expect(all).toEqual([{ kind: "straight", after: "quench", places: [[162, -2]] }]);
  });

  it("is bows at three places as one answer", async () => {
    const all = answers();
    await press("at several places");
    await press("by the heel");
    await press("straight by the heel");
    await press("middle");
    await press("3.0 mm left");
    await press("by the tip");
    await press("1.0 mm left");
    expect(all).toEqual([]);
    await press("Keep these");
    expect(all).toEqual([
      {
        kind: "straight",
        after: "quench",
        places: [
          [29, 0],
          [95, 3],
          [162, 1],
        ],
      },
    ]);
  });

  it("is the grain of a broken coupon", async () => {
    const all = answers();
    await press("Grain?");
    await press("like velvet");
    expect(all).toEqual([{ kind: "grain", astm: 11 }]);
  });
});
