import { screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { serve, session, show } from "../testing/shop.test";
import { ToPlan } from "./to-plan";

const plan = (
  <ToPlan>
    <button type="button">Change it</button>
  </ToPlan>
);

function as(role: "helper" | "smith") {
  const me = { ...session, person: { ...session.person, role } };
  serve(({ path }) => (path === "/api/v1/session" ? { body: me } : undefined));
  show(plan);
}

describe("what smiths change", () => {
  it("is looked at by a helper, who is told so", async () => {
    as("helper");
    expect(await screen.findByText(/a smith of the shop plans/)).toBeTruthy();
    expect(screen.getByRole("button", { name: "Change it" }).matches(":disabled")).toBe(true);
  });

  it("is changed by a smith", async () => {
    as("smith");
    const change = await screen.findByRole("button", { name: "Change it" });
    expect(change.matches(":disabled")).toBe(false);
  });
});
