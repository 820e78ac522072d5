import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { useSearchParams } from "react-router";
import { ApiError, api, problemOf, type TrialEntry, type TrialView, take } from "../api/client";
import { queries, useTrials } from "../api/queries";
import { useUnits } from "../quantity/units";
import { OLD } from "../words/salvage";
import { BeginTrial } from "./begin-trial";
import { Fracture } from "./fracture";
import { MayBe } from "./may-be";
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
        <span className="soft">
          {trial.was === "unknown_bar" ? "nobody knows it" : `it was ${OLD[trial.was]}`};{" "}
          {entries.length === 0
            ? `coupons ${show("length", trial.thickness_mm)} thick`
            : `${entries.length} ${entries.length === 1 ? "coupon" : "coupons"} so far`}
          {trial.reclaimed.readings > 0 &&
            `, ${trial.reclaimed.readings} ${trial.reclaimed.readings === 1 ? "reading" : "readings"} of blades`}
        </span>
      </header>
      <MayBe known={trial.reclaimed} />
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
      {entries.length > 0 && (
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
      {trial.guide.stage !== "done" && (
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

/** Unknown steel: coupon trials. */
export function TrialsPage() {
  const trials = useTrials();
  const [asked] = useSearchParams();
  const [chosen, setChosen] = useState<string | null>(asked.get("trial"));
  const all = (trials.data ?? []) as TrialView[];
  const begin = chosen === "new" || (trials.isSuccess && all.length === 0);
  const trial = begin
    ? undefined
    : (all.find((t) => t.id === chosen || (chosen !== null && t.steel_id === chosen)) ?? all[0]);
  return (
    <div className="with-rack">
      <Side chosen={chosen ?? undefined}>
        {all.length > 0 && (
          <>
            <h3>Trials</h3>
            <button
              type="button"
              className={begin ? "on" : ""}
              aria-current={begin}
              onClick={() => setChosen("new")}
            >
              Another piece
            </button>
          </>
        )}
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
              {t.steel_id
                ? "a steel now"
                : t.guide.verdict?.verdict === "not_a_blade_steel"
                  ? "no blade steel"
                  : t.entries.length === 0
                    ? "not tried"
                    : "going on"}
            </span>
          </button>
        ))}
      </Side>
      <main className={`main ${css["page-in"]}`}>
        {begin && (
          <>
            <p>
              A spring, a file, a bar without papers: what it was says what it may be, and it can be
              planned with at once. A few coupons, oil, water and a file say whether it makes a
              blade, and a ladder of heats from what temperature.
            </p>
            <BeginTrial onBegun={setChosen} />
          </>
        )}
        {trial && <TrialOf key={trial.id} trial={trial} />}
      </main>
    </div>
  );
}
