import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { refused, serve, show, steel } from "../testing/shop.test";
import { SteelsPage } from "./steels";

const own = { ...steel, key: "u1", name: "Leaf spring", house: true, distance: 0.1, version: 1 };

describe("the steels", () => {
  it("show windows and curve of the chosen one", async () => {
    serve(({ path }) => (path === "/api/v1/steels" ? { body: [steel, own] } : undefined));
    show(<SteelsPage />);
    expect(await screen.findByRole("heading", { level: 1, name: "1084" })).toBeTruthy();
    expect(screen.getByRole("img", { name: /Typical hardness of 1084.*from 65.0/ })).toBeTruthy();
    const list = screen.getByRole("navigation", { name: "Steels" });
    await userEvent.click(within(list).getByRole("button", { name: /Leaf spring/ }));
    expect(screen.getByText(/Known by its analysis.*sure to about ±1.7 HRC/)).toBeTruthy();
  });

  it("are found by what another standard calls them", async () => {
    const near = { standard: "JIS", designation: "SK85", match: "near" };
    const known = { ...steel, designations: [near, { ...near, designation: "SK5" }] };
    const asked = serve(({ path, query }) => {
      if (path === "/api/v1/steels/search") {
        return {
          body:
            query.name === "SK85" ? [{ key: "1084", name: "1084", house: false, by: near }] : [],
        };
      }
      return path === "/api/v1/steels" ? { body: [own, known] } : undefined;
    });
    show(<SteelsPage />);
    const field = await screen.findByLabelText("Find a steel");
    await userEvent.type(field, "treacle");
    expect(await screen.findByText("No steel is called so.")).toBeTruthy();
    await userEvent.clear(field);
    await userEvent.type(field, " SK85");
    await userEvent.click(await screen.findByRole("button", { name: "1084 near SK85" }));
    expect(screen.getByRole("heading", { level: 1, name: "1084" })).toBeTruthy();
    expect(screen.getByText("Near it: SK85 (JIS), SK5 (JIS).")).toBeTruthy();
    expect(asked.some((a) => a.query.name === "SK85")).toBe(true);
    await userEvent.clear(field);
    expect(screen.getByRole("button", { name: /Leaf spring/ })).toBeTruthy();
  });

  it("take the shop's own by analysis and then show it", async () => {
    let made = false;
    const asked = serve(({ method, path }) => {
      if (path !== "/api/v1/steels") return undefined;
      made ||= method === "POST";
      return { body: method === "POST" ? own : made ? [steel, own] : [steel] };
    });
    show(<SteelsPage />);
    await userEvent.click(await screen.findByRole("button", { name: "Add your own steel" }));
    await userEvent.type(screen.getByLabelText("Name"), "Leaf spring");
    await userEvent.type(screen.getByLabelText("C %"), "0.6");
    await userEvent.type(screen.getByLabelText("Mn %"), "9");
    await userEvent.click(screen.getByRole("button", { name: "Add steel" }));
    expect(await screen.findByText("0 to 3 %")).toBeTruthy();
    // Somebody who types slowly is shown what it would be meanwhile: that asks, and adds nothing.
    const added = () => asked.filter((a) => a.method === "POST" && a.path === "/api/v1/steels");
    expect(added()).toEqual([]);
    await userEvent.clear(screen.getByLabelText("Mn %"));
    await userEvent.type(screen.getByLabelText("Mn %"), "0,9");
    await userEvent.click(screen.getByRole("button", { name: "Add steel" }));
    expect(await screen.findByRole("heading", { level: 1, name: "Leaf spring" })).toBeTruthy();
    expect(added()[0]?.body).toMatchObject({
      name: "Leaf spring",
      analysis: { C: 0.6, Mn: 0.9 },
    });
  });

  it("show what the server refuses at the element", async () => {
    serve(({ method, path }) =>
      method === "POST" && path === "/api/v1/steels"
        ? refused([{ field: "analysis.Cr", message: "Too much with so little carbon." }])
        : undefined,
    );
    show(<SteelsPage />);
    await userEvent.click(await screen.findByRole("button", { name: "Add your own steel" }));
    await userEvent.type(screen.getByLabelText("Name"), "Odd");
    await userEvent.type(screen.getByLabelText("C %"), "0.1");
    await userEvent.type(screen.getByLabelText("Cr %"), "18");
    await userEvent.click(screen.getByRole("button", { name: "Add steel" }));
    await waitFor(() => expect(screen.getByText(/Too much with so little carbon/)).toBeTruthy());
    expect(screen.getByLabelText<HTMLInputElement>("Cr %").value).toBe("18");
  });
});
