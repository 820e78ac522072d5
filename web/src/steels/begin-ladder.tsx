import { useQueryClient } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { v7 as uuid } from "uuid";
import { api, take } from "../api/client";
import { queries, useSteels } from "../api/queries";
import { ChoiceField, Saved, TextField, useSavedForm } from "../fields/saved-form";
import { ALONG, type Along, HOW } from "../words/ladders";
import { useSteelOptions } from "./steel-options";

/** A name to begin with. */
const nameOf = (along: Along, steel: string) =>
  `${along === "heats" ? "Heats" : "Tempers"} of ${steel}`.slice(0, 60);

/** Begins a ladder on a steel that is known. */
export function BeginLadder(props: { steel: string; along: Along; onBegun: (id: string) => void }) {
  const client = useQueryClient();
  const steels = useSteels();
  const options = useSteelOptions();
  const called = (key: string) => steels.data?.find((s) => s.key === key)?.name ?? key;
  const { form, run, submit, wrong } = useSavedForm({
    values: { steel: props.steel, along: props.along, name: "" },
    save: ({ steel, along, name }) =>
      take(
        api.POST("/api/v1/ladders", {
          body: { id: uuid(), steel, along, name: name.trim() || nameOf(along, called(steel)) },
        }),
      ),
    onSaved: (made) => {
      client.invalidateQueries({ queryKey: queries.ladders.queryKey });
      client.setQueryData(queries.ladder(made.id).queryKey, made);
      props.onBegun(made.id);
    },
  });
  const along = form.watch("along");
  return (
    <form className="keep" onSubmit={submit} aria-label="Begin a ladder">
      <div className="tool-row">
        <ChoiceField form={form} name="steel" label="Steel" options={options} asIs />
        <ChoiceField form={form} name="along" label="A ladder of" options={ALONG} asIs />
        <TextField form={form} name="name" label="Call it, if you like" max={60} />
      </div>
      <p>{HOW[along]}</p>
      <Button type="submit" disabled={run.isPending || !steels.isSuccess}>
        Begin it
      </Button>
      <Saved wrong={wrong} saved={false} word="" />
    </form>
  );
}
