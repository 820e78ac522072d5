import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Route, Routes, useLocation } from "react-router";
import { describe, expect, it } from "vitest";
import type { ComparedBlade, CompareView } from "../api/client";
import { serve, show, steps } from "../testing/shop.test";
import { CompareBladesPage } from "./compare";
import { cameRows, did, explain, was } from "./words";

const interval = (middle: number) => ({ middle, low: middle - 1, high: middle + 1 });
const [normalize, austenitize, quench] = steps;
if (!normalize || !austenitize || !quench) throw new Error("steps");

const one = (id: string, mark: string, more: Partial<ComparedBlade> = {}): ComparedBlade => ({
  id,
  mark,
  name: "Reed hook",
  steel_name: "W2",
  shape: "reed_hook",
  length_mm: 190,
  width_mm: 28,
  spine_mm: 4,
  edge_mm: 0.6,
  grind: "flat",
  outline: [
    [0, 0],
    [190, 0],
    [190, 28],
    [0, 28],
  ],
  protection: "bare",
  clay: false,
  operator: "Tove",
  oven: "Kitchen oven",
  done: { before: [normalize], heat: [austenitize], quench: [quench], cold: [], temper: [] },
  target_low_hrc: 60,
  target_high_hrc: 62,
  foreseen: { as_quenched: interval(65), tempered: interval(61), crack: 0.004 },
  read: { tempered_hrc: 61.2 },
  came: { trials: [], burns: 0 },
  ...more,
});

const first = one("a", "K-1", { came: { trials: [], burns: 0, line_mm: 8, cracked: false } });
const other = one("b", "K-2", {
  operator: "Aksel",
  clay: true,
  clay_band: { from_edge_mm: 12, thickness_mm: 2 },
  read: { tempered_hrc: 59 },
  came: {
    trials: [{ work: "carve", edge: "rolled" }],
    burns: 1,
    line_mm: 10,
    cracked: true,
    scrapped: "cracked",
  },
});
const view: CompareView = {
  blades: [first, other],
  differ: ["clay", "operator", "temper"],
  against_first: [
    {
      id: "b",
      when: "tempered",
      measured_hrc: -2.2,
      measured_line_mm: 2,
      effects: [
        { aspect: "clay", engine_hrc: 0.04, records_hrc: 0, line_mm: 1.4 },
        { aspect: "operator", engine_hrc: 0, records_hrc: -0.6 },
        { aspect: "temper", engine_hrc: -1.1, records_hrc: 0.2 },
      ],
    },
  ],
};
const units = {
  show: (_: string, v: number) => `${v}`,
  about: (mm: number) => `${mm.toFixed(1)} mm`,
};

function Place() {
  return <p data-testid="place">{useLocation().search}</p>;
}
const open = (path: string) =>
  show(
    <>
      <Routes>
        <Route path="/compare" element={<CompareBladesPage />} />
      </Routes>
      <Place />
    </>,
    path,
  );

