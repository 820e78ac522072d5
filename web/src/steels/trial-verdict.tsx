import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { ApiError, api, problemOf, type TrialView, take } from "../api/client";
import { queries } from "../api/queries";
import { Text } from "../fields/text";
import { useUnits } from "../quantity/units";
import { ended } from "../words/trials";
import css from "./steels.module.css";

export function Verdict({ trial }: { trial: TrialView }) {
  const { say } = useUnits();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState(trial.name);
  const make = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/v1/trials/{id}/steel", {
          params: { path: { id: trial.id } },
          body: { id: uuid(), name },
        }),
      ),
    onSuccess: (steel) => {
      client.invalidateQueries({ queryKey: queries.steels.queryKey });
      client.invalidateQueries({ queryKey: queries.trials.queryKey });
      navigate(`/steels?steel=${steel.key}`);
    },
  });
  const v = trial.guide.verdict;
  if (!v) return null;
  const fields = make.error instanceof ApiError ? make.error.fields : {};
  return (
    <section className={css["trial-step"]} aria-label="Verdict">
      <h2>{v.verdict === "house_steel" ? "What it is" : "Not a blade steel"}</h2>
      <p>{ended(v, say)}</p>
      {v.verdict === "house_steel" &&
        (trial.steel_id ? (
          <p>
            <a href={`/steels?steel=${trial.steel_id}`}>It is a steel of the shop now.</a>
          </p>
        ) : (
          <div className="keep">
            <Text label="Call it" max={60} value={name} error={fields.name} onChange={setName} />
            <Button disabled={make.isPending} onClick={() => make.mutate()}>
              Make it a steel of the shop
            </Button>
            {make.error && !fields.name && <span className="wrong">{problemOf(make.error)}</span>}
          </div>
        ))}
    </section>
  );
}
