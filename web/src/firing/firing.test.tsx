import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Route, Routes } from "react-router";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Firing } from "../api/client";
import { type Asked, firing, serve, show } from "../testing/shop.test";
import { say } from "../words/quantities";
import { FiringPage } from "./firing";
import { Journal, journal } from "./journal";
import { JournalAtWork } from "./journal-at-work";
import { straightenNow } from "./window";

const METRIC = say({ temperature: "c", length: "mm" });

const SHOP = "01900000-0000-7000-8000-0000000000a2";

afterEach(async () => {
  await journal.begin(SHOP);
  for (const entry of journal.snapshot().entries) await journal.dismiss(entry);
  await journal.end();
  journal.reached(true);
});

function Page() {
  return (
    <>
      <JournalAtWork workshop={SHOP} />
      <FiringPage />
    </>
  );
}

/** A server that folds the events it is sent. */
function forge(start: Partial<Firing> = {}) {
  let now: Firing = { ...firing, ...start };
  return serve(({ method, path, body }) => {
    if (path === "/api/v1/firings/f1") return { body: now };
    if (path === "/api/v1/firings") return { body: [now] };
    if (method !== "POST" || !path.endsWith("/events")) return undefined;
    const event = body as { id: string; kind: string; action?: number };
    const { state } = now;
    const to = event.kind === "confirm" ? 1 : event.kind === "undo" ? -1 : 0;
    const confirmed_ms =
      to > 0 ? [...state.confirmed_ms, Date.now()] : state.confirmed_ms.slice(0, to || undefined);
    const by = state.confirmed_by ?? [];
    const confirmed_by = to > 0 ? [...by, event.id] : by.slice(0, to || undefined);
    now = {
      ...now,
      state: { ...state, position: state.position + to, confirmed_ms, confirmed_by },
      closed_at: event.kind === "close" ? "2026-11-25T10:00:00Z" : undefined,
    };
    return { body: now };
  });
}

function open() {
  show(
    <Routes>
      <Route path="/firings/:id" element={<Page />} />
      <Route path="/blades/:id/readings" element={<p>the readings</p>} />
    </Routes>,
    "/firings/f1",
  );
}

const sent = (asked: Asked[], kind: string) =>
  asked.filter((a) => a.method === "POST" && (a.body as { kind?: string }).kind === kind);

