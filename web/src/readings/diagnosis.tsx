import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { useNavigate } from "react-router";
import {
  api,
  type Blade,
  type Cause,
  type Contradiction,
  type Plan,
  type Symptom,
  take,
} from "../api/client";
import { changed } from "../api/live";
import { queries } from "../api/queries";
import { Choice } from "../fields/choice";
import { apply } from "../plan/edit-plan";
import { useUnits } from "../quantity/units";
import { changeLabel } from "../words/changes";
import { culprit, evidence } from "../words/diagnosis";
import { hrc } from "../words/names";
import css from "./readings.module.css";

const SYMPTOMS: Record<Symptom, string> = {
  soft: "softer than it should be",
  bent: "bent",
  cracked: "cracked",
  dull_line: "a dull line",
  wandering_line: "a line that wanders",
  chips: "an edge that chips",
  rolls: "an edge that rolls",
};

/** A chance as people say it. */
export function chanceInWords(chance: number): string {
  const tenths = Math.round(10 * chance);
  if (tenths >= 9) return "nearly sure";
  if (tenths >= 1) return `about ${tenths} in 10`;
  return "unlikely";
}

/** What the prediction of the same firing said that the diagnosis contradicts. */
export function contradictionSentence(said: Contradiction): string {
  const end = "One of the two is wrong: make the first check before you change the plan.";
  switch (said.said) {
    case "hard_enough":
      return `The prediction of this firing said ${hrc(said.predicted.low)} to ${hrc(said.predicted.high)} HRC${said.through ? ", hardened through" : ""}. ${end}`;
    case "straight":
      return `The prediction of this firing gave a bend like that ${percent(said.probability)}. ${end}`;
    case "sound":
      return `The prediction of this firing gave a crack ${percent(said.probability)}. ${end}`;
    case "no_line":
      return `The prediction of this firing saw no line at all on this blade. ${end}`;
  }
}

function percent(share: number): string {
  return share < 0.005 ? "less than 1 %" : `${Math.round(100 * share)} %`;
}

function CauseRow({ cause, onFix }: { cause: Cause; onFix?: () => void }) {
  const { say } = useUnits();
  const told = culprit(cause, say);
  return (
    <li>
      <div className="row-of">
        <b>{told.name}</b>
        <span className="num chance">
          <span className={css["share-bar"]} aria-hidden="true">
            <span style={{ width: `${Math.round(100 * cause.chance)}%` }} />
          </span>
          {chanceInWords(cause.chance)}
        </span>
      </div>
      {cause.why.length > 0 && (
        <p className="soft">{cause.why.map((e) => evidence(e, say)).join(" ")}</p>
      )}
      <p>
        <b>To tell it:</b> {told.check}
      </p>
      <p>
        <b>Next time:</b> {told.avoid}{" "}
        {cause.fix && onFix && (
          <Button variant="link" onClick={onFix}>
            Plan it so: {changeLabel(cause.fix, say)}
          </Button>
        )}
      </p>
    </li>
  );
}

/** It did not come out as it should: causes, most likely first, each with the cheapest check. */
export function Diagnosis({ blade, plan }: { blade: Blade; plan: Plan }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [symptom, setSymptom] = useState<Symptom | "">("");
  const causes = useQuery({
    ...queries.diagnosis(blade.id, symptom || "soft"),
    enabled: symptom !== "",
  });
  const next = useMutation({
    mutationFn: (cause: Cause) => {
      const steps = cause.fix ? apply(plan.steps, cause.fix) : plan.steps;
      return take(
        api.PUT("/api/v1/blades/{id}/plan", {
          params: { path: { id: blade.id } },
          // A plan that was fired stays as it is: this makes the next one.
          body: { steps, version: plan.frozen_at ? 0 : plan.version },
        }),
      );
    },
    onSuccess: () => {
      changed(client, "plan", "", blade.id);
      navigate(`/blades/${blade.id}/plan`);
    },
  });
  return (
    <section className="diagnosis">
      <h2>It did not come out right</h2>
      <Choice
        label="What went wrong"
        value={symptom}
        placeholder="nothing"
        options={SYMPTOMS}
        onChange={(s) => setSymptom(s as Symptom | "")}
      />
      {causes.error && (
        <p className="wrong" role="alert">
          {causes.error.message}
        </p>
      )}
      {next.error && (
        <p className="wrong" role="alert">
          {next.error.message}
        </p>
      )}
      {symptom !== "" && causes.data && (
        <>
          <p className="soft">
            Most likely first, by what is written down of this blade and by physics. Begin with the
            first check: it is cheap.
          </p>
          {causes.data.contradicts && (
            <p className="warn-line">{contradictionSentence(causes.data.contradicts)}</p>
          )}
          <ol className={css.causes}>
            {causes.data.causes.map((c) => (
              <CauseRow key={c.cause} cause={c} onFix={() => next.mutate(c)} />
            ))}
          </ol>
        </>
      )}
    </section>
  );
}
