import { fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { blade, maps, serve, show, steps } from "../testing/shop.test";
import { BladeView } from "./blade-view";

const view = <BladeView blade={blade} outline={blade.outline} steps={steps} height={200} />;

describe("the blade", () => {
  it("is not simulated until something of it is wanted, and then up to the quench only", async () => {
    const asked = serve(({ path }) => (path === "/api/v1/simulate" ? { body: maps } : undefined));
    show(view);
    expect(screen.getByText("hardness is read here")).toBeTruthy();
    expect(asked.some((a) => a.path === "/api/v1/simulate")).toBe(false);
    await userEvent.click(screen.getByLabelText("Hardness"));
    expect(await screen.findByText("HRC before tempering. Point at a place.")).toBeTruthy();
    const body = asked.find((a) => a.path === "/api/v1/simulate")?.body as { steps: unknown[] };
    expect(body.steps).toHaveLength(3);
    expect(body).toMatchObject({ step_mm: 2, steel: "1084" });
    expect(screen.getByText(/^Across, .* hard to the middle 20.0 mm up/)).toBeTruthy();
  });

  it("shows the line with its height, or says why there is none", async () => {
    let none = false;
    const through = { ...maps, hamon: { none: { code: "hardens_through" as const } } };
    serve(({ path }) =>
      path === "/api/v1/simulate" ? { body: none ? through : maps } : undefined,
    );
    const { unmount } = show(view);
    await userEvent.click(screen.getByLabelText("Hamon"));
    expect(await screen.findByText(/Band 4.0 mm wide/)).toBeTruthy();
    expect(screen.getAllByText("12.0 mm").length).toBeGreaterThan(0);
    unmount();
    none = true;
    show(view);
    await userEvent.click(screen.getByLabelText("Hamon"));
    expect(await screen.findByText(/^It hardens right through to the spine/)).toBeTruthy();
  });

  it("goes through the quench by the scrubber and by itself", async () => {
    serve(({ path }) => (path === "/api/v1/simulate" ? { body: maps } : undefined));
    show(view);
    await userEvent.click(screen.getByLabelText("Through the quench"));
    const scrubber = await screen.findByLabelText<HTMLInputElement>("Time since it went in");
    expect(scrubber.getAttribute("aria-valuetext")).toBe("0.0 s");
    fireEvent.change(scrubber, { target: { value: "1" } });
    expect(scrubber.getAttribute("aria-valuetext")).toBe("1.5 s");
    expect(screen.getByText(/^Now curved 1.2 mm to the edge/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Run it" }));
    await waitFor(() => expect(scrubber.getAttribute("aria-valuetext")).toBe("40 s"));
    expect(await screen.findByRole("button", { name: "Again" })).toBeTruthy();
  });

  it("draws the bend larger than life and says how much it really is", async () => {
    serve(({ path }) => (path === "/api/v1/simulate" ? { body: maps } : undefined));
    show(view);
    await userEvent.click(screen.getByLabelText("Bend"));
    expect(await screen.findByText(/drawn \d+ times as bent/)).toBeTruthy();
    expect(screen.getByText("a crack would start here")).toBeTruthy();
    expect(screen.getByText(/Off straight by \d\.\d mm at most/)).toBeTruthy();
  });

  it("says what the server says when it cannot", async () => {
    serve(({ path }) =>
      path === "/api/v1/simulate"
        ? { status: 422, body: { status: 422, title: "No", detail: "The clay is too thick." } }
        : undefined,
    );
    show(view);
    await userEvent.click(screen.getByLabelText("Hardness"));
    expect(await screen.findByText("The clay is too thick.")).toBeTruthy();
  });
});
