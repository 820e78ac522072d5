import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Station } from "../api/client";
import { refused, serve, show } from "../testing/shop.test";
import { age } from "./stations";
import { TankCurve } from "./tank-curve";

const figures = { max_rate_c_s: 48.2, temp_of_max_c: 551, rate_at_300_c_s: 6.4 };
const tank: Station = {
  id: "t1",
  kind: "tank",
  scale: null,
  name: "Long tank",
  medium: "slow_oil",
  litres: 15,
  filled_at: null,
  curve: null,
  note: "",
  device: null,
  capacity: {},
  retired_at: null,
  version: 4,
};
const measured: Station = {
  ...tank,
  curve: {
    nodes: [],
    measured: figures,
    fitted: figures,
    missed: 0.004,
    bath_c: 50,
    points: [
      [0, 850],
      [8, 500],
      [40, 200],
    ],
  },
};
const file = (text: string) => new File([text], "oil.csv", { type: "text/csv" });

describe("the cooling curve of a tank", () => {
  it("is read from a file, and what is wrong with it is said", async () => {
    let wrong = true;
    const asked = serve(({ method, path }) => {
      if (method !== "PUT" || path !== "/api/v1/stations/t1/curve") return undefined;
      return wrong
        ? refused([{ field: "text", message: "It ends before the boiling is over." }])
        : { body: measured };
    });
    show(<TankCurve station={tank} />);
    expect(screen.getByText(/taken to quench as slow oil usually does/)).toBeTruthy();
    await userEvent.upload(screen.getByLabelText("Read a curve"), file("s,C\n0,850\n"));
    expect(await screen.findByText("It ends before the boiling is over.")).toBeTruthy();
    wrong = false;
    await userEvent.upload(screen.getByLabelText("Read a curve"), file("s,C\n0,850\n9,100\n"));
    await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
    expect(asked.at(-1)?.body).toEqual({ text: "s,C\n0,850\n9,100\n", bath_c: 50, version: 4 });
  });

  it("is drawn with its figures, and can be forgotten", async () => {
    const asked = serve(({ method }) => (method === "DELETE" ? { body: tank } : undefined));
    show(<TankCurve station={measured} />);
    expect(screen.getByRole("img", { name: "The probe cools fastest at 551 °C" })).toBeTruthy();
    expect(screen.getByText("48 °C/s")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: /Forget it/ }));
    await waitFor(() => expect(asked.some((a) => a.method === "DELETE")).toBe(true));
  });

  it("is of baths only, and says how old they are", () => {
    serve(() => undefined);
    const { container } = show(<TankCurve station={{ ...tank, medium: "plates" }} />);
    expect(container.textContent).toBe("");
    const now = Date.parse("2026-11-30T12:00:00Z");
    expect(age("2026-11-29T00:00:00Z", now)).toBe("In it for 1 day.");
    expect(age("2026-02-01T00:00:00Z", now)).toBe("In it for 10 months.");
    expect(age("2023-02-01T00:00:00Z", now)).toBe("In it for 3 years.");
  });
});
