import { screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { LessonsView } from "../api/client";
import { serve, show } from "../testing/shop.test";
import { LessonsPage } from "./lessons";

const point = (mark: string, measured_hrc: number): LessonsView["points"][0] => ({
  mark,
  stage: "tempered",
  measured_hrc,
  physics_hrc: 61,
  left_out_hrc: 60.4,
  left_out_low_hrc: 59.5,
  left_out_high_hrc: 61.3,
});

const lessons: LessonsView = {
  records: 3,
  before_rms_hrc: 0.83,
  after_rms_hrc: 0.56,
  bias_hrc: -0.4,
  coverage: 0.92,
  ovens: [{ station_id: "o1", name: "Kitchen oven", runs_hot_c: 9.2, by_check_c: null }],
  others: [
    { outcome: "line", results: 12, before_rms: 2.1, after_rms: 1.04, coverage: 0.9 },
    { outcome: "side", results: 1, before_rms: 0.7, after_rms: 0.69, coverage: 1 },
    { outcome: "crack", results: 4 },
  ],
  points: [point("K-1", 60.2), point("K-2", 57), point("K-3", 61)],
};

const answer = (view: LessonsView) =>
  serve(({ path }) => (path === "/api/v1/lessons" ? { body: view } : undefined));

describe("the lessons", () => {
  it("say how far off, how honest, and what the oven does", async () => {
    answer(lessons);
    show(<LessonsPage />);
    expect(await screen.findByText(/From 3 results/)).toBeTruthy();
    const all = screen.getAllByRole("listitem").map((l) => l.textContent);
    expect(all.join(" ")).toContain("0.83 HRC");
    expect(all.join(" ")).toContain("0.4 HRC lower");
    expect(all.join(" ")).toContain("92 %");
    expect(all.join(" ")).toContain("Kitchen oven seems to run 9.2 °C hot");
  });

  it("say how the other outcomes do", async () => {
    answer(lessons);
    show(<LessonsPage />);
    expect(
      await screen.findByText(/Height of the hamon: from 12 results, off by 2.1 mm/),
    ).toBeTruthy();
    expect(screen.getByText(/Sideways bend: from one result, off by a factor of 2.0/)).toBeTruthy();
    expect(screen.getByText("Cracks: 4 results have moved the risk.")).toBeTruthy();
  });

  it("name the blade that did not fit, and only that", async () => {
    answer(lessons);
    show(<LessonsPage />);
    const odd = (await screen.findByText("Did not fit")).nextElementSibling;
    expect(odd?.textContent).toContain("K-2 tempered: read 57.0");
    expect(odd?.textContent).not.toContain("K-1");
  });

  it("of an empty shop say what to do", async () => {
    answer({ ...lessons, records: 0, points: [], ovens: [] });
    show(<LessonsPage />);
    expect(await screen.findByText(/No readings yet/)).toBeTruthy();
    expect(screen.queryByRole("img")).toBeNull();
  });
});
