import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { ApiError, api, problemOf, type TrialEntry, type TrialView, take } from "../api/client";
import { queries, useTrials } from "../api/queries";
import { Text } from "../fields/text";
import { QuantityInput } from "../quantity/quantity-input";
import { useUnits } from "../quantity/units";
import { ended, guided } from "../words/trials";
import { Fracture, GRAINS } from "./fracture";
import { SteelPlaces } from "./places";

type Filed = "skates" | "bites";

/** What was done and seen, in a sentence. */
function sentence(e: TrialEntry, show: (kind: "temperature", v: number) => string): string {
  const file = e.file === "skates" ? "the file skates" : "the file bites";
  if (e.kind === "rung") {
    return `From ${show("temperature", e.temperature_c)}: ${file}, grain ${e.grain} (${GRAINS[e.grain - 1]})`;
  }
  const files =
    e.skated_hrc || e.bit_hrc
      ? ` (${e.skated_hrc ? `${e.skated_hrc} skates` : ""}${e.skated_hrc && e.bit_hrc ? ", " : ""}${e.bit_hrc ? `${e.bit_hrc} bites` : ""})`
      : "";
  return `In ${e.bath}: ${file}${files}`;
}

function FileChoice({ value, onChange }: { value: Filed | ""; onChange: (f: Filed) => void }) {
  return (
    <fieldset className="filed">
      <legend>The file</legend>
      {(["skates", "bites"] as const).map((f) => (
        <label key={f} className={value === f ? "on" : ""}>
          <input
            type="radio"
            name="filed"
            className="visually-hidden"
            checked={value === f}
            onChange={() => onChange(f)}
          />
          {f === "skates" ? "skates: hard" : "bites: soft"}
        </label>
      ))}
    </fieldset>
  );
}

/** The next step of a trial, and what to say of it. */
function Step({
  trial,
  onAdd,
  busy,
}: {
  trial: TrialView;
  onAdd: (e: TrialEntry) => void;
  busy: boolean;
}) {
  const { guide } = trial;
  const { say } = useUnits();
  const told = guided(guide, say);
  const [file, setFile] = useState<Filed | "">("");
  const [skated, setSkated] = useState<number | null>(null);
  const [bit, setBit] = useState<number | null>(null);
  const [t, setT] = useState(guide.temperature_c ?? 800);
  const [grain, setGrain] = useState(0);
  const first = guide.stage === "oil" || guide.stage === "water";
  const ready = file !== "" && (first || grain > 0);
  return (
    <section className="trial-step" aria-label="Next step">
      <h2>{told.ask}</h2>
      <p>{told.how}</p>
      {told.caution && <p className="caution">{told.caution}</p>}
      <div className="tool-row">
        {!first && (
          <QuantityInput
            label="It was"
            kind="temperature"
            value={t}
            range={[650, 1100]}
            onChange={setT}
          />
        )}
        <FileChoice value={file} onChange={setFile} />
        {first && file === "skates" && (
          <>
            <QuantityInput
              label="Hardest that skated"
              kind="hardness"
              value={skated}
              range={[40, 67]}
              onChange={setSkated}
            />
            <QuantityInput
              label="Softest that bit"
              kind="hardness"
              value={bit}
              range={[40, 70]}
              onChange={setBit}
            />
          </>
        )}
      </div>
      {!first && (
        <fieldset className="fractures">
          <legend>The fracture is most like</legend>
          {GRAINS.map((words, i) => (
            <label key={words} className={grain === i + 1 ? "on" : ""}>
              <input
                type="radio"
                name="grain"
                className="visually-hidden"
                checked={grain === i + 1}
                onChange={() => setGrain(i + 1)}
              />
              <Fracture grade={i + 1} />
              <span>
                {i + 1}: {words}
              </span>
            </label>
          ))}
        </fieldset>
      )}
      <Button
        disabled={!ready || busy}
        onClick={() => {
          if (file === "") return;
          onAdd(
            first
              ? {
                  kind: "first",
                  bath: guide.stage === "oil" ? "oil" : "water",
                  file,
                  skated_hrc: file === "skates" ? skated : null,
                  bit_hrc: file === "skates" ? bit : null,
                }
              : { kind: "rung", temperature_c: t, file, grain },
          );
        }}
      >
        Keep it, go on
      </Button>
    </section>
  );
}

function Verdict({ trial }: { trial: TrialView }) {
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
    <section className="trial-step" aria-label="Verdict">
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
        <ol className="coupons">
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

/** Unknown steel: coupon trials. */
export function TrialsPage() {
  const client = useQueryClient();
  const trials = useTrials();
  const [chosen, setChosen] = useState<string | null>(null);
  const [name, setName] = useState("");
  const all = (trials.data ?? []) as TrialView[];
  const trial = all.find((t) => t.id === chosen) ?? all[0];
  const begin = useMutation({
    mutationFn: () => take(api.POST("/api/v1/trials", { body: { id: uuid(), name } })),
    onSuccess: (made) => {
      setName("");
      setChosen(made.id);
      client.invalidateQueries({ queryKey: queries.trials.queryKey });
    },
  });
  return (
    <div className="with-rack">
      <nav className="rack-side steel-list" aria-label="Steels">
        <SteelPlaces />
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
      </nav>
      <main className="main page-in">
        <form
          className="keep first-keep"
          onSubmit={(e) => {
            e.preventDefault();
            begin.mutate();
          }}
        >
          <Text label="Unknown steel" max={60} value={name} onChange={setName} />
          <Button type="submit" variant="outline-primary" disabled={name.trim() === ""}>
            Begin a coupon trial
          </Button>
          {begin.error && <span className="wrong">{problemOf(begin.error)}</span>}
        </form>
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
