import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Route, Routes } from "react-router";
import { describe, expect, it } from "vitest";
import { type Asked, blade, refused, serve, show, steel } from "../testing/shop.test";
import { NewBlade } from "./new-blade";

const place = (
  <Routes>
    <Route path="/" element={<NewBlade />} />
    <Route path="/blades/:id/plan" element={<p>its plan</p>} />
  </Routes>
);

describe("a new blade", () => {
  it("needs nothing typed: every field has something sensible", async () => {
    const asked = serve(({ method, path }) =>
      method === "POST" && path === "/api/v1/blades" ? { body: blade } : undefined,
    );
    show(place);
    await screen.findByRole("option", { name: "Bench kiln" });
    await userEvent.selectOptions(screen.getByLabelText("Shape"), "bill");
    await userEvent.selectOptions(screen.getByLabelText("For"), "heavy");
    expect(screen.getByLabelText<HTMLInputElement>("Length").value).toContain("230");
    await userEvent.click(screen.getByRole("button", { name: "Plan it" }));
    expect(await screen.findByText("its plan")).toBeTruthy();
    const made = asked.find((a) => a.method === "POST" && a.path === "/api/v1/blades");
    expect(made?.body).toMatchObject({
      steel: "1084",
      shape: "bill",
      length_mm: 230,
      width_mm: 52,
      spine_mm: 5.5,
      edge_mm: 0.8,
      purpose: "heavy",
      target_low_hrc: 56,
      target_high_hrc: 58,
      fire_id: "k1",
    });
  });

  it("takes a steel by what another standard calls it, near said", async () => {
    const near = { standard: "JIS", designation: "SK85", match: "near" };
    serve(({ path }) => {
      if (path === "/api/v1/steels/search") {
        return { body: [{ key: "o1", name: "O1", house: false, by: near }] };
      }
      return path === "/api/v1/steels"
        ? { body: [steel, { ...steel, key: "o1", name: "O1" }] }
        : undefined;
    });
    show(place);
    await screen.findByRole("option", { name: "1084" });
    await userEvent.click(screen.getByRole("button", { name: "Steel by another name" }));
    const name = await screen.findByLabelText("Its name in any standard");
    await userEvent.type(name, "SK85{Enter}");
    const found = await screen.findByRole("button", { name: /near SK85/ });
    const choice = screen.getByLabelText<HTMLSelectElement>("Steel");
    await userEvent.click(found);
    // Chosen and closed; Escape leaves it as it was.
    expect(choice.value).toBe("o1");
    expect(screen.queryByLabelText("Its name in any standard")).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "Steel by another name" }));
    await userEvent.type(await screen.findByLabelText("Its name in any standard"), "x{Escape}");
    expect(screen.getByRole("button", { name: "Steel by another name" })).toBeTruthy();
    expect(choice.value).toBe("o1");
  });

  it("can be made from a bar in stock, no thicker than that", async () => {
    const size = { width_mm: 25, thickness_mm: 3, length_mm: 900, left_mm: 500 };
    const bar = {
      id: "b1",
      name: "Flat 25",
      steel: "1084",
      layers: [],
      size,
      note: "",
      version: 1,
    };
    const asked = serve(({ method, path }) => {
      if (path === "/api/v1/bars") return { body: [bar] };
      return method === "POST" && path === "/api/v1/blades" ? { body: blade } : undefined;
    });
    show(place);
    await screen.findByRole("option", { name: "Flat 25 (bar in stock)" });
    await userEvent.selectOptions(screen.getByLabelText("Steel"), "b1");
    await userEvent.click(screen.getByRole("button", { name: "Plan it" }));
    expect(await screen.findByText("its plan")).toBeTruthy();
    const made = asked.find((a) => a.method === "POST" && a.path === "/api/v1/blades");
    expect(made?.body).toMatchObject({ bar_id: "b1", spine_mm: 3 });
    expect(made?.body).not.toHaveProperty("steel");
  });

  it("makes the fire of a shop that has none yet", async () => {
    const asked = serve(({ method, path, body }) => {
      if (path === "/api/v1/stations") {
        return { body: method === "GET" ? [] : { ...(body as object), version: 1 } };
      }
      return method === "POST" && path === "/api/v1/blades" ? { body: blade } : undefined;
    });
    show(place);
    await screen.findByRole("option", { name: "1084" });
    await userEvent.selectOptions(screen.getByLabelText("Heated"), "new:forge");
    await userEvent.click(screen.getByRole("button", { name: "Plan it" }));
    await screen.findByText("its plan");
    const [station, made] = asked.filter((a) => a.method === "POST");
    expect(station?.body).toMatchObject({ kind: "forge", name: "Forge" });
    const id = (station as Asked & { body: { id: string } }).body.id;
    expect(made?.body).toMatchObject({ fire_id: id });
  });

  it("shows a refusal at its field and keeps what was chosen", async () => {
    serve(({ method, path }) =>
      method === "POST" && path === "/api/v1/blades"
        ? refused([{ field: "spine_mm", message: "Too thick.", allowed: "0.5 to 25 mm" }])
        : undefined,
    );
    show(place);
    await screen.findByRole("option", { name: "Bench kiln" });
    await userEvent.selectOptions(screen.getByLabelText("Shape"), "net");
    await userEvent.click(screen.getByRole("button", { name: "Plan it" }));
    expect(await screen.findByText(/Too thick. Allowed: 0.5 to 25 mm/)).toBeTruthy();
    expect(screen.getByLabelText<HTMLSelectElement>("Shape").value).toBe("net");
    await waitFor(() => expect(screen.queryByText("its plan")).toBeNull());
  });
});
