import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Firing, Outlook } from "../api/client";
import { firing, serve, show } from "../testing/shop.test";
import { LookingAhead } from "./looking-ahead";

const hard: Firing = { ...firing, state: { ...firing.state, quenched: true } };
const around = (middle: number) => ({ low: middle - 1, middle, high: middle + 1 });

const outlook = (part: Partial<Outlook>): Outlook => ({
  as_quenched: around(63.7),
  tempered: around(59.4),
  harder_hrc: -0.8,
  departures: [{ code: "heat", kind: "austenitize", hotter_c: -30 }],
  temper: {
    step: 3,
    planned_c: 205,
    wanted: { wanted_hrc: 61, temperature_c: 190 },
  },
  ...part,
});

function look(of: Outlook) {
  const set: [number, number][] = [];
  const asked = serve(({ path }) => (path.endsWith("/outlook") ? { body: of } : undefined));
  show(<LookingAhead firing={hard} onTemper={(step, t) => set.push([step, t])} />);
  return { set, asked };
}

describe("what comes of it from here on", () => {
  it("names what went otherwise and sets the temper by one press", async () => {
    const { set } = look(outlook({ crack: 0.2, crack_before: 0.05 }));
    const said = await screen.findByRole("region", { name: "From here on" });
    expect(said.textContent).toContain("59.4 at the end, 0.8 softer than foreseen");
    expect(said.textContent).toContain("Hardened 30 °C cooler than planned.");
    expect(said.textContent).toContain("Chance of a crack 20 %, not 5 %.");
    await userEvent.click(screen.getByRole("button", { name: /190 °C, 15 °C cooler/ }));
    expect(set).toEqual([[3, 190]]);
  });

  it("is silent where all went as planned", async () => {
    const { asked } = look(outlook({ harder_hrc: 0.1, departures: [] }));
    await waitFor(() => expect(asked.some((a) => a.path.endsWith("/outlook"))).toBe(true));
    await new Promise((done) => setTimeout(done, 50));
    expect(screen.queryByRole("region")).toBeNull();
  });
});
