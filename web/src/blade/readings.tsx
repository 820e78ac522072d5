import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Link } from "react-router";
import { v7 as uuid } from "uuid";
import { ApiError, api, type Blade, type Plan, take } from "../api/client";
import { useFindings, useFirings, useReadings, useStations } from "../api/queries";
import { hrc } from "../words/names";
import { Findings, lineHeights } from "./findings";
import { Outcomes } from "./outcomes";
import { usePrediction } from "./prediction";
import { Choice, Text } from "./ready";

export const STAGES: Record<string, string> = {
  tempered: "after the last temper",
  as_quenched: "after the quench, untempered",
};

/** Reads values separated by spaces, commas before a space, semicolons or slashes. */
export function readValues(text: string): { values: number[]; wrong: string | null } {
  const words = text
    .trim()
    .split(/[\s;/]+|,\s+/)
    .filter(Boolean);
  const values = words.map((w) => Number(w.replace(",", ".")));
  const bad = words.find((_, i) => !Number.isFinite(values[i]));
  if (words.length === 0)
    return { values: [], wrong: "At least one reading is needed; three or more are better." };
  if (bad) return { values: [], wrong: `“${bad}” is no number. Write them like 61.5 62 61.` };
  const out = values.find((v) => v < 0 || v > 70);
  if (out !== undefined)
    return { values: [], wrong: `${out} HRC is not possible. Allowed: 0 to 70 HRC.` };
  return { values, wrong: null };
}

