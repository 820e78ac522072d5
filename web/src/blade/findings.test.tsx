import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { FindingRow } from "../api/client";
import { blade, refused, serve, show } from "../testing/shop.test";
import { Findings, lineHeights, read } from "./findings";

const mm = { temperature: "c", length: "mm" } as const;
const row: FindingRow = {
  id: "n1",
  firing_id: "f1",
  found: {
    kind: "line",
    places: [
      [50, 11],
      [140, 13],
    ],
  },
  note: "",
  found_at: "2026-11-25T09:00:00Z",
};

describe("a finding as typed", () => {
  it("is spread along the blade, in the unit in use", () => {
    expect(read("line", "11 12,5", false, "tempered", 200, mm)).toEqual({
      kind: "line",
      places: [
        [50, 11],
        [150, 12.5],
      ],
    });
    const inch = read("side", "0.02", false, "tempered", 200, { ...mm, length: "in" });
    expect(inch).toEqual({ kind: "side", sag_mm: 0.508 });
    expect(read("file", "60 65", false, "as_quenched", 200, mm)).toEqual({
      kind: "file",
      stage: "as_quenched",
      low_hrc: 60,
      high_hrc: 65,
    });
  });
  it("says what to write when it cannot be read", () => {
    expect(read("line", "", false, "tempered", 200, mm)).toContain("Height above the edge");
    expect(read("line", "high", false, "tempered", 200, mm)).toContain("Height above the edge");
    expect(read("side", "1 2", false, "tempered", 200, mm)).toContain("Sag straight");
    expect(read("file", "60", false, "tempered", 200, mm)).toContain("60 65");
  });
  it("counts as a diamond until it is withdrawn", () => {
    expect(lineHeights([row, { ...row, withdrawn_at: row.found_at }])).toEqual([12]);
  });
});

describe("the findings of a blade", () => {
  it("are kept, shown and withdrawn", async () => {
    let kept: FindingRow[] = [];
    const asked = serve(({ method, path, body }) => {
      if (!path.includes("/findings")) return undefined;
      if (method === "POST") {
        kept = [{ ...row, found: (body as { found: FindingRow["found"] }).found }];
        return { body: kept[0] };
      }
      if (method === "DELETE") return { status: 204, body: null };
      return { body: kept };
    });
    show(<Findings blade={blade} />);
    await userEvent.selectOptions(screen.getByLabelText("Found"), "crack");
    await userEvent.click(screen.getByRole("button", { name: "Keep it" }));
    expect(await screen.findByText("Looked for cracks: sound")).toBeTruthy();
    expect(asked.find((a) => a.method === "POST")?.body).toMatchObject({
      found: { kind: "crack", cracked: false },
    });
    await userEvent.click(screen.getByRole("button", { name: "Withdraw" }));
    await waitFor(() => expect(asked.some((a) => a.method === "DELETE")).toBe(true));
  });

  it("keep what was typed when they are refused", async () => {
    serve(({ method, path }) => {
      if (!path.includes("/findings")) return undefined;
      return method === "POST"
        ? refused([{ field: "found.places[0][1]", message: "400 mm is not possible." }])
        : { body: [] };
    });
    show(<Findings blade={blade} />);
    const field = screen.getByLabelText<HTMLInputElement>("Measured, mm");
    await userEvent.type(field, "400{Enter}");
    expect((await screen.findByRole("alert")).textContent).toContain("400 mm is not possible.");
    expect(field.value).toBe("400");
  });
});
