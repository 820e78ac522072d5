import { fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Reading } from "../api/client";
import { blade, firing, plan, serve, show } from "../testing/shop.test";
import { ReadingsTab } from "./readings";

const state = { ...firing.state, quenched: true, tempered: true };
const fired = { ...blade, firing_id: "f1", firing_state: state };

describe("the readings", () => {
  it("need a quench first", () => {
    serve();
    show(<ReadingsTab blade={blade} plan={plan} />);
    expect(screen.getByText(/nothing to read/)).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Keep readings" })).toBeNull();
  });

  it("are kept with the only tester, and a bad one is told at its field", async () => {
    const asked = serve(({ method, path }) =>
      method === "POST" && path.endsWith("/readings") ? { body: {} } : undefined,
    );
    show(<ReadingsTab blade={fired} plan={plan} />);
    await screen.findByRole("option", { name: "Bench tester" });
    const field = screen.getByLabelText<HTMLInputElement>("Readings, HRC, three or more");
    await userEvent.type(field, "61 75{Enter}");
    expect(screen.getByText(/75 HRC is not possible/)).toBeTruthy();
    expect(field.value).toBe("61 75");
    await userEvent.clear(field);
    await userEvent.type(field, "61 61.5 60.5{Enter}");
    await waitFor(() => expect(field.value).toBe(""));
    const kept = asked.find((a) => a.method === "POST" && a.path.endsWith("/readings"));
    expect(kept?.body).toMatchObject({
      stage: "tempered",
      values: [61, 61.5, 60.5],
      tester_id: "t1",
    });
  });

  it("may be of a tester that is not named, and a wrong place is told at the place", async () => {
    const asked = serve(({ method, path }) =>
      method === "POST" && path.endsWith("/readings")
        ? {
            status: 422,
            body: {
              status: 422,
              title: "x",
              detail: "A place lies outside.",
              fields: [{ field: "taken.places[0]", message: "It lies outside of the blade." }],
            },
          }
        : undefined,
    );
    show(<ReadingsTab blade={fired} plan={plan} />);
    await screen.findByRole("option", { name: "Bench tester" });
    await userEvent.selectOptions(screen.getByLabelText("With"), "a tester not named");
    await userEvent.type(screen.getByLabelText(/^Where/), "900");
    await userEvent.type(screen.getByLabelText("Readings, HRC, three or more"), "61{Enter}");
    const said = await screen.findByText("It lies outside of the blade.");
    expect(screen.getByLabelText(/^Where/).getAttribute("aria-describedby")).toBe(said.id);
    const sent = asked.find((a) => a.method === "POST" && a.path.endsWith("/readings"));
    expect(sent?.body).toMatchObject({ values: [61] });
    expect(sent?.body).not.toHaveProperty("tester_id");
  });

  it("stand beside the frozen prediction and can be withdrawn, not lost", async () => {
    const one: Reading = {
      id: "r1",
      firing_id: "f1",
      stage: "tempered",
      values_hrc: [60, 61],
      mean_hrc: 60.5,
      tester_id: "t1",
      note: "near the heel",
      taken_at: "2026-11-25T09:00:00Z",
      version: 1,
      taken: { places: [[40, 3], null], warm: false, skin_on: false, aside: [] },
      not_counted: [null, null],
      counted_hrc: 60.5,
      corrected_hrc: 60.1,
    };
    const asked = serve(({ method, path }) => {
      if (method === "GET" && path.endsWith("/readings")) {
        return { body: [one, { ...one, id: "r2", withdrawn_at: "2026-11-25T10:00:00Z" }] };
      }
      if (method === "GET" && path.endsWith("/firings")) return { body: [firing] };
      if (method === "DELETE") return { status: 204, body: null };
      return undefined;
    });
    show(<ReadingsTab blade={fired} plan={plan} />);
    expect(await screen.findAllByText(/near the heel/)).toHaveLength(2);
    expect(screen.getByText(/not learned from/)).toBeTruthy();
    expect(screen.getAllByText(/60.1 HRC by the tester's check/)).toHaveLength(2);
    const strip = await screen.findByRole("img", { name: /recorded 60.0, 61.0/ });
    expect(strip.getAttribute("aria-label")).toContain("wanted 59.0 to 61.0");
    await userEvent.click(screen.getByRole("button", { name: "Withdraw" }));
    await waitFor(() => expect(asked.some((a) => a.method === "DELETE")).toBe(true));
  });

  it("flag the odd one, and set it aside only with a reason", async () => {
    const one: Reading = {
      id: "r1",
      firing_id: "f1",
      stage: "tempered",
      values_hrc: [61, 61.4, 54],
      mean_hrc: 58.8,
      tester_id: null,
      note: "",
      taken_at: "2026-11-25T09:00:00Z",
      version: 4,
      taken: {
        places: [
          [40, 3],
          [60, 3],
          [80, 3],
        ],
        warm: false,
        skin_on: false,
        aside: [],
      },
      not_counted: [null, null, null],
      outlier: 2,
      counted_hrc: 58.8,
      corrected_hrc: 58.8,
    };
    const asked = serve(({ method, path }) => {
      if (method === "GET" && path.endsWith("/readings")) return { body: [one] };
      return method === "PUT" ? { body: one } : undefined;
    });
    show(<ReadingsTab blade={fired} plan={plan} />);
    await screen.findByText("odd one out");
    await screen.findByText("54.0 ?");
    await userEvent.click(screen.getByRole("button", { name: "Set 54.0 aside" }));
    const keep = screen.getByRole<HTMLButtonElement>("button", { name: "Set 54.0 aside" });
    expect(keep.disabled).toBe(true);
    await userEvent.type(screen.getByLabelText("Why 54.0 is set aside"), "slid off{Enter}");
    await waitFor(() => expect(asked.some((a) => a.method === "PUT")).toBe(true));
    expect(asked.find((a) => a.method === "PUT")?.body).toEqual({
      aside: [{ index: 2, reason: "slid off" }],
      version: 4,
    });
  });

  it("take a place for each value, and the state of the blade", async () => {
    const asked = serve(({ method, path }) =>
      method === "POST" && path.endsWith("/readings") ? { body: {} } : undefined,
    );
    show(<ReadingsTab blade={fired} plan={plan} />);
    await userEvent.type(screen.getByLabelText("Readings, HRC, three or more"), "61 60.5");
    const where = screen.getByLabelText(/^Where, mm/);
    await userEvent.type(where, "40/3");
    await userEvent.click(screen.getByRole("button", { name: "Keep readings" }));
    screen.getByText(/2 values, 1 places/);
    await userEvent.type(where, " 80");
    await userEvent.click(screen.getByLabelText("Still warm"));
    await userEvent.click(screen.getByRole("button", { name: "Keep readings" }));
    await waitFor(() =>
      expect(asked.some((a) => a.method === "POST" && a.path.endsWith("/readings"))).toBe(true),
    );
    const kept = asked.find((a) => a.method === "POST" && a.path.endsWith("/readings"));
    expect(kept?.body).toMatchObject({
      values: [61, 60.5],
      taken: {
        places: [
          [40, 3],
          [80, expect.any(Number)],
        ],
        warm: true,
        skin_on: false,
      },
    });
  });

  it("of the hamon are pointed at along the blade", async () => {
    const asked = serve(({ method, path }) =>
      method === "POST" && path.endsWith("/findings") ? { body: {} } : undefined,
    );
    show(<ReadingsTab blade={fired} plan={plan} />);
    await userEvent.click(screen.getByLabelText("where the hamon runs"));
    const drawing = screen.getByRole("img", { name: /^Blade/ });
    for (const clientX of [200, 400])
      fireEvent.pointerDown(drawing, { button: 0, clientX, clientY: 60 });
    const field = screen.getByLabelText<HTMLInputElement>(/^Measured/);
    expect(field.value.split(" ")).toHaveLength(2);
    await userEvent.click(screen.getByRole("button", { name: "Keep it" }));
    await waitFor(() =>
      expect(asked.some((a) => a.path.endsWith("/findings") && a.method === "POST")).toBe(true),
    );
    const kept = asked.find((a) => a.path.endsWith("/findings") && a.method === "POST");
    const body = kept?.body as { found: { kind: string; places: number[][] } } | undefined;
    expect(body?.found.kind).toBe("line");
    const [first, second] = body?.found.places ?? [];
    expect(second?.[0]).toBeGreaterThan(first?.[0] ?? 0);
  });
});
