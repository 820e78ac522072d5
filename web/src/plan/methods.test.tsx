import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import type { MethodsView, MethodView, Step } from "../api/client";
import { blade, refused, serve, show, steps } from "../testing/shop.test";
import { Methods } from "./methods";

const numbers = (right: number): Pick<MethodView, "compared" | "fit"> => ({
  compared: {
    tempered_hrc: { low: 60, middle: 61, high: 62 },
    retained_percent: 8,
    hamon_mm: null,
    sori_mm: 0.2,
    bent_probability: 0.1,
    crack_probability: 0.02,
    grain_astm: 9.5,
    skin_mm: 0.05,
  },
  fit: { right, hard: right, whole: 0.98, straight: 0.9, hours: 4.2, lost_to: "bend" },
});

type Of = { [S in MethodView["source"]]: Extract<MethodView, { source: S }> };
type Part = Partial<
  Pick<MethodView, "steps" | "against" | "unreadable" | "version" | "compared" | "fit">
>;

const rest = {
  lays: "nothing",
  version: 0,
  steps,
  ...numbers(0.5),
} as const;

const school = (id: string, school: Of["school"]["school"], part: Part): MethodView => ({
  ...rest,
  id,
  source: "school",
  school,
  ...part,
});

const house = (id: string, name: string, part: Part): MethodView => ({
  ...rest,
  id,
  source: "house",
  name,
  note: "",
  ...part,
});

const plain: Step[] = steps.filter((s) => s.kind !== "normalize");
const all: MethodView[] = [
  school("falling", "falling_heats", numbers(0.8)),
  school("plain", "as_bought", { steps: plain, ...numbers(0.6) }),
  school("wet", "straight_water", {
    against: { code: "cracks_in_water", steel: "O1" },
    ...numbers(0.9),
  }),
  house("h1", "Quay way", { version: 3 }),
  house("h2", "From the future", {
    version: 1,
    steps: [],
    compared: null,
    fit: null,
    unreadable: { code: "format", format: 9, newest: 2 },
  }),
];

const shown: MethodsView = { told_apart_by: "right", methods: all };

const answers = (more: Parameters<typeof serve>[0] = () => undefined) =>
  serve(more, ({ path }) => (path.endsWith("/methods") ? { body: shown } : undefined));

describe("methods", () => {
  it("stand side by side, the favoured one marked, the dangerous one advised against", async () => {
    answers();
    const use = vi.fn();
    show(<Methods blade={blade} steps={steps} locked={false} onUse={use} />);
    const row = (await screen.findByText("Three falling heats")).closest("tr") as HTMLElement;
    expect(within(row).getByText("80 %")).toBeTruthy();
    expect(within(row).getByText(/the numbers favour this/)).toBeTruthy();
    const wet = screen.getByText("Water alone").closest("tr") as HTMLElement;
    expect(within(wet).getByText(/advised against/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Water alone" }));
    expect(screen.getByText(/in water it is likely to crack/)).toBeTruthy();
    expect(screen.getByText(/^It costs: The most cracks/)).toBeTruthy();
    const second = screen.getByText("Straight to the hardening heat").closest("tr") as HTMLElement;
    await userEvent.click(within(second).getByRole("button", { name: "Use it" }));
    expect(use).toHaveBeenCalledWith(plain, undefined);
  });

  it("keep what cannot be read, and offer older versions of what can", async () => {
    answers(({ path }) =>
      path.endsWith("/versions")
        ? {
            body: [3, 2].map((version) => ({
              id: "h1",
              name: "Quay way",
              note: "",
              steps: version === 2 ? plain : steps,
              version,
              saved_at: `2026-11-0${version}T10:00:00Z`,
            })),
          }
        : undefined,
    );
    const use = vi.fn();
    show(<Methods blade={blade} steps={steps} locked={false} onUse={use} />);
    const odd = (await screen.findByText("From the future")).closest("tr") as HTMLElement;
    expect(within(odd).getByText(/^It was saved in form 9/)).toBeTruthy();
    expect(within(odd).queryByRole("button", { name: "Use it" })).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "Quay way" }));
    await userEvent.click(
      await screen.findByRole("button", { name: /Use version 2 of 2026-11-02/ }),
    );
    expect(use).toHaveBeenLastCalledWith(plain);
  });

  it("keep a plan under a name, as a new version where the name is known", async () => {
    const asked = answers(({ method, path, body }) => {
      if (method === "POST" && path === "/api/v1/methods") {
        return (body as { name: string }).name === "taken"
          ? refused([{ field: "name", message: "The shop has a method of this name." }])
          : { body: {} };
      }
      return method === "PUT" ? { body: {} } : undefined;
    });
    show(<Methods blade={blade} steps={plain} locked={false} onUse={() => {}} />);
    const name = await screen.findByLabelText("Keep this plan as");
    await userEvent.type(name, "taken");
    await userEvent.click(screen.getByRole("button", { name: "Save as a house method" }));
    expect(await screen.findByText("The shop has a method of this name.")).toBeTruthy();
    await userEvent.clear(name);
    await userEvent.type(name, "quay WAY");
    await userEvent.click(screen.getByRole("button", { name: "Save version 4" }));
    await waitFor(() => expect(asked.some((a) => a.method === "PUT")).toBe(true));
    const put = asked.find((a) => a.method === "PUT");
    expect(put?.path).toBe("/api/v1/methods/h1");
    expect(put?.body).toMatchObject({ version: 3, steps: plain });
  });
});
