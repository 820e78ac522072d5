import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { serve, show } from "../testing/shop.test";
import { TemperJudged } from "./temper-judged";

const colours = [
  { colour: "straw", middle_c: 181 },
  { colour: "dark_straw", middle_c: 200 },
];
const temper = { kind: "temper", temperature_c: 205, hold_s: 7200, times: 2 } as const;

describe("a temper judged by its colour", () => {
  it("is as hot as the colour means in that time on that steel", async () => {
    const asked = serve(({ path }) =>
      path.startsWith("/api/v1/temper-colours") ? { body: colours } : undefined,
    );
    const change = vi.fn();
    const by = { colour: "dark_straw", light: "daylight" } as const;
    show(
      <TemperJudged
        bladeId="b"
        step={{ ...temper, by }}
        onChange={change}
        error={() => undefined}
      />,
    );
    await waitFor(() => screen.getByText("about 200 °C"));
    expect(asked.some((a) => a.path.includes("temper-colours"))).toBe(true);
    await userEvent.selectOptions(screen.getByLabelText("Temper colour"), "straw");
    expect(change).toHaveBeenLastCalledWith({
      ...temper,
      temperature_c: 181,
      by: { colour: "straw", light: "daylight" },
    });
    await userEvent.selectOptions(screen.getByLabelText("Tempered by"), "");
    expect(change.mock.lastCall?.[0]).toMatchObject({ by: undefined, temperature_c: 205 });
  });

  it("says what the server refuses of it", () => {
    serve(() => ({ body: colours }));
    const error = (field: string) => (field === "by.light" ? "In what light?" : undefined);
    show(<TemperJudged bladeId="b" step={temper} onChange={() => {}} error={error} />);
    expect(screen.getByRole("alert").textContent).toBe("In what light?");
  });
});
