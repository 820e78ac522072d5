import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { v7 as uuid } from "uuid";
import { ApiError, api, problemOf, type TrialEntry, type TrialView, take } from "../api/client";
import { queries, useTrials } from "../api/queries";
import { Saved, TextField, useSavedForm } from "../fields/saved-form";
import { useUnits } from "../quantity/units";
import { Fracture } from "./fracture";
import { Side } from "./side";
import css from "./steels.module.css";
import { Step, sentence } from "./trial-step";
import { Verdict } from "./trial-verdict";

function TrialOf({ trial }: { trial: TrialView }) {
  const client = useQueryClient();
  const { show } = useUnits();
  const save = useMutation({
    mutationFn: (entries: TrialEntry[]) =>
      take(
        api.PUT("/api/v1/trials/{id}", {
          params: { path: { id: trial.id } },
          body: { entries, version: trial.version },
        }),
      ),
    onSettled: () => client.invalidateQueries({ queryKey: queries.trials.queryKey }),
  });
  const entries = trial.entries as TrialEntry[];
  const stale = save.error instanceof ApiError && save.error.problem.status === 409;
  return (
    <>
      <header className="head">
        <h1>{trial.name}</h1>
        <span className="soft">{entries.length} coupons so far</span>
      </header>
      {entries.length > 0 && (
        <ol className={css.coupons}>
          {entries.map((e, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: coupons have no identity but their order
            <li key={i}>
              {e.kind === "rung" && <Fracture grade={e.grain} size={26} />}
              {sentence(e, show)}
            </li>
          ))}
        </ol>
      )}
      {!trial.steel_id && entries.length > 0 && (
        <Button variant="link" onClick={() => save.mutate(entries.slice(0, -1))}>
          Take the last one back
        </Button>
      )}
      {save.error && (
        <p className="notice" role="alert">
          {stale
            ? "Someone added to this trial meanwhile: it is shown as it is now. Say yours again."
            : (Object.values((save.error as ApiError).fields ?? {})[0] ?? problemOf(save.error))}
        </p>
      )}
      {trial.guide.stage !== "done" && !trial.steel_id && (
        <Step
          key={trial.version}
          trial={trial}
          busy={save.isPending}
          onAdd={(e) => save.mutate([...entries, e])}
        />
      )}
      <Verdict key={`v${trial.version}`} trial={trial} />
    </>
  );
}

/** Begins a trial of a steel nobody knows. */
function Begin({ onBegun }: { onBegun: (id: string) => void }) {
  const client = useQueryClient();
  const { form, run, submit, wrong } = useSavedForm({
    values: { name: "" },
    save: ({ name }) => take(api.POST("/api/v1/trials", { body: { id: uuid(), name } })),
    onSaved: (made, form) => {
      form.reset();
      onBegun(made.id);
      client.invalidateQueries({ queryKey: queries.trials.queryKey });
    },
  });
  return (
    <form className={`keep ${css["first-keep"]}`} onSubmit={submit}>
      <TextField form={form} name="name" label="Unknown steel" max={60} />
      <Button
        type="submit"
        variant="outline-primary"
        disabled={run.isPending || form.watch("name").trim() === ""}
      >
        Begin a coupon trial
      </Button>
      <Saved wrong={wrong} saved={false} word="" />
    </form>
  );
}

/** Unknown steel: coupon trials. */
export function TrialsPage() {
  const trials = useTrials();
  const [chosen, setChosen] = useState<string | null>(null);
  const all = (trials.data ?? []) as TrialView[];
  const trial = all.find((t) => t.id === chosen) ?? all[0];
  return (
    <div className="with-rack">
      <Side chosen={trial?.id}>
        {all.length > 0 && <h3>Trials</h3>}
        {all.map((t) => (
          <button
            type="button"
            key={t.id}
            className={t.id === trial?.id ? "on" : ""}
            aria-current={t.id === trial?.id}
            onClick={() => setChosen(t.id)}
          >
            <b>{t.name}</b>
            <span className="soft">
              {t.steel_id ? "a steel now" : t.guide.stage === "done" ? "done" : "going on"}
            </span>
          </button>
        ))}
      </Side>
      <main className={`main ${css["page-in"]}`}>
        <Begin onBegun={setChosen} />
        {trial ? (
          <TrialOf key={trial.id} trial={trial} />
        ) : (
          <p>
            A spring, a file, a bar without papers: a few coupons, oil, water and a file tell
            whether it makes a blade, and a ladder of heats tells from what temperature.
          </p>
        )}
      </main>
    </div>
  );
}
