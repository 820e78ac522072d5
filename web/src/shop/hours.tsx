import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { ApiError, api, type Shift, type ShopHours, take } from "../api/client";
import { hours as hoursQuery } from "../api/day-queries";
import { Field } from "../fields/field";
import { Saved } from "../fields/saved-form";
import { QuantityInput } from "../quantity/quantity-input";
import css from "./shop.module.css";

const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];
const COUNTS: Record<NonNullable<ShopHours["counts_more"]>, string> = {
  even: "As much of each",
  early: "To be done early",
  free_hands: "Free hands: time at the fire in one piece",
  steel: "The steel: every blade as well as can be",
};
/** Minutes since midnight as a field of time has them, and back. */
export const timeOf = (minutes: number) =>
  `${String(Math.floor(minutes / 60) % 24).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
export function minutesOf(time: string): number | null {
  const parts = /^(\d{2}):(\d{2})/.exec(time);
  return parts ? 60 * Number(parts[1]) + Number(parts[2]) : null;
}

function Time(props: { label: string; value: number; onChange: (minutes: number) => void }) {
  return (
    <Field label={props.label}>
      {(tie) => (
        <Form.Control
          {...tie}
          type="time"
          value={timeOf(props.value)}
          onChange={(e) => {
            const minutes = minutesOf(e.target.value);
            if (minutes !== null) props.onChange(minutes);
          }}
        />
      )}
    </Field>
  );
}

/** Days on which somebody is away, or comes though they usually do not. */
function OtherDays({ shift, onChange }: { shift: Shift; onChange: (shift: Shift) => void }) {
  const [date, setDate] = useState("");
  const other = shift.other_days ?? [];
  const [from = 480, to = 1080] = shift.hours;
  const without = (of: string) => other.filter((o) => o.date !== of);
  const say = (hours?: number[]) => {
    onChange({ ...shift, other_days: [...without(date), hours ? { date, hours } : { date }] });
    setDate("");
  };
  return (
    <>
      {other.map((d) => (
        <span key={d.date}>
          {d.date} {d.hours ? `${timeOf(d.hours[0] ?? 0)} to ${timeOf(d.hours[1] ?? 0)}` : "away"}
          <Button
            variant="link"
            onClick={() => onChange({ ...shift, other_days: without(d.date) })}
          >
            As usual
          </Button>
        </span>
      ))}
      <Form.Control
        type="date"
        aria-label={`A day on which ${shift.name} is away or comes at other hours`}
        value={date}
        onChange={(e) => setDate(e.target.value)}
      />
      {date && (
        <>
          <Button variant="link" onClick={() => say()}>
            Away that day
          </Button>
          <Button variant="link" onClick={() => say([from, to])}>
            There that day, {timeOf(from)} to {timeOf(to)}
          </Button>
        </>
      )}
    </>
  );
}

/** One of the people: when they are there, when they pause, and days that are otherwise. */
function OfOne(props: {
  shift: Shift;
  alone: boolean;
  wrong: string[];
  onChange: (shift: Shift) => void;
  onRemove: () => void;
}) {
  const { shift, onChange } = props;
  const id = useId();
  const [from = 480, to = 1080] = shift.hours;
  const pause = shift.breaks?.[0];
  const quenches = !shift.not?.includes("quench");
  return (
    <fieldset className={css["of-one"]}>
      <legend className="visually-hidden">Hours of {shift.name || "somebody"}</legend>
      <Field label="Name">
        {(tie) => (
          <Form.Control
            {...tie}
            value={shift.name}
            maxLength={40}
            onChange={(e) => onChange({ ...shift, name: e.target.value })}
          />
        )}
      </Field>
      <Time label="From" value={from} onChange={(m) => onChange({ ...shift, hours: [m, to] })} />
      <Time label="To" value={to} onChange={(m) => onChange({ ...shift, hours: [from, m] })} />
      <div className={css["week-days"]}>
        {DAYS.map((name, i) => (
          <Form.Check
            key={name}
            inline
            id={`${id}-${name}`}
            label={name}
            checked={shift.days.includes(i + 1)}
            onChange={(e) =>
              onChange({
                ...shift,
                days: e.target.checked
                  ? [...shift.days, i + 1].sort((a, b) => a - b)
                  : shift.days.filter((d) => d !== i + 1),
              })
            }
          />
        ))}
        <Form.Check
          inline
          id={`${id}-quench`}
          label="quenches"
          checked={quenches}
          onChange={(e) => onChange({ ...shift, not: e.target.checked ? [] : ["quench"] })}
        />
        <Form.Check
          inline
          id={`${id}-pause`}
          label="pauses"
          checked={!!pause}
          onChange={(e) => onChange({ ...shift, breaks: e.target.checked ? [[720, 750]] : [] })}
        />
      </div>
      {pause && (
        <>
          <Time
            label="Pause from"
            value={pause[0] ?? 720}
            onChange={(m) => onChange({ ...shift, breaks: [[m, pause[1] ?? 750]] })}
          />
          <Time
            label="Pause to"
            value={pause[1] ?? 750}
            onChange={(m) => onChange({ ...shift, breaks: [[pause[0] ?? 720, m]] })}
          />
        </>
      )}
      <div className={`row-of ${css["week-days"]}`}>
        <OtherDays shift={shift} onChange={onChange} />
        {!props.alone && (
          <Button variant="link" onClick={props.onRemove}>
            Remove {shift.name || "this one"}
          </Button>
        )}
      </div>
      {props.wrong.map((message) => (
        <p key={message} className="wrong">
          {message}
        </p>
      ))}
    </fieldset>
  );
}

function Hours({ of, version }: { of: ShopHours; version: number }) {
  const client = useQueryClient();
  const [hours, setHours] = useState(of);
  const save = useMutation({
    mutationFn: () =>
      take(api.PUT("/api/v1/day/hours", { body: { hours: hours as never, version } })),
    onSuccess: (kept) => {
      client.setQueryData(hoursQuery.queryKey, kept);
      client.invalidateQueries({ queryKey: ["day"] });
    },
    // Changed on another device: what is written here stays, and is kept over that when it is kept again.
    onError: () => client.invalidateQueries({ queryKey: hoursQuery.queryKey }),
  });
  const fields = Object.entries(save.error instanceof ApiError ? save.error.fields : {});
  const ofShift = (i: number) =>
    fields.filter(([f]) => f.startsWith(`hours.shifts[${i}]`)).map(([, m]) => m);
  const rest = fields.filter(([f]) => !f.startsWith("hours.shifts[")).map(([, m]) => m);
  const wrong = rest[0] ?? (fields.length === 0 ? save.error?.message : undefined);
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      {hours.shifts.map((shift, i) => (
        <OfOne
          // biome-ignore lint/suspicious/noArrayIndexKey: a name may be typed over
          key={i}
          shift={shift}
          alone={hours.shifts.length === 1}
          wrong={ofShift(i)}
          onChange={(one) => setHours({ ...hours, shifts: hours.shifts.with(i, one) })}
          onRemove={() => setHours({ ...hours, shifts: hours.shifts.toSpliced(i, 1) })}
        />
      ))}
      <div className="row-of">
        {hours.shifts.length < 8 && (
          <Button
            variant="link"
            onClick={() => {
              const [first] = hours.shifts;
              if (first) {
                const another = { ...first, name: "", not: [], other_days: [] };
                setHours({ ...hours, shifts: [...hours.shifts, another] });
              }
            }}
          >
            Somebody else works here too
          </Button>
        )}
      </div>
      <div className="grid">
        <QuantityInput
          label="A hard blade is in its temper within"
          kind="time"
          value={hours.temper_within_s}
          range={[300, 86_400]}
          onChange={(temper_within_s) => setHours({ ...hours, temper_within_s })}
        />
        <Field label="What counts more">
          {(tie) => (
            <Form.Select
              {...tie}
              value={hours.counts_more ?? "even"}
              onChange={(e) =>
                setHours({ ...hours, counts_more: e.target.value as ShopHours["counts_more"] })
              }
            >
              {Object.entries(COUNTS).map(([key, name]) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
            </Form.Select>
          )}
        </Field>
        <div className="wide row-of">
          <Button type="submit" disabled={save.isPending}>
            Keep the hours
          </Button>
          <Saved wrong={wrong} saved={save.isSuccess} word="Kept. The day was laid again." />
        </div>
      </div>
    </form>
  );
}

/** Who is in the shop when, and what counts on its days. */
export function ShopHoursForm() {
  const { data } = useQuery(hoursQuery);
  return (
    <section id="hours">
      <h2>Hours</h2>
      {data && <Hours of={data.hours} version={data.version} />}
    </section>
  );
}
