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

/** The coupons of a ladder from cool to hot: what is expected of each, and what was read. */
export function LadderRungs({ ladder }: { ladder: LadderView }) {
  const client = useQueryClient();
  const { show } = useUnits();
  /** What it was when it was begun to write on. */
  const [base, setBase] = useState(ladder);
  const [rungs, setRungs] = useState(() => drafts(ladder));
  const [by, setBy] = useState(() => readBy(ladder));
  const follow = (now: LadderView) => {
    setBase(now);
    setRungs(drafts(now));
  };
  const written = JSON.stringify(rungs) !== JSON.stringify(drafts(base));
  // What was written here is not lost when somebody else writes meanwhile: keeping it says so.
  if (ladder.version !== base.version && !written) follow(ladder);
  const [ref, room] = useWidth<HTMLDivElement>(980);
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
      if (error instanceof ApiError && error.problem.status === 409) {
        const now = error.problem.current as LadderView | undefined;
        if (now) follow(now);
        client.invalidateQueries({ queryKey: queries.ladder(ladder.id).queryKey });
      }
    },
  });
  const heats = ladder.along === "heats";
  const wrong = faults(save.error);
  const change = (i: number, draft: RungDraft) =>
    setRungs(rungs.map((r, at) => (at === i ? draft : r)));
  const told = Object.keys(wrong).some((field) => field.startsWith("rungs["));
  const width = Math.max(180, Math.min(420, room - (heats ? 640 : 500)));
  const shown = range(ladder);
  const hottest = Math.max(...rungs.map((r) => r.temperature_c));
  const saved = (t: number) => ladder.rungs.findIndex((r) => Math.abs(r.temperature_c - t) < 0.5);
  const choices: ReadBy[] = heats ? ["tester", "set", "file"] : ["tester", "set"];
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
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: a coupon has no identity but its place
            <li key={i}>
              <QuantityInput
                label={`${heats ? "From" : "At"}, coupon ${i + 1}`}
                hideLabel
                kind="temperature"
                value={draft.temperature_c}
                range={heats ? [650, 1300] : [80, 700]}
                error={of("temperature_c")}
                onChange={(t) => change(i, { ...draft, temperature_c: t })}
              />
              <RungStrip
                rung={ladder.rungs[at] ?? { temperature_c: draft.temperature_c }}
                expected={ladder.expected[at]}
                range={shown}
                width={width}
                scale={i === rungs.length - 1}
              />
              <Reading
                draft={draft}
                by={by}
                name={name}
                wrong={of}
                onChange={(next) => change(i, next)}
              />
              {heats && (
                <fieldset className={css["grain-row"]}>
                  <legend className="visually-hidden">Fracture of {name}</legend>
                  {GRAINS.map((words, g) => (
                    <label key={words} className={draft.grain === g + 1 ? "on" : ""} title={words}>
                      <input
                        type="radio"
                        className="visually-hidden"
                        name={`grain-${i}`}
                        checked={draft.grain === g + 1}
                        onChange={() => change(i, { ...draft, grain: g + 1 })}
                      />
                      <Fracture grade={g + 1} size={30} />
                      <span className="visually-hidden">
                        {g + 1}: {words}
                      </span>
                    </label>
                  ))}
                </fieldset>
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
            onClick={() => setRungs([...rungs, blank(Math.min(1300, hottest + (heats ? 15 : 25)))])}
          >
            One coupon more
          </Button>
        )}
        <Saved
          wrong={
            save.error && !told
              ? save.error instanceof ApiError && save.error.problem.status === 409
                ? "Someone wrote on this ladder meanwhile: it is shown as it is now. Write yours again."
                : save.error.message
              : undefined
          }
          saved={save.isSuccess}
          word="Kept, and learned from."
        />
      </div>
      {ladder.next && (
        <p>
          A coupon of {show("temperature", ladder.next.temperature_c)} would tell more:{" "}
          {WHY[ladder.next.why]}.{" "}
          <Button
            variant="link"
            onClick={() => {
              const next = ladder.next;
              if (next) save.mutate([...rungs, blank(next.temperature_c)]);
            }}
          >
            Add it
          </Button>
        </p>
      )}
    </section>
  );
}