describe("the firing view", () => {
  it("goes action by action with the space bar and back with U", async () => {
    const asked = forge();
    open();
    await screen.findByRole("button", { name: "In the fire" });
    await userEvent.keyboard(" ");
    await screen.findByRole("heading", { name: "Austenitize: heating" });
    await userEvent.keyboard(" ");
    await screen.findByText(/of 5:00/);
    screen.getByText(/^Hot oil flashes/);
    await userEvent.keyboard("u");
    await screen.findByRole("button", { name: "Back at heat: start soak" });
    const second = sent(asked, "confirm")[1]?.body as { id: string };
    expect(sent(asked, "undo")[0]?.body).toMatchObject({ event: second.id });
    const ids = asked.filter((a) => a.method === "POST").map((a) => (a.body as { id: string }).id);
    expect(new Set(ids).size).toBe(ids.length);
  });

  it("keeps what went otherwise", async () => {
    const asked = forge({
      state: { ...firing.state, position: 2, confirmed_ms: [1, 2], confirmed_by: ["a", "b"] },
    });
    open();
    await userEvent.click(await screen.findByRole("button", { name: "It went otherwise" }));
    await userEvent.click(screen.getByRole("button", { name: "What really was" }));
    const keep = screen.getByRole<HTMLButtonElement>("button", { name: "Keep it" });
    expect(keep.disabled).toBe(true);
    await userEvent.type(screen.getByLabelText("Temperature"), "1530F");
    await userEvent.type(screen.getByLabelText("Lasted"), "9 min");
    await userEvent.type(screen.getByLabelText("Remark"), "door left open ");
    await userEvent.click(keep);
    await waitFor(() => expect(sent(asked, "say")).toHaveLength(1));
    expect(sent(asked, "say")[0]?.body).toMatchObject({
      step: 1,
      temperature_c: expect.closeTo(832.2, 1),
      lasted_s: 540,
      note: "door left open ",
    });
    // Space in the remark was a space, not the big action.
    expect(sent(asked, "confirm")).toHaveLength(0);
  });

  it("keeps who quenches, and says nothing else of it", async () => {
    localStorage.removeItem("vatten.operator");
    const asked = forge({
      state: {
        ...firing.state,
        position: 2,
        confirmed_ms: [1, 2],
        confirmed_by: ["a", "b"],
        operator: "Tove",
      },
    });
    open();
    expect(await screen.findByText(/Tove quenches/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "It went otherwise" }));
    await userEvent.click(screen.getByRole("button", { name: "What really was" }));
    const keep = screen.getByRole<HTMLButtonElement>("button", { name: "Keep it" });
    expect(keep.disabled).toBe(true);
    await userEvent.clear(screen.getByLabelText("Who quenches"));
    await userEvent.type(screen.getByLabelText("Who quenches"), " Aksel ");
    await userEvent.click(screen.getByRole("button", { name: "Keep it" }));
    await waitFor(() => expect(sent(asked, "operator")).toHaveLength(1));
    expect(sent(asked, "operator")[0]?.body).toMatchObject({ name: "Aksel" });
    expect(sent(asked, "say")).toHaveLength(0);
    expect(localStorage.getItem("vatten.operator")).toBe("Aksel");
  });

  it("closes when all is done and goes to the readings", async () => {
    forge({
      state: {
        ...firing.state,
        position: 3,
        confirmed_ms: [1, 2, 3],
        confirmed_by: ["a", "b", "c"],
      },
    });
    open();
    await userEvent.click(await screen.findByRole("button", { name: "Close the firing" }));
    await screen.findByText("the readings");
  });

  it("calls out an untempered blade and refuses nothing silently", async () => {
    const state = {
      ...firing.state,
      position: 3,
      confirmed_ms: [1, 2, 3],
      confirmed_by: ["a", "b", "c"],
    };
    const asked = serve(({ method, path, body }) => {
      if (path === "/api/v1/firings/f1") {
        return {
          body: { ...firing, state: { ...state, untempered_since_ms: Date.now() - 2_400_000 } },
        };
      }
      if (method === "POST" && (body as { kind: string }).kind === "say") return { body: firing };
      if (method === "POST") {
        return {
          status: 409,
          body: { status: 409, title: "x", detail: "This firing is already closed." },
        };
      }
      return undefined;
    });
    open();
    await screen.findByText("Hard and untempered for 40 min.");
    await userEvent.click(screen.getByRole("button", { name: "Undo" }));
    expect((await screen.findByRole("alert")).textContent).toContain("already closed");
    await userEvent.click(screen.getByRole("button", { name: "Keep as a remark" }));
    await waitFor(() => expect(sent(asked, "say")).toHaveLength(1));
    await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
  });

  it("goes on with the server gone and writes everything up once", async () => {
    let up = true;
    const taken: string[] = [];
    serve(({ method, path, body }) => {
      if (!up) throw new TypeError("no connection");
      if (path === "/api/v1/firings/f1") return { body: firing };
      if (path === "/api/v1/firings") return { body: [firing] };
      if (method !== "POST") return undefined;
      taken.push((body as { id: string }).id);
      const position = taken.length;
      const state = {
        ...firing.state,
        position,
        confirmed_ms: taken.map((_, i) => i + 1),
        confirmed_by: taken,
      };
      return { body: { ...firing, state } };
    });
    open();
    await screen.findByRole("button", { name: "In the fire" });
    up = false;
    await userEvent.keyboard(" ");
    await screen.findByRole("button", { name: "Back at heat: start soak" });
    await userEvent.keyboard(" ");
    await screen.findByRole("button", { name: "In the oil" });
    await screen.findByText(/2 kept on this device/);
    // A reload in between: what was pressed is read from the device.
    const again = new Journal();
    await again.begin(SHOP);
    expect(again.snapshot().entries.map((e) => e.body.action)).toEqual([0, 1]);
    expect((await again.kept()).map((f) => f.id)).toEqual(["f1"]);
    await again.send();
    up = true;
    await journal.send();
    await waitFor(() => expect(screen.queryByText(/kept on this device/)).toBeNull());
    expect(new Set(taken).size).toBe(2);
    expect(taken).toHaveLength(2);
    screen.getByRole("button", { name: "In the oil" });
  });

  it("goes on pressing when its own drawing breaks", async () => {
    vi.spyOn(console, "error").mockImplementation(() => undefined);
    // Something that this page cannot draw.
    const asked = forge({ prediction: null as unknown as Firing["prediction"] });
    open();
    expect((await screen.findByRole("alert")).textContent).toContain("Every press is kept");
    await userEvent.click(screen.getByRole("button", { name: "In the fire" }));
    await waitFor(() => expect(sent(asked, "confirm")).toHaveLength(1));
    await screen.findByRole("button", { name: "Back at heat: start soak" });
    await journal.keep({ ...firing, closed_at: "2026-11-25T10:00:00Z" });
    vi.restoreAllMocks();
  });

  it("takes a load together, but quenches blade by blade", async () => {
    const other: Firing = { ...firing, id: "f2", mark: "K-2" };
    const at: Record<string, number> = { f1: 0, f2: 0 };
    const now = (f: Firing): Firing => {
      const position = at[f.id] ?? 0;
      const confirmed_ms = Array.from({ length: position }, (_, i) => i + 1);
      const confirmed_by = confirmed_ms.map((i) => `${f.id}-${i}`);
      return { ...f, state: { ...f.state, position, confirmed_ms, confirmed_by } };
    };
    const asked = serve(({ method, path }) => {
      if (path === "/api/v1/firings") return { body: [now(firing), now(other)] };
      const id = path.split("/")[4] ?? "";
      if (!(id in at)) return undefined;
      if (method === "POST") at[id] = (at[id] ?? 0) + 1;
      return { body: now(id === "f1" ? firing : other) };
    });
    open();
    await userEvent.click(await screen.findByRole("button", { name: "One by one" }));
    await userEvent.click(await screen.findByRole("button", { name: /In the fire.*2 blades/ }));
    await userEvent.click(
      await screen.findByRole("button", { name: /Back at heat: start soak.*2 blades/ }),
    );
    await userEvent.click(await screen.findByRole("button", { name: "In the oil" }));
    await waitFor(() => expect(sent(asked, "confirm")).toHaveLength(5));
    const [a, b] = sent(asked, "confirm").map((e) => (e.body as { at: string }).at);
    expect(a).toBe(b);
    await screen.findByRole("link", { name: /K-2 Austenitize: soak/ });
  });
});

