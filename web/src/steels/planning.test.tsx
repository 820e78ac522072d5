import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Bar, Reclaimed, TrialEntry, TrialView } from "../api/client";
import { refused, serve, show, steel } from "../testing/shop.test";
import { BarsPage } from "./bars";
import { ComparePage } from "./compare";
import { Fracture, GRAINS } from "./fracture";
import { TrialsPage } from "./trials";

const o1 = { ...steel, key: "o1", name: "O1" };
const bar: Bar = {
  id: "b1",
  name: "Flat 40",
  steel: "1084",
  layers: [],
  size: { width_mm: 40, thickness_mm: 5, length_mm: 1000, left_mm: 250 },
  condition: "spheroidized",
  analysis: {
    C: 0.85,
    Si: 0.2,
    Mn: 0.7,
    Cr: 0,
    Ni: 0,
    Mo: 0,
    W: 0,
    V: 0,
    N: 0,
    Co: 0,
    Nb: 0,
    P: 0,
    S: 0,
  },
  note: "",
  blades: 2,
  version: 3,
};

describe("bars in stock", () => {
  const shop = (more: Parameters<typeof serve>[0] = () => undefined) =>
    serve(more, ({ method, path }) => {
      if (path === "/api/v1/steels") return { body: [steel, o1] };
      return path === "/api/v1/bars" && method === "GET" ? { body: [bar] } : undefined;
    });

  it("are shown with what is left, and changed with their version", async () => {
    const asked = shop(({ method }) => (method === "PUT" ? { body: bar } : undefined));
    show(<BarsPage />);
    expect(await screen.findByText("250 mm left")).toBeTruthy();
    expect(screen.getByText(/spheroidized, mill analysis · 2 blades/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Flat 40" }));
    const left = screen.getByLabelText("Left of it");
    await userEvent.clear(left);
    await userEvent.type(left, "0.1{Tab}");
    await userEvent.click(screen.getByRole("button", { name: "Save bar" }));
    await waitFor(() => expect(asked.some((a) => a.method === "PUT")).toBe(true));
    const put = asked.find((a) => a.method === "PUT");
    expect(put?.path).toBe("/api/v1/bars/b1");
    expect(put?.body).toMatchObject({ version: 3, size: { left_mm: 0.1 }, analysis: { C: 0.85 } });
  });

  it("of several steels say where these meet, and why not", async () => {
    const asked = shop(({ method, path, body }) => {
      if (path === "/api/v1/steels/meet") {
        const layers = (body as { layers: { steel: string }[] }).layers;
        return layers[1]?.steel === "o1"
          ? { body: { austenitize_c: [800, 815], media: ["fast_oil"], conflicts: [] } }
          : {
              body: {
                austenitize_c: null,
                media: [],
                conflicts: [{ code: "no_bath", edge: "1084" }],
              },
            };
      }
      return method === "POST"
        ? refused([{ field: "name", message: "The shop has a bar of this name." }])
        : undefined;
    });
    show(<BarsPage />);
    await userEvent.click(await screen.findByRole("button", { name: "Bring in a bar" }));
    await userEvent.type(screen.getByLabelText("Bar"), "Flat 40");
    await userEvent.click(screen.getByRole("button", { name: "It is made of several steels" }));
    expect(
      await screen.findByText("No bath suits all of them with 1084 at the edge."),
    ).toBeTruthy();
    await userEvent.selectOptions(screen.getByLabelText("Steel of layer 2"), "o1");
    expect(await screen.findByText(/austenitized from 800 °C to 815 °C/)).toBeTruthy();
    await userEvent.type(screen.getByLabelText("C %"), "60");
    await userEvent.click(screen.getByRole("button", { name: "Bring it into stock" }));
    expect(await screen.findByText("0.05 to 2.5 %")).toBeTruthy();
    expect(asked.some((a) => a.path === "/api/v1/bars" && a.method === "POST")).toBe(false);
    await userEvent.clear(screen.getByLabelText("C %"));
    await userEvent.click(screen.getByRole("button", { name: "Bring it into stock" }));
    expect(await screen.findByText("The shop has a bar of this name.")).toBeTruthy();
    const sent = asked.find((a) => a.path === "/api/v1/bars" && a.method === "POST")?.body;
    expect(sent).toMatchObject({ layers: [{ role: "edge" }, { role: "cladding", steel: "o1" }] });
  });
});

describe("steels compared", () => {
  it("stand side by side for a purpose, four at most", async () => {
    const many = ["1084", "1095", "o1", "w2", "o2"].map((key) => ({ ...steel, key, name: key }));
    serve(({ path }) => (path === "/api/v1/steels" ? { body: many } : undefined));
    show(<ComparePage />);
    const table = await screen.findByRole("table");
    expect(within(table).getAllByRole("columnheader")).toHaveLength(3);
    expect(within(table).getAllByText("✓ 220 °C gives 60 HRC.")).toHaveLength(3);
    await userEvent.selectOptions(screen.getByLabelText("For"), "fine_edge");
    expect(
      within(table).getAllByText(/^✗ Reaches 60 HRC at most after a 150 °C temper/),
    ).toHaveLength(3);
    await userEvent.click(screen.getByLabelText("w2"));
    await userEvent.click(screen.getByLabelText("o2"));
    const heads = within(table).getAllByRole("columnheader");
    expect(heads.map((h) => h.textContent)).toEqual(["1095", "o1", "w2", "o2"]);
  });
});

describe("unknown steel", () => {
  const guide = (stage: TrialView["guide"]["stage"]): TrialView["guide"] => ({
    stage,
    rung: stage === "ladder" ? 1 : null,
    bath: "oil",
    temperature_c: 790,
    verdict: null,
  });

  const spring = { C: 0.6, Si: 0.25, Mn: 0.85, Cr: 0.8 } as Reclaimed["analysis"];
  const reclaimed: Reclaimed = {
    was: "leaf_spring",
    analysis: spring,
    analyses: [spring, { ...spring, C: 0.52 }],
    grades: [{ grade: "5160", standard: "SAE J404", share: 0.27 }],
    carbon: [0.5, 0.58, 0.98],
    in_air: 0,
    too_little: 0.03,
    coupons: 0,
    readings: 0,
  };

  function shop() {
    const trial: TrialView = {
      id: "t1",
      name: "Old spring",
      was: "leaf_spring",
      measured: {},
      thickness_mm: 5,
      reclaimed,
      entries: [],
      steel_id: null,
      version: 1,
      created_at: "2026-11-25T09:00:00Z",
      guide: guide("oil"),
    };
    return serve(({ method, path, body }) => {
      if (path === "/api/v1/trials") return { body: method === "GET" ? [trial] : trial };
      if (path === "/api/v1/trials/t1") {
        const sent = body as { entries: TrialEntry[]; version: number };
        trial.entries = sent.entries;
        trial.version += 1;
        const carbon = [0.5, 0.7, 0.9];
        trial.guide =
          sent.entries.length === 1
            ? guide("ladder")
            : {
                ...guide("done"),
                verdict: {
                  verdict: "house_steel",
                  estimate: { carbon, manganese: 0.8, austenitize_c: [780, 790, 800], bath: "oil" },
                },
              };
        return { body: trial };
      }
      if (path === "/api/v1/trials/t1/steel") {
        return refused([{ field: "name", message: "The shop has a steel of this name." }]);
      }
      return undefined;
    });
  }

  it("is led from coupon to coupon to a steel of the shop", async () => {
    const asked = shop();
    show(<TrialsPage />);
    expect(await screen.findByText("Quench a coupon in oil and file it")).toBeTruthy();
    const go = () => screen.getByRole("button", { name: "Keep it, go on" });
    expect(go().hasAttribute("disabled")).toBe(true);
    await userEvent.click(screen.getByLabelText("skates: hard"));
    await userEvent.type(screen.getByLabelText("Hardest that skated"), "60{Tab}");
    await userEvent.click(go());
    expect(await screen.findByText("Rung 1: a coupon from 790 °C")).toBeTruthy();
    expect(screen.getByText(/60 skates/)).toBeTruthy();
    await userEvent.click(screen.getByLabelText("skates: hard"));
    expect(go().hasAttribute("disabled")).toBe(true);
    await userEvent.click(screen.getByLabelText(/fine velvet/));
    await userEvent.click(go());
    expect(
      await screen.findByText(/^It hardens in oil. Best from 790 °C \(780 to 800 °C\)/),
    ).toBeTruthy();
    const last = asked.filter((a) => a.method === "PUT").at(-1)?.body;
    expect(last).toMatchObject({
      version: 2,
      entries: [
        {
          kind: "first",
          bath: "oil",
          file: "skates",
          skated_hrc: 60,
          temperature_c: null,
          by: { sign: "past_magnet" },
        },
        { kind: "rung", temperature_c: 790, file: "skates", grain: 2 },
      ],
    });
    await userEvent.click(screen.getByRole("button", { name: "Make it a steel of the shop" }));
    expect(await screen.findByText("The shop has a steel of this name.")).toBeTruthy();
  });

  it("says what a piece may be, and takes a heat judged by eye", async () => {
    const asked = shop();
    show(<TrialsPage />);
    expect(await screen.findByText("it was an old leaf spring; coupons 5 mm thick")).toBeTruthy();
    expect(
      screen.getByRole("img", { name: "Carbon 0.50 to 0.98 %, as likely above as below 0.58 %" }),
    ).toBeTruthy();
    expect(screen.getByText("5160")).toBeTruthy();
    expect(screen.getByText("Too little carbon for an edge: 3 %.")).toBeTruthy();
    await userEvent.selectOptions(screen.getByLabelText("How hot"), "by colour");
    await userEvent.selectOptions(screen.getByLabelText("Colour"), "bright cherry");
    await userEvent.selectOptions(screen.getByLabelText("Light"), "in the dark");
    await userEvent.click(screen.getByLabelText("bites: soft"));
    await userEvent.click(screen.getByRole("button", { name: "Keep it, go on" }));
    expect(await screen.findByText(/^In oil, from bright cherry in the dark/)).toBeTruthy();
    const by = { sign: "colour", colour: "bright_cherry", light: "dark" };
    expect(asked.find((a) => a.method === "PUT")?.body).toMatchObject({
      entries: [{ kind: "first", bath: "oil", file: "bites", temperature_c: null, by }],
    });
  });

  it("begins with what it was, and reads what was measured", async () => {
    const asked = shop();
    show(<TrialsPage />);
    await userEvent.click(await screen.findByRole("button", { name: "Another piece" }));
    await userEvent.click(screen.getByLabelText("rail"));
    expect(screen.getByDisplayValue("Piece of rail")).toBeTruthy();
    await userEvent.click(screen.getByText("Something of it was measured"));
    await userEvent.type(screen.getByLabelText("Cr %"), "lots");
    const begin = screen.getByRole("button", { name: "Begin with it" });
    await userEvent.click(begin);
    expect(await screen.findByText("Not a number.")).toBeTruthy();
    expect(asked.some((a) => a.method === "POST")).toBe(false);
    await userEvent.clear(screen.getByLabelText("Cr %"));
    await userEvent.type(screen.getByLabelText("Cr %"), "0,9");
    await userEvent.click(begin);
    await waitFor(() =>
      expect(asked.find((a) => a.method === "POST")?.body).toMatchObject({
        name: "Piece of rail",
        was: "rail",
        thickness_mm: 5,
        measured: { Cr: 0.9 },
      }),
    );
  });

  it("has a drawing of its own for each grade, coarser with the grade", () => {
    const facets = GRAINS.map((_, i) => {
      const { container, unmount } = show(<Fracture grade={i + 1} />);
      const count = container.querySelectorAll("polygon").length;
      unmount();
      return count;
    });
    expect(facets).toHaveLength(5);
    expect([...facets].sort((a, b) => b - a)).toEqual(facets);
  });
});
