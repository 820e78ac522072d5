import { fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { blade, plan, refused, serve, show } from "../testing/shop.test";
import { ReadyTab } from "./ready";

const put = (answer: (body: unknown) => ReturnType<typeof refused>) =>
  serve(({ method, body }) => (method === "PUT" ? answer(body) : undefined));

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
    await waitFor(() => expect(asked.some((a) => a.method === "PUT")).toBe(true));
    const body = asked.find((a) => a.method === "PUT")?.body as Record<string, number>;
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
    const last = asked.filter((a) => a.method === "PUT").at(-1)?.body;
    expect(last).toMatchObject({ name: "Fen hook", version: 7 });
  });
});
