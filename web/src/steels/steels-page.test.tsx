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
    expect(screen.getByText(/Known by its analysis.*a little wider/)).toBeTruthy();
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
    expect(asked.some((a) => a.method === "POST")).toBe(false);
    await userEvent.clear(screen.getByLabelText("Mn %"));
    await userEvent.type(screen.getByLabelText("Mn %"), "0,9");
    await userEvent.click(screen.getByRole("button", { name: "Add steel" }));
    expect(await screen.findByRole("heading", { level: 1, name: "Leaf spring" })).toBeTruthy();
    expect(asked.find((a) => a.method === "POST")?.body).toMatchObject({
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
