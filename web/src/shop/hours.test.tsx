import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { refused, serve, show } from "../testing/shop.test";
import { minutesOf, ShopHoursForm, timeOf } from "./hours";

const shift = {
  name: "Runa",
  days: [1, 2, 3, 4, 5, 6],
  hours: [480, 1080],
  breaks: [],
  not: [],
  other_days: [],
};
const known = {
  hours: { shifts: [shift], temper_within_s: 7200, counts_more: "even" },
  version: 4,
};

const shop = () =>
  serve(({ method, path, body }) => {
    if (path !== "/api/v1/day/hours") return undefined;
    if (method === "GET") return { body: known };
    const { hours } = body as typeof known;
    return hours.shifts.some((s) => s.name === "")
      ? refused([{ field: "hours.shifts[1].name", message: "Say who quenches." }])
      : { body: { hours, version: 5 } };
  });

describe("the hours of a shop", () => {
  it("reads and writes a time of day", () => {
    expect(timeOf(1440)).toBe("00:00");
    expect(timeOf(485)).toBe("08:05");
    expect(minutesOf("08:05")).toBe(485);
    expect(minutesOf("")).toBeNull();
  });

  it("keeps a second pair of hands, who is away, and who does not quench", async () => {
    const asked = shop();
    show(<ShopHoursForm />);
    await userEvent.click(await screen.findByRole("button", { name: /Somebody else/ }));
    await userEvent.click(screen.getByRole("button", { name: "Keep the hours" }));
    // What the server says of it stands at whom it is about; nothing is lost.
    expect(await screen.findByText("Say who quenches.")).toBeTruthy();
    const names = screen.getAllByLabelText("Name");
    await userEvent.type(names[1] as HTMLElement, "Tove");
    await userEvent.click(screen.getAllByLabelText("quenches")[1] as HTMLElement);
    await userEvent.click(screen.getAllByLabelText("Sun")[1] as HTMLElement);
    const other = screen.getByLabelText(/Tove is away/);
    await userEvent.type(other, "2026-12-24");
    await userEvent.click(screen.getByRole("button", { name: "Away that day" }));
    await userEvent.click(screen.getByRole("button", { name: "Keep the hours" }));
    await waitFor(() => expect(asked.filter((a) => a.method === "PUT")).toHaveLength(2));
    const sent = asked.findLast((a) => a.method === "PUT")?.body as typeof known;
    expect(sent.version).toBe(4);
    expect(sent.hours.shifts[1]).toMatchObject({
      name: "Tove",
      days: [1, 2, 3, 4, 5, 6, 7],
      not: ["quench"],
      other_days: [{ date: "2026-12-24" }],
    });
    expect(await screen.findByText(/The day was laid again/)).toBeTruthy();
  });
});