/** What was read, beside what was predicted. */
export function ReadingsTab({ blade, plan }: { blade: Blade; plan?: Plan }) {
  const client = useQueryClient();
  const stations = useStations();
  const readings = useReadings(blade.id);
  const firings = useFirings(blade.id);
  const predicted = usePrediction(blade, plan?.steps);
  const testers = (stations.data ?? []).filter((s) => s.kind === "tester");
  const state = blade.firing_state;
  const [stage, setStage] = useState(state?.tempered ? "tempered" : "as_quenched");
  const [tester, setTester] = useState<string | null>(null);
  const [text, setText] = useState("");
  const [note, setNote] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const only = testers.length === 1 ? testers[0]?.id : undefined;
  const chosen = tester ?? only ?? "";
  const keep = useMutation({
    mutationFn: (values: number[]) =>
      take(
        api.POST("/api/v1/blades/{id}/readings", {
          params: { path: { id: blade.id } },
          body: { id: uuid(), stage, values, note, tester_id: chosen || undefined },
        }),
      ),
    onSuccess: () => {
      setText("");
      setNote("");
      client.invalidateQueries();
    },
  });
  const withdraw = useMutation({
    mutationFn: (reading: string) =>
      take(
        api.DELETE("/api/v1/blades/{id}/readings/{reading}", {
          params: { path: { id: blade.id, reading } },
        }),
      ),
    onSuccess: () => client.invalidateQueries(),
  });
  const finish = useMutation({
    mutationFn: () =>
      take(
        api.PUT("/api/v1/blades/{id}", {
          params: { path: { id: blade.id } },
          body: {
            mark: blade.mark,
            name: blade.name,
            steel: blade.steel,
            shape: blade.shape,
            length_mm: blade.length_mm,
            width_mm: blade.width_mm,
            spine_mm: blade.spine_mm,
            edge_mm: blade.edge_mm,
            grind: blade.grind,
            purpose: blade.purpose,
            target_low_hrc: blade.target_low_hrc,
            target_high_hrc: blade.target_high_hrc,
            note: blade.note,
            finished: !blade.finished_at,
            version: blade.version,
          },
        }),
      ),
    onSuccess: () => client.invalidateQueries(),
  });
  const problem = keep.error instanceof ApiError ? keep.error : null;
  const fieldError = Object.entries(problem?.fields ?? {}).find(([f]) =>
    f.startsWith("values"),
  )?.[1];
  const frozen = firings.data?.[0]?.prediction;
  const findings = useFindings(blade.id);
  const all = readings.data ?? [];
  const names = new Map((stations.data ?? []).map((s) => [s.id, s.name]));
  return (
    <div className="low readings">
      <div>
        {state?.quenched ? (
          <form
            className="grid"
            onSubmit={(e) => {
              e.preventDefault();
              const read = readValues(text);
              setWrong(read.wrong);
              if (!read.wrong) keep.mutate(read.values);
            }}
          >
            <Choice label="Read" value={stage} options={STAGES} onChange={setStage} />
            {testers.length > 0 ? (
              <Choice
                label="With"
                value={chosen}
                placeholder="a tester not named"
                options={Object.fromEntries(testers.map((t) => [t.id, t.name]))}
                onChange={setTester}
              />
            ) : (
              <p className="soft field">
                Name your tester in <Link to="/shop">Shop</Link> and its error is learned.
              </p>
            )}
            <Form.Group controlId="readings" className="field wide">
              <Form.Label>Readings, HRC, three or more</Form.Label>
              <Form.Control
                className="num big-number"
                inputMode="decimal"
                autoComplete="off"
                value={text}
                isInvalid={!!(wrong ?? fieldError)}
                aria-describedby="readings-help"
                onChange={(e) => {
                  setText(e.target.value);
                  setWrong(null);
                }}
              />
              <div id="readings-help" className={wrong || fieldError ? "wrong" : "soft"}>
                {wrong ??
                  fieldError ??
                  "Cold, and with the decarburized skin taken off. Write them like 61.5 62 61."}
              </div>
            </Form.Group>
            <div className="wide">
              <Text label="Note on it" max={500} value={note} onChange={setNote} />
            </div>
            <div className="wide row-of">
              <Button type="submit" disabled={keep.isPending}>
                Keep readings
              </Button>
              {keep.isSuccess && text === "" && (
                <span className="soft" role="status">
                  Kept. The next prediction has learned from it.
                </span>
              )}
            </div>
          </form>
        ) : (
          <p>
            This blade was not quenched yet, so there is nothing to read.{" "}
            <Link to={`/blades/${blade.id}/fire`}>Fire it first</Link>.
          </p>
        )}
        {problem && !fieldError && (
          <div className="notice" role="alert">
            Not kept: {problem.message} What you typed is still here.
          </div>
        )}
        <ul className="read-list">
          {all.map((r) => (
            <li key={r.id} className={r.withdrawn_at ? "withdrawn" : ""}>
              <span className="num mean">{hrc(r.mean_hrc)}</span>
              <span>
                <b className="num">{r.values_hrc.map(hrc).join("  ")}</b>
                <br />
                <span className="soft">
                  {STAGES[r.stage]}
                  {r.tester_id ? `, ${names.get(r.tester_id) ?? "a tester"}` : ""},{" "}
                  {new Date(r.taken_at).toLocaleDateString("en-GB", { dateStyle: "medium" })}
                  {r.note ? `. “${r.note}”` : ""}
                  {r.withdrawn_at ? ". Withdrawn: kept, not learned from." : ""}
                </span>
              </span>
              {!r.withdrawn_at && (
                <Button variant="link" onClick={() => withdraw.mutate(r.id)}>
                  Withdraw
                </Button>
              )}
            </li>
          ))}
        </ul>
        {state?.quenched && <Findings blade={blade} />}
        {state?.tempered && !blade.firing_open && (
          <p>
            <Button variant="outline-primary" onClick={() => finish.mutate()}>
              {blade.finished_at ? "Back on the rack" : "Finished: off the rack"}
            </Button>
          </p>
        )}
      </div>
      <div className="beside">
        <p className="soft">
          {frozen ? "Predicted when the plan was frozen; the diamonds are what was read." : ""}
        </p>
        <Outcomes
          prediction={frozen ?? predicted.data}
          wanted={[blade.target_low_hrc, blade.target_high_hrc]}
          readings={all}
          lines={lineHeights(findings.data ?? [])}
        />
      </div>
    </div>
  );
}
