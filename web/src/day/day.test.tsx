import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { DayBar, DayView } from "../api/client";
import { dayBar, dayOf, NOON } from "../testing/day.test";
import { type Asked, blade, serve, show } from "../testing/shop.test";
import { DayPage } from "./day";

const two = () =>
  dayOf([
    dayBar({ blade: blade.id }),
    dayBar({ blade: blade.id, activity: 2, start_s: NOON + 7200 }),
  ]);

function shop(
  day: DayView,
  more?: (asked: Asked) => { status?: number; body: unknown } | undefined,
) {
  return serve(
    (asked) => more?.(asked),
    ({ method, path }) => {
      if (path === "/api/v1/blades") return { body: [blade] };
      if (path === "/api/v1/batches") return { body: [] };
      if (path === "/api/v1/day/cures") return { body: { cures: [], late_alone: [] } };
      return method === "GET" && path === "/api/v1/day" ? { body: day } : undefined;
    },
  );
}

const bars = () => screen.findAllByRole("button", { name: /Temper/ });

describe("the day", () => {
  beforeEach(() => localStorage.clear());

  it("asks for blades when it is empty, and puts those that were picked on it", async () => {
    const asked = shop(dayOf([]), ({ method, path }) =>
      method === "POST" && path === "/api/v1/day/blades" ? { body: two() } : undefined,
    );
    show(<DayPage />);
    expect(await screen.findByText(/No blade is on a day/)).toBeTruthy();
    const put = await screen.findByRole("button", { name: "Put them on the day" });
    expect((put as HTMLButtonElement).disabled).toBe(true);
    await userEvent.click(screen.getByRole("checkbox", { name: new RegExp(blade.mark) }));
    await userEvent.click(screen.getByRole("button", { name: "Put 1 on the day" }));
    expect(await bars()).toHaveLength(2);
    const sent = asked.find((a) => a.method === "POST");
    expect(sent?.body).toEqual({ blades: [{ blade_id: blade.id }] });
  });

  it("is walked, moved and pinned by keys alone", async () => {
    const asked = shop(two(), ({ method, path }) =>
      method === "PUT" && path === "/api/v1/day/pins" ? { body: two() } : undefined,
    );
    show(<DayPage />);
    const [first, second] = await bars();
    await userEvent.click(first as HTMLElement);
    expect(within(screen.getByLabelText("The chosen bar")).getByText(/Not earlier/)).toBeTruthy();
    await userEvent.keyboard("{ArrowRight}");
    expect(document.activeElement).toBe(second);
    await userEvent.keyboard("{Shift>}{ArrowRight}{ArrowRight}{/Shift}");
    await waitFor(() => expect(asked.filter((a) => a.method === "PUT")).toHaveLength(1));
    // Two presses are one move, sent when they rest.
    expect(asked.find((a) => a.method === "PUT")?.body).toEqual({
      blade_id: blade.id,
      activity: 2,
      start_at: new Date((NOON + 7200 + 600) * 1000).toISOString(),
    });
    await userEvent.keyboard("p");
    await waitFor(() => expect(asked.filter((a) => a.method === "PUT")).toHaveLength(2));
    // Pinned while a move still rests: both are one, and nothing comes after it.
    await userEvent.keyboard("{Shift>}{ArrowRight}{/Shift}p");
    await waitFor(() => expect(asked.filter((a) => a.method === "PUT")).toHaveLength(3));
    await new Promise((later) => setTimeout(later, 700));
    expect(asked.filter((a) => a.method === "PUT")).toHaveLength(3);
  });

  it("moves a bar by hand, in steps of five minutes", async () => {
    const asked = shop(two(), ({ method, path }) =>
      method === "PUT" && path === "/api/v1/day/pins" ? { body: two() } : undefined,
    );
    show(<DayPage />);
    const [first] = (await bars()) as [HTMLElement];
    // Twelve hours are a thousand pixels wide: a hundred are 72 minutes, and 70 of them whole steps.
    fireEvent.pointerDown(first, { clientX: 300, button: 0, pointerId: 1 });
    fireEvent.pointerMove(first, { clientX: 302, pointerId: 1 });
    fireEvent.pointerMove(first, { clientX: 400, pointerId: 1 });
    fireEvent.pointerUp(first, { clientX: 400, pointerId: 1 });
    await waitFor(() => expect(asked.some((a) => a.method === "PUT")).toBe(true));
    expect(asked.find((a) => a.method === "PUT")?.body).toEqual({
      blade_id: blade.id,
      activity: 0,
      start_at: new Date((NOON + 4200) * 1000).toISOString(),
    });
    // A press that hardly moves is none.
    fireEvent.pointerDown(first, { clientX: 300, button: 0, pointerId: 1 });
    fireEvent.pointerMove(first, { clientX: 302, pointerId: 1 });
    fireEvent.pointerUp(first, { clientX: 302, pointerId: 1 });
    expect(asked.filter((a) => a.method === "PUT")).toHaveLength(1);
  });

  it("says what cannot be with what would mend it, and why a blade is not on it", async () => {
    const [bar] = two().bars;
    const day = dayOf([bar as DayBar]);
    day.measures = { ...day.measures, ails: true, late_s: 3600 };
    day.blades = day.blades.map((b) => ({ ...b, untempered: true }));
    day.blades.push({
      ...(day.blades[0] as DayView["blades"][number]),
      blade_id: "b2",
      mark: "K-7",
      trouble: { code: "no_plan" },
      done_s: null,
    });
    shop(day, ({ path }) =>
      path === "/api/v1/day/cures"
        ? {
            body: {
              late_alone: [blade.id],
              cures: [
                {
                  gives: { code: "due", blade: blade.id, by_s: 3600 },
                  cures: true,
                  late_s: 0,
                  left_out: 0,
                  broken_s: 0,
                },
              ],
            },
          }
        : undefined,
    );
    show(<DayPage />);
    expect(await screen.findByText(/wanted 60 min later/)).toBeTruthy();
    expect(screen.getByText(/would be late alone too/)).toBeTruthy();
    expect(screen.getByText(/K-7 has no plan yet/)).toBeTruthy();
    expect(screen.getByText(/brittle as glass/)).toBeTruthy();
  });

  it("tells what is next, of the device's own first", async () => {
    shop(two());
    show(<DayPage />);
    const list = async () =>
      (await screen.findAllByRole("region", { name: /^Next for/ })).map((r) =>
        r.getAttribute("aria-label"),
      );
    expect(await list()).toEqual(["Next for Runa", "Next for Tove"]);
    await userEvent.selectOptions(screen.getByLabelText("This device is with"), "Tove");
    expect(await list()).toEqual(["Next for Tove", "Next for Runa"]);
  });
});
