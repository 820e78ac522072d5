import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Cause } from "../api/client";
import { blade, plan, serve, show } from "../testing/shop.test";
import { chanceInWords, Diagnosis } from "./diagnosis";

const cause: Cause = {
  cause: "over_tempered",
  chance: 0.42,
  why: [{ code: "would_be", hrc: 60, when: "tempered", read: true }],
  fix: { change: "set", step: 3, kind: "temper", field: "temperature_c", value: 190 },
};

describe("the diagnosis", () => {
  it("ranks causes and makes the next plan", async () => {
    const asked = serve(({ method, path }) => {
      if (path.endsWith("/diagnosis"))
        return {
          body: {
            causes: [cause, { ...cause, cause: "scatter", fix: null }],
            contradicts: { said: "straight", probability: 0.002 },
          },
        };
      return method === "PUT" ? { body: plan } : undefined;
    });
    show(<Diagnosis blade={blade} plan={{ ...plan, frozen_at: "2026-11-25T09:00:00Z" }} />);
    await userEvent.selectOptions(screen.getByLabelText("What went wrong"), "soft");
    expect(await screen.findAllByText("about 4 in 10")).toHaveLength(2);
    screen.getByText(/gave a bend like that less than 1 %/);
    await userEvent.click(screen.getByRole("button", { name: "Plan it so: Temper at 190 °C" }));
    await waitFor(() => expect(asked.some((a) => a.method === "PUT")).toBe(true));
    const put = asked.find((a) => a.method === "PUT")?.body as {
      version: number;
      steps: unknown[];
    };
    expect(put.version).toBe(0);
    expect(put.steps[3]).toMatchObject({ kind: "temper", temperature_c: 190 });
  });

  it.each([
    [0.97, "nearly sure"],
    [0.42, "about 4 in 10"],
    [0.03, "unlikely"],
  ])("%f is %s", (chance, words) => expect(chanceInWords(chance)).toBe(words));
});