describe("comparing blades", () => {
  it("shows what differed, what each did, and what came of it", async () => {
    const asked = serve(({ path }) =>
      path === "/api/v1/compare"
        ? { body: view }
        : path.endsWith("/marked")
          ? { body: [] }
          : undefined,
    );
    open("/compare?blades=a,b");
    const table = await screen.findByRole("table");
    expect(asked.some((a) => a.path === "/api/v1/compare")).toBe(true);
    const row = (name: string) => within(table).getByRole("rowheader", { name }).parentElement;
    expect(row("Clay")?.textContent).toContain("bare");
    expect(row("Clay")?.textContent).toContain("line +1.4 mm");
    expect(row("Hand")?.textContent).toBe("HandToveAksel −0.6 HRC");
    expect(row("Cracks")?.textContent).toContain("sound");
    expect(row("Cracks")?.textContent).toContain("cracked");
    expect(row("Hardness tempered")?.textContent).toContain("61.2 HRC foreseen 60.0 to 62.0");
    expect(row("Edge trials")?.textContent).toContain("it rolled");
    expect(within(table).queryByRole("rowheader", { name: "Grain" })).toBeNull();
    const said = screen.getByRole("listitem").textContent;
    expect(said).toContain("K-2 was read 2.2 HRC softer than K-1, tempered.");
    expect(said).toContain("−1.5 HRC: the temper −0.9 and the hand −0.6");
    expect(said).toContain("−0.7 HRC is explained by nothing");
  });

  it("takes blades by their mark, and leaves them out again", async () => {
    serve(({ path }) => {
      if (path === "/api/v1/compare") return { body: view };
      const all = [
        { id: "a", mark: "K-1", name: "Reed hook", steel_name: "W2" },
        { id: "b", mark: "K-2", name: "Net blade", steel_name: "O1" },
      ];
      return path.endsWith("/marked") ? { body: all } : undefined;
    });
    open("/compare");
    expect(screen.getByText(/Choose two or more/)).toBeTruthy();
    await screen.findByText("Reed hook, W2");
    await userEvent.type(screen.getByLabelText("A fired blade, by its mark"), "k{Enter}");
    expect(await screen.findByText("Several begin so: K-1, K-2.")).toBeTruthy();
    await userEvent.clear(screen.getByLabelText("A fired blade, by its mark"));
    await userEvent.type(screen.getByLabelText("A fired blade, by its mark"), "k-1{Enter}");
    expect(await screen.findByText(/One is chosen/)).toBeTruthy();
    await userEvent.type(screen.getByLabelText("Beside it, by its mark"), "K-2");
    await userEvent.click(screen.getByRole("button", { name: "Add" }));
    await screen.findByRole("table");
    expect(screen.getByTestId("place").textContent).toBe("?blades=a%2Cb");
    await userEvent.click(screen.getByRole("button", { name: "Leave out K-1" }));
    await waitFor(() => expect(screen.getByTestId("place").textContent).toBe("?blades=b"));
    expect(screen.queryByRole("table")).toBeNull();
  });

  it("says when no blade has such a mark, and what was refused", async () => {
    serve(({ path }) => {
      if (path.endsWith("/marked")) return { body: [] };
      const detail = "K-9 was not quenched yet: nothing came of it.";
      return { status: 409, body: { status: 409, title: "Not now", detail, fields: [] } };
    });
    open("/compare?blades=a,b");
    expect(await screen.findByText(/not quenched yet/)).toBeTruthy();
    await userEvent.type(screen.getByLabelText("Beside it, by its mark"), "zz{Enter}");
    expect(await screen.findByText(/No other fired blade has a mark/)).toBeTruthy();
  });
});

describe("the words", () => {
  const [pair] = view.against_first;
  if (!pair) throw new Error("pair");

  it("say what a blade was", () => {
    expect(was(other, "clay", units)).toBe("2 from 12 above the edge");
    expect(was({ ...other, clay_band: null }, "clay", units)).toBe("painted freely");
    expect(was(first, "cold", units)).toBe("none");
    expect(was(first, "tester", units)).toBe("not said");
    expect(was(first, "temper", units)).toBe("none, Kitchen oven");
  });

  it("leave small effects out", () => {
    expect(did(pair, "steel", units)).toBeNull();
    expect(
      did(
        { ...pair, effects: [{ aspect: "bar", engine_hrc: 0.02, records_hrc: 0 }] },
        "bar",
        units,
      ),
    ).toBe("");
  });

  it("tell what is expected where one was not read, and when all is explained", () => {
    const unread = explain(
      first,
      other,
      { ...pair, measured_hrc: null, measured_line_mm: null },
      units,
    );
    expect(unread[0]).toContain("Not both were read. K-2 is expected 1.5 HRC softer than K-1");
    const all = explain(first, other, { ...pair, measured_hrc: -1.6 }, units).join(" ");
    expect(all).toContain("That is all of it");
    expect(all).toContain("Its hamon sat 2.0 mm higher.");
    expect(all).toContain("the clay +1.4 mm");
    const same = explain(first, other, { ...pair, measured_hrc: 0.02 }, units);
    expect(same[0]).toBe("K-2 was read as hard as K-1, tempered.");
  });

  it("show only rows that something is known of", () => {
    const rows = cameRows([first, other], units);
    expect(rows.map((r) => r.name)).toEqual([
      "Hardness tempered",
      "Height of the hamon",
      "Cracks",
      "Edge trials",
      "Burned at the belt",
      "Given up",
    ]);
    expect(rows[2]?.cells[0]).toEqual({ measured: "sound", foreseen: "under 1 % to crack" });
  });
});
