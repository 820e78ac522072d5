import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { blade, serve, show } from "../testing/shop.test";
import { Alike } from "./alike";

const other = { ...blade, id: "01900000-0000-7000-8000-0000000000b9", mark: "K-9" };

const shop = () =>
  serve(({ method, path }) => {
    if (path === "/api/v1/blades") return { body: [blade, other] };
    if (path === "/api/v1/batches") {
      return { body: [{ id: blade.id, blade_ids: [blade.id, other.id] }] };
    }
    return method === "POST" && path.endsWith("/alike") ? { body: [other] } : undefined;
  });

describe("a batch", () => {
  it("names the others of the order and makes more like this one", async () => {
    const asked = shop();
    show(<Alike blade={blade} />);
    expect(await screen.findByRole("link", { name: "K-9" })).toBeTruthy();
    const count = screen.getByLabelText("More like this");
    await userEvent.clear(count);
    await userEvent.type(count, "12");
    expect(screen.getByText("Allowed: 1 to 11.")).toBeTruthy();
    const make = screen.getByRole("button", { name: /Make them/ }) as HTMLButtonElement;
    expect(make.disabled).toBe(true);
    await userEvent.clear(count);
    await userEvent.type(count, "4");
    await userEvent.click(make);
    expect(await screen.findByText("K-9 is on the rack.")).toBeTruthy();
    expect(asked.find((a) => a.method === "POST")?.body).toEqual({ count: 4 });
  });
});
