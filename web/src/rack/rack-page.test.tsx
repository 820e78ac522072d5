import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { blade, firing, serve, show } from "../testing/shop.test";
import { RackPage } from "./rack";
import { RackSide } from "./rack-side";

const soft = { ...blade, plan_id: "p1" };
const hard = {
  ...blade,
  id: "01900000-0000-7000-8000-0000000000b2",
  mark: "K-2",
  firing_id: "f1",
  firing_state: { ...firing.state, quenched: true },
  untempered_since: new Date(Date.now() - 40 * 60_000).toISOString(),
};

const rackOf = (blades: unknown[], finished: unknown[] = []) =>
  serve(({ method, path }) => {
    if (method !== "GET") return undefined;
    if (path === "/api/v1/blades/finished") return { body: finished };
    return path === "/api/v1/blades" ? { body: blades } : undefined;
  });

describe("the rack", () => {
  it("puts a hardened, untempered blade first, with its clock", async () => {
    rackOf([soft, hard], [{ ...blade, mark: "K-0" }]);
    show(<RackPage />);
    const [now] = (await screen.findAllByRole("heading", { level: 2 })).map((h) => h.textContent);
    expect(now).toBe("Needs you now");
    expect(screen.getByText("hard, untempered 40 min")).toBeTruthy();
    expect(screen.getByText("planned")).toBeTruthy();
    const off = (await screen.findByText("Off the rack")).parentElement as HTMLElement;
    expect(within(off).getByText("K-0")).toBeTruthy();
    expect(within(off).queryByRole("button", { name: "Older ones" })).toBeNull();
  });

  it("says what to do when it is empty", async () => {
    rackOf([]);
    show(<RackPage />);
    expect(await screen.findByText(/Nothing in work/)).toBeTruthy();
    expect(await screen.findByRole("form", { name: "New blade" })).toBeTruthy();
    expect(screen.queryByRole("button", { name: "New blade" })).toBeNull();
  });

  it("opens and closes the form for a new blade", async () => {
    rackOf([soft]);
    show(<RackPage />);
    const open = await screen.findByRole("button", { name: "New blade" });
    await userEvent.click(open);
    expect(await screen.findByRole("form", { name: "New blade" })).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Not now" }));
    expect(screen.queryByRole("form", { name: "New blade" })).toBeNull();
  });

  it("stands beside an open blade and marks it", async () => {
    rackOf([soft, hard]);
    show(<RackSide current={soft.id} />);
    const links = await screen.findAllByRole("link");
    expect(links.map((l) => l.getAttribute("aria-current"))).toEqual([null, "page"]);
  });
});
