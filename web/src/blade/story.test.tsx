import { screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { EventRow, FindingRow, Reading } from "../api/client";
import { blade, firing, serve, show } from "../testing/shop.test";
import { say } from "../words/quantities";
import { asText, StoryTab } from "./story";
import { story } from "./story-entries";

const at = (minute: number) => `2026-11-25T10:${String(minute).padStart(2, "0")}:00Z`;
const event = (position: number, what: EventRow["what"]): EventRow => ({
  id: `e${position}`,
  position,
  what,
  at: at(position),
  recorded_at: at(position),
});
const events = [
  event(0, { kind: "confirm", action: 0 }),
  event(1, { kind: "undo", event: "e0" }),
  event(2, { kind: "confirm", action: 0 }),
  event(3, { kind: "say", step: 1, temperature_c: 822, lasted_s: 540, note: "door" }),
  event(4, { kind: "operator", name: "Tove" }),
  event(5, { kind: "close" }),
];
const reading: Reading = {
  id: "r1",
  firing_id: "f1",
  stage: "tempered",
  values_hrc: [61, 61.2, 54],
  mean_hrc: 58.7,
  tester_id: null,
  note: "",
  taken_at: at(20),
  version: 1,
  taken: { places: [], warm: false, skin_on: false, aside: [] },
  not_counted: [null, null, null],
  outlier: 2,
};
const finding: FindingRow = {
  id: "n1",
  firing_id: "f1",
  found: { kind: "crack", cracked: false },
  note: "glass and lamp",
  found_at: at(30),
};
const words = {
  show: (_: unknown, v: number) => `${v} °C`,
  about: (v: number) => `${v} mm`,
  say: say({ temperature: "c", length: "mm" }),
};

describe("the story", () => {
  it("tells everything in order, what was taken back as well", () => {
    const all = story(
      { ...blade, length_mm: 185, spine_mm: 3 },
      {
        firings: [firing],
        events: new Map([["f1", events]]),
        readings: [reading],
        findings: [finding],
        photos: [],
        traces: [],
        edits: [
          {
            id: "d1",
            at: at(40),
            by: "Tove",
            changed: { length_mm: [190, 185], bar_id: ["Bar 3", null], finished: [false, true] },
          },
        ],
      },
      words,
    );
    expect(all.map((t) => t.text.split(/[;:.,]/)[0])).toEqual([
      "Entered",
      "Firing 1 begun with Reed hook",
      "In the fire",
      "Taken back",
      "In the fire",
      "Step 2 really was 822 °C",
      "Tove quenches",
      "Firing 1 closed",
      "Read 61",
      "Looked for cracks",
      "Written anew by Tove",
    ]);
    // The blade is told as it went into the fire, and what was written of it since beside it.
    expect(all[1]?.text).toContain("Reed hook, 1084, 190 mm long, 4 mm at the spine");
    expect(all.at(-1)?.text).toBe(
      "Written anew by Tove: length from 190 mm to 185 mm; the bar it is from, from Bar 3 to nothing; off the rack",
    );
    expect(all.filter((t) => t.undone)).toHaveLength(1);
    const text = asText(blade, all);
    expect(text).toContain("(taken back)");
    expect(text).toContain("54.0 is odd");
    expect(text).toContain("“glass and lamp”");
  });

  it("is shown by day", async () => {
    serve(({ path }) => {
      if (path.endsWith("/events")) return { body: events };
      if (path.endsWith(`${blade.id}/firings`)) return { body: [firing] };
      return undefined;
    });
    const state = { ...firing.state, quenched: true };
    show(<StoryTab blade={{ ...blade, firing_state: state }} />);
    const other = screen.getByRole("link", { name: "Hold it against another blade" });
    expect(other.getAttribute("href")).toBe(`/compare?blades=${blade.id}`);
    await screen.findByText(/Step 2 really was 822 °C, 9 min/);
    screen.getByRole("heading", { name: /25 November 2026/ });
    screen.getByRole("button", { name: "Save as text" });
  });

  it("of a blade that was not quenched has nothing to compare", () => {
    serve();
    show(<StoryTab blade={blade} />);
    expect(screen.queryByRole("link", { name: /another blade/ })).toBeNull();
  });
});
