import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import type { Help, Step } from "../api/client";
import { blade, serve, show, steps } from "../testing/shop.test";
import { Helps } from "./helps";

const help = (value: number, probability: number): Help => ({
  about: "crack",
  from: { code: "crack", probability: 0.09 },
  to: { code: "crack", probability },
  costs: [{ code: "hardness", hrc: 58.4 }],
  share: 0.5,
  fix: { change: "set", step: 3, kind: "temper", field: "temperature_c", value },
});

describe("what would help most", () => {
  it("is asked of the blade as it is, and applied with one press", async () => {
    const all = [help(190, 0.03), help(230, 0.01)];
    const asked = serve(({ path }) => (path === "/api/v1/help" ? { body: all } : undefined));
    const fix = vi.fn();
    show(<Helps blade={blade} steps={steps} said="Temper at 230 °C" onFix={fix} />);
    await userEvent.click(await screen.findByRole("button", { name: "Temper at 190 °C" }));
    screen.getByText("Cracks 9 % → 3 %; costs: hardness then 58.4 HRC.");
    expect(screen.queryByText(/→ 1 %/)).toBeNull();
    const to = fix.mock.calls[0]?.[0] as (now: Step[]) => Step[];
    expect(to(steps)[3]).toMatchObject({ kind: "temper", temperature_c: 190 });
    expect(to(steps)[1]).toBe(steps[1]);
    expect(asked.find((a) => a.path === "/api/v1/help")?.body).toMatchObject({
      blade_id: blade.id,
      ready: blade.ready,
      target_hrc: { low: 59, high: 61 },
    });
  });

  it("says nothing when nothing would help, or when the computation broke off", async () => {
    const asked = serve(({ path }) =>
      path === "/api/v1/help" ? { body: { status: 500, detail: "broke off" } } : undefined,
    );
    show(<Helps blade={blade} steps={steps} onFix={() => {}} />);
    await waitFor(() => expect(asked.some((a) => a.path === "/api/v1/help")).toBe(true));
    expect(screen.queryByText("What would help most")).toBeNull();
  });
});
