import { useQueryClient } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { api, type TrialView, take } from "../api/client";
import { queries } from "../api/queries";
import { Saved, TextField, useSavedForm } from "../fields/saved-form";
import { useUnits } from "../quantity/units";
import { ended } from "../words/trials";
import css from "./steels.module.css";

/** Makes a steel of the shop of a trial that came to an end. */
function MakeSteel({ trial }: { trial: TrialView }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const { form, run, submit, wrong } = useSavedForm({
    values: { name: trial.name },
    save: ({ name }) =>
      take(
        api.POST("/api/v1/trials/{id}/steel", {
          params: { path: { id: trial.id } },
          body: { id: uuid(), name },
        }),
      ),
    onSaved: (steel) => {
      client.invalidateQueries({ queryKey: queries.steels.queryKey });
      client.invalidateQueries({ queryKey: queries.trials.queryKey });
      navigate(`/steels?steel=${steel.key}`);
    },
  });
  return (
    <form className="keep" onSubmit={submit}>
      <TextField form={form} name="name" label="Call it" max={60} />
      <Button type="submit" disabled={run.isPending}>
        Make it a steel of the shop
      </Button>
      <Saved wrong={wrong} saved={false} word="" />
    </form>
  );
}

export function Verdict({ trial }: { trial: TrialView }) {
  const { say } = useUnits();
  const v = trial.guide.verdict;
  if (!v) return null;
  return (
    <section className={css["trial-step"]} aria-label="Verdict">
      <h2>
        {v.verdict !== "house_steel"
          ? "Not a blade steel"
          : trial.guide.stage === "done"
            ? "What it is"
            : trial.entries.length === 0
              ? "Plan with it at once"
              : "What it is so far"}
      </h2>
      <p>{ended(v, trial.entries.length > 0, say)}</p>
      {v.verdict === "house_steel" &&
        (trial.steel_id ? (
          <p>
            <a href={`/steels?steel=${trial.steel_id}`}>It is a steel of the shop now.</a> More
            coupons and readings of its blades go on narrowing what it may be.
          </p>
        ) : (
          <MakeSteel trial={trial} />
        ))}
    </section>
  );
}