describe("the straightening window", () => {
  const at = (position: number) => ({
    ...firing,
    steps: firing.steps,
    state: { ...firing.state, position, confirmed_ms: [0, 1_000, 10_000].slice(0, position) },
    prediction: {
      ...firing.prediction,
      straightening: {
        martensite_start_c: 180,
        pull_s: 5,
        until_s: 45,
        in_bath_s: 12,
        overbend_mm: 5.2,
        holds: [
          { from_s: 40, takes_out: 1 },
          { from_s: 60, takes_out: 0.6 },
          { from_s: 100, takes_out: 0.04 },
        ],
      },
    },
  });
  it.each([
    [2, 11_000, undefined],
    [3, 12_000, "In 0:03 it can come out"],
    [3, 17_000, "in the bath 0:05 left, out of it 0:38"],
    [3, 60_000, "Too late"],
    [3, 999_000, undefined],
  ])("at action %i, %i ms", (position, now, text) => {
    const got = straightenNow(at(position), now, METRIC);
    if (text === undefined) expect(got).toBeNull();
    else expect(got?.text).toContain(text);
  });
  it("counts to the martensite start in air once it is out", () => {
    const out = at(3);
    out.actions = [
      ...out.actions.slice(0, 2),
      { ...(out.actions[2] as (typeof out.actions)[0]), mark: "quenched" },
    ];
    expect(straightenNow(out, 30_000, METRIC)?.text).toBe(
      "Straighten now: 0:25 left, 5.2 mm past straight by hand. Clamped straight until it is cold: takes out 100 % of a bow; in 20 s 100 %.",
    );
    // By hand no more; the clamp still does, and less by the second.
    expect(straightenNow(out, 61_000 + 1_000, METRIC)?.text).toMatch(
      /^By hand it springs.*takes out 76 % of a bow; in 20 s 43 %/,
    );
    expect(straightenNow(out, 300_000, METRIC)).toBeNull();
  });
});
