import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { ApiError, api, type LadderView, take } from "../api/client";
import { queries } from "../api/queries";
import { useWidth } from "../drawing/heat-path";
import { named } from "../fields/choice";
import { Field } from "../fields/field";
import { Options } from "../fields/options";
import { Saved, WrongFields } from "../fields/saved-form";
import { QuantityInput } from "../quantity/quantity-input";
import { useUnits } from "../quantity/units";
import { WHY } from "../words/ladders";
import { Fracture, GRAINS } from "./fracture";
import { blank, drafts, type ReadBy, type RungDraft, readBy, rungsOf } from "./ladder-draft";
import { RungStrip, range } from "./ladder-strip";
import css from "./steels.module.css";

const READ_BY: Record<ReadBy, string> = {
  tester: "a tester",
  set: "a set of files",
  file: "a plain file",
};

const MAX_RUNGS = 12;

/** What is wrong with the rungs, by field. */
function faults(error: Error | null): Record<string, string> {
  if (error instanceof WrongFields || error instanceof ApiError) return error.fields;
  return {};
}

/** What a coupon showed. */
function Reading(props: {
  draft: RungDraft;
  by: ReadBy;
  name: string;
  wrong: (field: string) => string | undefined;
  onChange: (draft: RungDraft) => void;
}) {
  const { draft, by, name, wrong, onChange } = props;
  if (by === "tester") {
    return (
      <Field
        label={`Readings of ${name}`}
        hideLabel
        className={`field ${css["ladder-read"]}`}
        error={wrong("readings") ?? wrong("values_hrc[0]")}
      >
        {(tie) => (
          <Form.Control
            {...tie}
            className="num"
            inputMode="decimal"
            placeholder="HRC"
            value={draft.readings}
            onChange={(e) => onChange({ ...draft, readings: e.target.value })}
          />
        )}
      </Field>
    );
  }
  if (by === "set") {
    return (
      <div className={css["two-files"]}>
        <QuantityInput
          label="Skated"
          kind="hardness"
          value={draft.skated_hrc}
          range={[40, 67]}
          error={wrong("skated_hrc")}
          onChange={(v) => onChange({ ...draft, skated_hrc: v })}
        />
        <QuantityInput
          label="Bit"
          kind="hardness"
          value={draft.bit_hrc}
          range={[40, 70]}
          error={wrong("bit_hrc")}
          onChange={(v) => onChange({ ...draft, bit_hrc: v })}
        />
      </div>
    );
  }
  return (
    <Form.Select
      aria-label={`The file on ${name}`}
      value={draft.file}
      onChange={(e) => onChange({ ...draft, file: e.target.value as RungDraft["file"] })}
    >
      <option value="">not filed</option>
      <option value="skates">it skates: hard</option>
      <option value="bites">it bites: soft</option>
    </Form.Select>
  );
}

/** Coolest and hottest coupon, °C. */
const HEATS: [number, number] = [650, 1300];
const TEMPERS: [number, number] = [80, 700];

/** How like a fracture is to each grade. */
function Grain(props: { name: string; value: number; onChange: (grain: number) => void }) {
  return (
    <fieldset className={css["grain-row"]}>
      <legend className="visually-hidden">Fracture of {props.name}</legend>
      {GRAINS.map((words, g) => (
        <label key={words} className={props.value === g + 1 ? "on" : ""} title={words}>
          <input
            type="radio"
            className="visually-hidden"
            name={`grain of ${props.name}`}
            checked={props.value === g + 1}
            onChange={() => props.onChange(g + 1)}
          />
          <Fracture grade={g + 1} size={30} />
          <span className="visually-hidden">
            {g + 1}: {words}
          </span>
        </label>
      ))}
    </fieldset>
  );
}

/** What is written on the coupons of a ladder, and how it is kept. */
function useRungs(ladder: LadderView) {
  const client = useQueryClient();
  /** What it was when it was begun to write on. */
  const [base, setBase] = useState(ladder);
  const [rungs, setRungs] = useState(() => drafts(ladder));
  const follow = (now: LadderView) => {
    setBase(now);
    setRungs(drafts(now));
  };
  const written = JSON.stringify(rungs) !== JSON.stringify(drafts(base));
  // What was written here is not lost when somebody else writes meanwhile: keeping it says so.
  if (ladder.version !== base.version && !written) follow(ladder);
  const save = useMutation({
    mutationFn: async (all: RungDraft[]) =>
      take(
        api.PUT("/api/v1/ladders/{id}", {
          params: { path: { id: ladder.id } },
          body: {
            name: ladder.name,
            treatment: ladder.treatment,
            rungs: rungsOf(all),
            version: base.version,
          },
        }),
      ),
    onSuccess: (saved) => {
      follow(saved as LadderView);
      client.setQueryData(queries.ladder(ladder.id).queryKey, saved);
      client.invalidateQueries({ queryKey: queries.ladders.queryKey });
      client.invalidateQueries({ queryKey: ["points", ladder.steel] });
    },
    onError: (error) => {
      if (!isStale(error)) return;
      // What was written stays; pressed again it is kept over theirs.
      const now = error.problem.current as LadderView | undefined;
      if (now) setBase(now);
      client.invalidateQueries({ queryKey: queries.ladder(ladder.id).queryKey });
    },
  });
  return { rungs, setRungs, save };
}

