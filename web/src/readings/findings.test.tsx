import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import type { Blade, FindingRow } from "../api/client";
import type { Units } from "../quantity/parse";
import { blade, refused, serve, show } from "../testing/shop.test";
import { type Kind, read as readSaid, told } from "./finding-kinds";
import { burned } from "./finding-list";
import { Findings as FindingsOf, lineHeights } from "./findings";

function read(
  kind: Kind,
  text: string,
  length = 200,
  units: Units = mm,
  choice = "tempered",
  second = "",
) {
  return readSaid(kind, { text, choice, second }, length, units);
}

/** The part as the readings tab shows it. */
function Findings(props: { blade: Blade; kind?: Kind; pointed?: string }) {
  const [kind, setKind] = useState<Kind>(props.kind ?? "line");
  return (
    <FindingsOf
      blade={props.blade}
      kind={kind}
      onKind={setKind}
      pointed={props.pointed ?? ""}
      onKept={() => {}}
    />
  );
}

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
    expect(read("line", "11 12,5")).toEqual({
      kind: "line",
      places: [
        [50, 11],
        [150, 12.5],
      ],
    });
    const inch = read("side", "0.02", 200, { ...mm, length: "in" });
    expect(inch).toEqual({ kind: "side", sag_mm: 0.508 });
    expect(read("file", "60 65", 200, mm, "as_quenched")).toEqual({
      kind: "file",
      stage: "as_quenched",
      warm: false,
      skin_on: false,
      low_hrc: 60,
      high_hrc: 65,
    });
  });
  it("may be one file alone, with no second one made up", () => {
    const skates = read("file", "62", 200, mm, "as_quenched", "skates");
    expect(skates).toMatchObject({ kind: "file", low_hrc: 62 });
    expect((skates as { high_hrc?: number }).high_hrc).toBeUndefined();
    const bites = read("file", "55", 200, mm, "as_quenched", "bites");
    expect(bites).toMatchObject({ high_hrc: 55 });
    expect((bites as { low_hrc?: number }).low_hrc).toBeUndefined();
    const about = (v: number) => `${v} mm`;
    expect(told(skates as never, about)).toBe("A file of 62 HRC skates, as quenched");
    expect(told({ ...(bites as object), warm: true, skin_on: true } as never, about)).toBe(
      "A file of 55 HRC bites, as quenched, still warm, through the skin",
    );
    expect(read("file", "60 65", 200, mm, "as_quenched", "bites")).toContain("one alone");
  });
  it("says what to write when it cannot be read", () => {
    expect(read("line", "")).toContain("Height above the edge");
    expect(read("line", "high")).toContain("Height above the edge");
    expect(read("side", "1 2")).toContain("Sag straight");
    expect(read("file", "60")).toContain("60 65");
  });
  it.each([
    [
      "straight",
      "40/0.3 90/-0.6",
      "quench",
      "",
      {
        after: "quench",
        places: [
          [40, 0.3],
          [90, -0.6],
        ],
      },
    ],
    [
      "line",
      "40/11 90/12,5",
      "",
      "",
      {
        places: [
          [40, 11],
          [90, 12.5],
        ],
      },
    ],
    ["straight", "0", "temper", "", { after: "temper", places: [[100, 0]] }],
    ["punch", "58", "tempered", "yes", { stage: "tempered", punch_hrc: 58, marked: true }],
    ["grain", "9,5", "", "", { astm: 9.5 }],
    ["sori", "0.6", "", "", { sori_mm: 0.6, before_mm: 0 }],
    ["sori", "-0,6 0.2", "", "", { sori_mm: -0.6, before_mm: 0.2 }],
    ["straight", "0", "forging", "", { after: "forging", places: [[100, 0]] }],
    ["polish", " 600 paper ", "", "", { with: "600 paper" }],
    ["etch", "iron salts, 1:8, 4, 10", "", "", { with: "iron salts, 1:8", dips: 4, dip_s: 10 }],
    ["trial", "", "chop", "rolled", { work: "chop", edge: "rolled" }],
    ["burn", "120/1 0.4", "light blue", "", { colour: "light blue", hot_s: 0.4, place: [120, 1] }],
    ["burn", "", "grey", "", { colour: "grey", hot_s: 0.5 }],
    ["scrap", "", "cracked", "", { cause: "cracked" }],
  ] as const)("%s as %o", (kind, text, choice, second, wanted) => {
    const found = read(kind, text, 200, mm, choice, second);
    expect(found).toMatchObject({ kind, ...wanted });
    if (typeof found !== "string") expect(told(found, (v) => `${v} mm`)).not.toBe("");
  });
  it.each([
    ["straight", "40"],
    ["punch", "hard"],
    ["grain", ""],
    ["sori", ""],
    ["sori", "1 2 3"],
    ["polish", " "],
    ["etch", "vinegar"],
    ["trial", "some"],
    ["burn", "there"],
  ] as const)("%s is not %o", (kind, text) => {
    expect(typeof read(kind, text)).toBe("string");
  });
  it("of a burn says what it cost", () => {
    const about = (v: number) => `${v.toFixed(1)} mm`;
    expect(burned({ peak_c: 500, lost_hrc: 4.2, depth_mm: 0.8 }, about)).toContain(
      "4.2 HRC lost, 0.8 mm",
    );
    expect(burned({ peak_c: 200, lost_hrc: 0, depth_mm: 0 }, about)).toContain("No harm");
    expect(burned(undefined, about)).toBe("");
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

  it("show what was pointed at before, and send it", async () => {
    const asked = serve(({ method, path }) =>
      path.endsWith("/findings") ? { body: method === "POST" ? row : [] } : undefined,
    );
    show(<Findings blade={blade} kind="crack" pointed="120/1" />);
    await userEvent.selectOptions(screen.getByLabelText("Found"), "burn");
    const field = await screen.findByLabelText<HTMLInputElement>(/^Where/);
    expect(field.value).toBe("120/1");
    await userEvent.click(screen.getByRole("button", { name: "Keep it" }));
    await waitFor(() => expect(asked.some((a) => a.method === "POST")).toBe(true));
    expect(asked.find((a) => a.method === "POST")?.body).toMatchObject({
      found: { kind: "burn", place: [120, 1] },
    });
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
