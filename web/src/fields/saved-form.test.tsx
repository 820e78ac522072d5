import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import { ApiError } from "../api/client";
import { show } from "../testing/shop.test";
import { ChoiceField, Saved, TextField, useSavedForm, WrongFields } from "./saved-form";

const refused = (fields: [string, string][]) =>
  new ApiError({
    status: 422,
    title: "No",
    detail: "Something of it is not right.",
    fields: fields.map(([field, message]) => ({ field, message })),
  } as ConstructorParameters<typeof ApiError>[0]);

function Shelf({ save }: { save: (body: { name: string; kind: string }) => Promise<string> }) {
  const { form, run, submit, wrong } = useSavedForm({
    values: { name: "", kind: "low" },
    save,
    onSaved: () => undefined,
  });
  return (
    <form onSubmit={submit}>
      <TextField form={form} name="name" label="Called" max={20} />
      <ChoiceField form={form} name="kind" label="Kind" options={{ low: "low", high: "high" }} />
      <button type="submit">Keep</button>
      <Saved wrong={wrong} saved={run.isSuccess} word="Kept." />
    </form>
  );
}

/** A shelf that somebody else can change while it is written. */
function Shared({ save }: { save: (body: { name: string; note: string }) => Promise<string> }) {
  const [stored, setStored] = useState({ name: "Top", note: "" });
  const { form, run, submit, wrong } = useSavedForm({
    values: stored,
    save,
    follow: true,
    onSaved: (_, form) => setStored(form.getValues()),
  });
  return (
    <form onSubmit={submit}>
      <TextField form={form} name="name" label="Called" max={20} />
      <TextField form={form} name="note" label="Remark" max={20} />
      <button type="submit">Keep</button>
      <button type="button" onClick={() => setStored({ name: "Upper", note: "of theirs" })}>
        Theirs
      </button>
      <Saved wrong={wrong} saved={run.isSuccess} word="Kept." />
    </form>
  );
}

const keep = () => userEvent.click(screen.getByRole("button", { name: "Keep" }));

describe("a form that is saved", () => {
  it("sends what is written, and says when it was kept", async () => {
    const sent: unknown[] = [];
    show(<Shelf save={async (body) => String(sent.push(body))} />);
    await userEvent.type(screen.getByLabelText("Called"), "Top shelf");
    await userEvent.selectOptions(screen.getByLabelText("Kind"), "high");
    await keep();
    expect(await screen.findByText("Kept.")).toBeTruthy();
    expect(sent).toEqual([{ name: "Top shelf", kind: "high" }]);
  });

  it("says what is wrong with a field at the field, and for the ear", async () => {
    let tries = 0;
    const save = async () => {
      tries += 1;
      if (tries === 1) throw refused([["name", "A shelf is called that already."]]);
      return "kept";
    };
    show(<Shelf save={save} />);
    await keep();
    const said = await screen.findByText("A shelf is called that already.");
    const field = screen.getByLabelText("Called");
    expect(field.getAttribute("aria-describedby")).toBe(said.id);
    expect(screen.queryByRole("alert")).toBeNull();
    await userEvent.type(field, "Other");
    await keep();
    expect(await screen.findByText("Kept.")).toBeTruthy();
    await waitFor(() => expect(screen.queryByText(/called that already/)).toBeNull());
  });

  it("says at the form what is of no field", async () => {
    show(<Shelf save={() => Promise.reject(refused([["version", "Someone was faster."]]))} />);
    await keep();
    const said = await screen.findByRole("alert");
    expect(said.textContent).toBe("Someone was faster.");
  });

  it("follows what others store, but for what was written here", async () => {
    const sent: unknown[] = [];
    show(<Shared save={async (body) => String(sent.push(body))} />);
    const field = (label: string) => screen.getByLabelText(label) as HTMLInputElement;
    await userEvent.type(field("Remark"), "mine");
    await userEvent.click(screen.getByRole("button", { name: "Theirs" }));
    await waitFor(() => expect(field("Called").value).toBe("Upper"));
    expect(field("Remark").value).toBe("mine");
    await keep();
    expect(await screen.findByText("Kept.")).toBeTruthy();
    expect(sent).toEqual([{ name: "Upper", note: "mine" }]);
    // Nothing is written here any more: all of it is followed.
    await userEvent.click(screen.getByRole("button", { name: "Theirs" }));
    await waitFor(() => expect(field("Remark").value).toBe("of theirs"));
  });

  it("says of a field what is wrong before anything is sent", async () => {
    const save = () => Promise.reject(new WrongFields({ kind: "Not that one." }));
    show(<Shelf save={save} />);
    await keep();
    const said = await screen.findByText("Not that one.");
    expect(screen.getByLabelText("Kind").getAttribute("aria-describedby")).toBe(said.id);
  });
});
