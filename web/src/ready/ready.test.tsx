import { fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { blade, plan, predicted, refused, serve, show } from "../testing/shop.test";
import { ReadyTab } from "./ready";

const put = (answer: (body: unknown) => ReturnType<typeof refused>) =>
  serve(({ method, body }) => (method === "PATCH" ? answer(body) : undefined));

async function retype(label: string, text: string) {
  const field = screen.getByLabelText(label);
  await userEvent.clear(field);
  await userEvent.type(field, text);
  fireEvent.blur(field);
}

describe("what a blade is", () => {
  it("is saved in the unit it was typed in, and the wanted hardness follows the purpose", async () => {
    const asked = put((body) => ({ body: { ...blade, ...(body as object), version: 2 } }));
    show(<ReadyTab blade={blade} plan={plan} />);
    const save = screen.getByRole<HTMLButtonElement>("button", { name: "Save blade" });
    expect(save.disabled).toBe(true);
    await retype("Spine", "3/16 in");
    await userEvent.selectOptions(screen.getByLabelText("For"), "springy");
    expect(screen.getByText("Changed, not saved yet.")).toBeTruthy();
    await userEvent.click(save);
    await waitFor(() => expect(asked.some((a) => a.method === "PATCH")).toBe(true));
    const body = asked.find((a) => a.method === "PATCH")?.body as Record<string, number>;
    expect(body.spine_mm).toBeCloseTo(4.7625, 4);
    expect([body.target_low_hrc, body.target_high_hrc]).toEqual([53, 56]);
    expect(body.version).toBe(1);
  });

  it("can be put back as it was", async () => {
    serve();
    show(<ReadyTab blade={blade} plan={plan} />);
    await retype("Name", "Sickle");
    await userEvent.click(screen.getByRole("button", { name: "Put back" }));
    expect(screen.getByLabelText<HTMLInputElement>("Name").value).toBe("Reed hook");
  });

  it("took something of its bar, and that can be put back", async () => {
    const size = { width_mm: 40, thickness_mm: 5, length_mm: 1000, left_mm: 640 };
    const bar = { id: "b1", name: "Flat 40", steel: "1084", layers: [], size, version: 2 };
    const asked = serve(({ method, path, body }) => {
      if (path === "/api/v1/bars") return { body: [bar] };
      return method === "PATCH" ? { body: { ...cut, ...(body as object), version: 2 } } : undefined;
    });
    const cut = { ...blade, bar_id: "b1", cut_mm: 183 };
    show(<ReadyTab blade={cut} plan={plan} />);
    expect(await screen.findByText("640 mm left in stock")).toBeTruthy();
    expect(screen.getByLabelText<HTMLInputElement>("Took of it").value).toBe("183 mm");
    await userEvent.click(screen.getByRole("button", { name: "Put it back" }));
    await userEvent.click(screen.getByRole("button", { name: "Save blade" }));
    await waitFor(() =>
      expect(asked.find((a) => a.method === "PATCH")?.body).toMatchObject({
        bar_id: "b1",
        cut_mm: 0,
      }),
    );
  });

  it("keeps what was typed when it is refused, with the message at the field", async () => {
    put(() => refused([{ field: "mark", message: "K-9 is another blade's mark." }]));
    show(<ReadyTab blade={blade} plan={plan} />);
    await retype("Mark", "K-9");
    await userEvent.click(screen.getByRole("button", { name: "Save blade" }));
    expect((await screen.findAllByText(/another blade's mark/)).length).toBeGreaterThan(0);
    expect(screen.getByLabelText<HTMLInputElement>("Mark").value).toBe("K-9");
  });

  it("lets the smith choose when someone else saved first", async () => {
    const theirs = { ...blade, name: "Marsh hook", version: 7 };
    const asked = put((body) =>
      (body as { version: number }).version === 7
        ? { body: { ...blade, ...(body as object), version: 8 } }
        : {
            status: 409,
            body: {
              status: 409,
              title: "Changed",
              detail: "Changed.",
              fields: [],
              current: theirs,
            },
          },
    );
    show(<ReadyTab blade={blade} plan={plan} />);
    await retype("Name", "Fen hook");
    await userEvent.click(screen.getByRole("button", { name: "Save blade" }));
    expect(await screen.findByText(/Marsh hook, 1084/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Keep mine" }));
    await waitFor(() => expect(screen.queryByText(/Marsh hook/)).toBeNull());
    const last = asked.filter((a) => a.method === "PATCH").at(-1)?.body;
    expect(last).toMatchObject({ name: "Fen hook", version: 7 });
  });

  it("asks for the checks before the fire and says what each costs", async () => {
    const checks = [
      {
        check: "scratches_out",
        standing: "open",
        measured: false,
        cost: { code: "cracks", done: 0.02, undone: 0.04 },
      },
      {
        check: "edge_left_thick",
        question: "Edge left thick enough",
        standing: "bad",
        measured: true,
        cost: { code: "edge", edge_mm: 0.4, skin_mm: 0.1, sound_mm: 0.2, thin: true },
      },
    ];
    const asked = serve(({ method, path, body }) => {
      if (path === "/api/v1/predict") return { body: { ...predicted(plan.steps), checks } };
      return method === "PATCH"
        ? { body: { ...blade, ...(body as object), version: 2 } }
        : undefined;
    });
    show(<ReadyTab blade={blade} plan={plan} />);
    expect(await screen.findByText(/cracks go from 2 % to 4 %/)).toBeTruthy();
    expect(screen.getByText("measured")).toBeTruthy();
    await userEvent.selectOptions(screen.getByLabelText("Coarse scratches sanded out"), "not");
    await userEvent.selectOptions(screen.getByLabelText("Order of work"), "harden_first");
    expect(screen.getByText(/never pass about 175 °C/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Save blade" }));
    await waitFor(() => expect(asked.some((a) => a.method === "PATCH")).toBe(true));
    expect(asked.find((a) => a.method === "PATCH")?.body).toMatchObject({
      ready: { order: "harden_first", checks: { scratches_out: false } },
    });
  });

  it("takes an outline from a drawing once it lies right, and says what was wrong with one", async () => {
    let unit = "";
    const asked = serve(({ path, body }) => {
      if (path !== "/api/v1/outline/file") return undefined;
      const sent = body as { text: string; unit?: string };
      if (sent.text.includes("script")) {
        return refused([{ field: "text", message: "It holds scripts, which are not read." }]);
      }
      unit = sent.unit ?? "";
      if (!unit) return refused([{ field: "unit", message: "The drawing does not say its unit." }]);
      const outline = [
        [0, 0],
        [0, 20],
        [120, 20],
        [120, 0],
      ];
      const found = { outline, length_mm: 120, width_mm: 20, heel_mm: 40, loops: 2, unit };
      return { body: { ...found, unit_known: false } };
    });
    show(<ReadyTab blade={blade} plan={plan} />);
    const input = await screen.findByLabelText("Outline from an SVG or DXF drawing");
    await userEvent.upload(input, new File(["<svg><script/></svg>"], "a.svg"));
    expect(await screen.findByText(/It holds scripts.*The blade is as it was/s)).toBeTruthy();
    await userEvent.upload(input, new File(["<svg/>"], "b.svg"));
    expect(await screen.findByText(/does not say its unit/)).toBeTruthy();
    await userEvent.selectOptions(screen.getByLabelText("Drawn in"), "mm");
    await userEvent.click(await screen.findByRole("button", { name: "Use this outline" }));
    expect(screen.getByLabelText<HTMLInputElement>("Length, heel to tip").value).toBe("120 mm");
    expect(screen.getByText(/outline of its own/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Back to the reed hook" }));
    expect(screen.queryByText(/outline of its own/)).toBeNull();
    expect(asked.filter((a) => a.path === "/api/v1/outline/file").length).toBeGreaterThan(2);
    expect(unit).toBe("mm");
  });
});