const isStale = (error: Error | null): error is ApiError =>
  error instanceof ApiError && error.problem.status === 409;

/** What went wrong that stands at no coupon. */
function wrongOf(error: Error | null): string | undefined {
  if (!error) return undefined;
  if (isStale(error)) {
    return "This ladder was changed meanwhile. What you wrote is still here: press again to keep it over that.";
  }
  const told = Object.keys(faults(error)).some((field) => field.startsWith("rungs["));
  return told ? undefined : error.message;
}

/** The coupons of a ladder from cool to hot: what is expected of each, and what was read. */
export function LadderRungs({ ladder }: { ladder: LadderView }) {
  const { show } = useUnits();
  const { rungs, setRungs, save } = useRungs(ladder);
  const [by, setBy] = useState(() => readBy(ladder));
  const [ref, room] = useWidth<HTMLDivElement>(980);
  const heats = ladder.along === "heats";
  const allowed = heats ? HEATS : TEMPERS;
  const wrong = faults(save.error);
  const change = (i: number, draft: RungDraft) =>
    setRungs(rungs.map((r, at) => (at === i ? draft : r)));
  const width = Math.max(180, Math.min(420, room - (heats ? 640 : 500)));
  const shown = range(ladder);
  const hotter = Math.max(...rungs.map((r) => r.temperature_c)) + (heats ? 15 : 25);
  const saved = (t: number) => ladder.rungs.findIndex((r) => Math.abs(r.temperature_c - t) < 0.5);
  const choices: ReadBy[] = heats ? ["tester", "set", "file"] : ["tester", "set"];
  const { next } = ladder;
  return (
    <section ref={ref} className={css.ladder} aria-label="Coupons">
      <div className="tool-row">
        <Field label="Read with" className="field">
          {(tie) => (
            <Form.Select {...tie} value={by} onChange={(e) => setBy(e.target.value as ReadBy)}>
              <Options
                of={named({
                  options: Object.fromEntries(choices.map((c) => [c, READ_BY[c]])),
                  asIs: true,
                })}
              />
            </Form.Select>
          )}
        </Field>
      </div>
      <ol>
        {rungs.map((draft, i) => {
          const at = saved(draft.temperature_c);
          const name = show("temperature", draft.temperature_c);
          const of = (field: string) => wrong[`rungs[${i}].${field}`];
          const set = (part: Partial<RungDraft>) => change(i, { ...draft, ...part });
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: a coupon has no identity but its place
            <li key={i}>
              <QuantityInput
                label={`${heats ? "From" : "At"}, coupon ${i + 1}`}
                hideLabel
                kind="temperature"
                value={draft.temperature_c}
                range={allowed}
                error={of("temperature_c")}
                onChange={(temperature_c) => set({ temperature_c })}
              />
              <RungStrip
                rung={ladder.rungs[at] ?? { temperature_c: draft.temperature_c }}
                expected={ladder.expected[at]}
                range={shown}
                width={width}
                scale={i === rungs.length - 1}
              />
              <Reading draft={draft} by={by} name={name} wrong={of} onChange={set} />
              {heats && (
                <Grain name={name} value={draft.grain} onChange={(grain) => set({ grain })} />
              )}
              {rungs.length > 1 && (
                <Button
                  variant="link"
                  aria-label={`Leave out ${name}`}
                  onClick={() => setRungs(rungs.filter((_, k) => k !== i))}
                >
                  leave out
                </Button>
              )}
            </li>
          );
        })}
      </ol>
      <p className="fine">
        The bar is where nine of ten coupons should read, the tick what physics alone has, ◆ what
        was read{heats ? "; the fractures from silk to sugar" : ""}.
      </p>
      <div className="row-of">
        <Button disabled={save.isPending} onClick={() => save.mutate(rungs)}>
          Keep what was read
        </Button>
        {rungs.length < MAX_RUNGS && (
          <Button
            variant="outline-primary"
            onClick={() => setRungs([...rungs, blank(Math.min(allowed[1], hotter))])}
          >
            One coupon more
          </Button>
        )}
        <Saved wrong={wrongOf(save.error)} saved={save.isSuccess} word="Kept, and learned from." />
      </div>
      {next && (
        <p>
          A coupon of {show("temperature", next.temperature_c)} would tell more: {WHY[next.why]}.{" "}
          <Button variant="link" onClick={() => save.mutate([...rungs, blank(next.temperature_c)])}>
            Add it
          </Button>
        </p>
      )}
    </section>
  );
}
