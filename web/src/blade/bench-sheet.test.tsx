import { screen, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { describe, expect, it } from "vitest";
import { blade, serve, show } from "../testing/shop.test";
import { BenchSheet } from "./bench-sheet";

const at = (id: string) =>
  show(
    <Routes>
      <Route path="/blades/:id/sheet" element={<BenchSheet />} />
    </Routes>,
    `/blades/${id}/sheet`,
  );

describe("the bench sheet", () => {
  it("holds every step with room for what was done, what is expected, and the cautions", async () => {
    serve();
    at(blade.id);
    expect(await screen.findByText("Reed hook")).toBeTruthy();
    const rows = within(screen.getByRole("table")).getAllByRole("row");
    expect(rows).toHaveLength(5);
    expect(rows[2]?.textContent).toContain("Austenitize815 °C5 min");
    expect(rows[4]?.textContent).toContain("cold to the hand between");
    expect(await screen.findByText(/61.5 HRC, 9 in 10 between/)).toBeTruthy();
    expect(screen.getByText(/Hot oil flashes/)).toBeTruthy();
    expect(screen.getByText(/Step 1: This normalizing heat is 30 °C hotter/)).toBeTruthy();
    expect(screen.getByText(/local fire and electrical codes/)).toBeTruthy();
    expect(screen.getByRole("button", { name: "Print" })).toBeTruthy();
  });

  it("says so when there is no such blade", async () => {
    serve();
    at("nothing");
    expect(await screen.findByText(/To the rack/)).toBeTruthy();
  });
});
