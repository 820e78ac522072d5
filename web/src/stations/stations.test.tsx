import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Route, Routes } from "react-router";
import { describe, expect, it } from "vitest";
import type { StationSays } from "../api/client";
import { type Asked, refused, serve, show } from "../testing/shop.test";
import { deviceOf } from "./connection-form";
import { inWords, wrongWith } from "./says";
import { StationsPage } from "./stations";

const kiln = {
  id: "k1",
  kind: "kiln",
  scale: "temperature",
  name: "Bench kiln",
  note: "",
  capacity: {},
  version: 3,
};
const oven = {
  id: "o1",
  kind: "oven",
  scale: "temperature",
  name: "Bench oven",
  note: "",
  capacity: { runs_alone: true },
  version: 1,
};
const check = {
  id: "c1",
  station_id: "o1",
  against: "thermometer",
  points: [
    [150, 158],
    [250, 262],
  ],
  note: "",
  done_at: new Date().toISOString(),
  drift: 2,
};

function shop(says: Partial<StationSays>[] = []): Asked[] {
  return serve(({ method, path, body }) => {
    if (method === "POST" && path.endsWith("/calibrations")) {
      const { points } = body as { points: number[][] };
      return (points[0]?.[1] ?? 0) > 300
        ? refused([{ field: "points[0][1]", message: "Too far off.", allowed: "within 80 °C" }])
        : { body: check };
    }
    if (method === "POST" || method === "PUT") return { body: { ...kiln, id: "n1" } };
    if (path === "/api/v1/stations") return { body: [kiln, oven] };
    if (path === "/api/v1/stations/now") return { body: says };
    if (path === "/api/v1/calibrations") return { body: [check] };
    return undefined;
  });
}

const open = (at = "/stations") =>
  show(
    <Routes>
      <Route path="/stations/:id?" element={<StationsPage />} />
    </Routes>,
    at,
  );

const sent = (asked: Asked[], method: string, end: string) =>
  asked.find((a) => a.method === method && a.path.endsWith(end))?.body;

describe("stations", () => {
  it("says what each shows and how far off it was", async () => {
    const now = new Date().toISOString();
    shop([{ station_id: "k1", at: now, value: 802, set_value: 815, trouble: null }]);
    open();
    await screen.findByText("802 °C of 815 °C");
    await screen.findByText("shows 12 °C too little, checked today");
    screen.getByText("never checked");
  });

  it("keeps a check as it was written, and says what is wrong with one", async () => {
    const asked = shop();
    open("/stations/o1");
    await screen.findByText(/150 °C shown, 158 °C real/);
    await userEvent.type(screen.getByLabelText("It showed, 1"), "200");
    await userEvent.type(screen.getByLabelText("Really was, 1"), "400");
    await userEvent.click(screen.getByRole("button", { name: "Keep check" }));
    expect((await screen.findByRole("alert")).textContent).toContain("Too far off.");
    await userEvent.clear(screen.getByLabelText("Really was, 1"));
    await userEvent.click(screen.getByRole("button", { name: "Keep check" }));
    expect((await screen.findByRole("alert")).textContent).toContain("side by side");
    await userEvent.type(screen.getByLabelText("Really was, 1"), "410F");
    await userEvent.click(screen.getByRole("button", { name: "Keep check" }));
    await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
    const all = asked.filter((a) => a.path.endsWith("/calibrations") && a.method === "POST");
    expect(all.at(-1)?.body).toMatchObject({
      against: "thermometer",
      points: [[200, expect.closeTo(210, 5)]],
    });
  });

  it("adds one", async () => {
    const asked = shop();
    open("/stations/o1");
    await userEvent.type(await screen.findByLabelText("Called"), "Long tank");
    await userEvent.selectOptions(screen.getByLabelText("Kind"), "tank");
    await userEvent.click(screen.getByRole("button", { name: "Add station" }));
    await waitFor(() => expect(sent(asked, "POST", "/stations")).toBeDefined());
    expect(sent(asked, "POST", "/stations")).toMatchObject({ kind: "tank", name: "Long tank" });
  });

  it("renames one, and takes one out of use", async () => {
    const asked = shop();
    open("/stations/o1");
    const name = await screen.findByLabelText("Name");
    await userEvent.clear(name);
    await userEvent.type(name, "Old oven");
    await userEvent.click(screen.getByRole("button", { name: "No longer used" }));
    await waitFor(() => expect(sent(asked, "PUT", "/o1")).toBeDefined());
    expect(sent(asked, "PUT", "/o1")).toMatchObject({
      name: "Old oven",
      retired: true,
      version: 1,
    });
  });

  it("says what an oven takes, and that only some may run alone", async () => {
    const asked = shop();
    open("/stations/o1");
    expect(await screen.findByText(/smoke alarm/)).toBeTruthy();
    await userEvent.type(screen.getByLabelText(/Blades at once/), "8");
    await userEvent.click(screen.getByLabelText(/Switches itself off/));
    await userEvent.click(screen.getByRole("button", { name: "Keep" }));
    await waitFor(() => expect(asked.some((a) => a.method === "PUT")).toBe(true));
    const sent = asked.find((a) => a.method === "PUT")?.body as { capacity: unknown };
    expect(sent.capacity).toEqual({ blades: 8, runs_alone: true, switches_off: true });
  });

  it("connects a kiln and sends it a set point", async () => {
    const asked = shop();
    open("/stations/k1");
    await userEvent.click(await screen.findByRole("button", { name: "Connect it" }));
    await userEvent.type(screen.getByLabelText("Host"), "192.168.1.40");
    await userEvent.click(screen.getByRole("button", { name: "Connect" }));
    await waitFor(() => expect(sent(asked, "PUT", "/k1")).toBeDefined());
    expect(sent(asked, "PUT", "/k1")).toMatchObject({
      version: 3,
      device: { speaks: "modbus", host: "192.168.1.40", port: 502, map: { per_degree: 10 } },
    });
  });
});

describe("what a station says", () => {
  const at = "2026-11-25T10:00:00Z";
  const said = (part: Partial<StationSays>): StationSays => ({ station_id: "k1", ...part });
  const shown = (_: unknown, v: number) => `${v} °C`;
  it.each([
    [said({ at, value: 815 }), "kiln", 5_000, "815 °C"],
    [said({ at, value: 815, set_value: 820 }), "kiln", 5_000, "815 °C of 820 °C"],
    [said({ at, value: 815 }), "kiln", 60_000, "Silent for 60 s."],
    [said({ at, value: 61.2 }), "tester", 600_000, "last 61.2 HRC"],
    [said({ trouble: "It hung up." }), "tester", 0, "It hung up."],
    [said({}), "kiln", 0, "Nothing was heard of it yet."],
  ] as const)("%o", (says, kind, after, words) => {
    expect(inWords(says, kind, Date.parse(at) + after, shown)).toBe(words);
  });
  it("a tester may be silent", () => {
    expect(wrongWith(said({ at, value: 60 }), "tester", Date.parse(at) + 9e9)).toBeNull();
  });
});

it("what is no number is left to the server to refuse", () => {
  const device = deviceOf({
    speaks: "modbus",
    host: " kiln ",
    port: "x",
    pattern: "",
    unit: "1",
    address: "4",
    table: "input",
    set_point: "",
    per_degree: "10",
    fahrenheit: true,
  });
  expect(device).toMatchObject({
    host: "kiln",
    port: 0,
    map: { set_point: null, fahrenheit: true },
  });
});
