import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { batches } from "../api/batch-queries";
import { api, type Blade, type DayView, take } from "../api/client";
import { Silhouette } from "../drawing/blade-drawing";
import { Field } from "../fields/field";
import { Notice } from "../fields/notice";
import { standing } from "../words/standing";
import css from "./day.module.css";

/** A date field's value of a moment on this device's calendar. */
export function dateOf(at: Date): string {
  const two = (n: number) => String(n).padStart(2, "0");
  return `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`;
}

/** The blades to choose from: in work, and on no day yet. */
export function Pick(props: {
  blades: Blade[];
  day: DayView;
  /** The day they are put on, unless it is this one. */
  from: Date | null;
  onPicked: (day: DayView) => void;
}) {
  const { blades, day, from } = props;
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const [due, setDue] = useState("");
  const on = new Set(day.blades.map((b) => b.blade_id));
  const free = blades.filter((b) => !on.has(b.id));
  const { data: all } = useQuery(batches);
  const ready = new Set(free.map((b) => b.id));
  const whole = (all ?? [])
    .map((b) => b.blade_ids.filter((id) => ready.has(id)))
    .filter((ids) => ids.length > 1);
  const marks = (ids: string[]) =>
    free
      .filter((b) => ids.includes(b.id))
      .map((b) => b.mark)
      .join(", ");
  const add = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/v1/day/blades", {
          body: {
            blades: [...picked].map((blade_id) => ({
              blade_id,
              ...(from ? { not_before: from.toISOString() } : {}),
              // Wanted by the end of that day.
              ...(due ? { due_at: new Date(`${due}T23:59:00`).toISOString() } : {}),
            })),
          },
        }),
      ),
    onSuccess: (day) => {
      setPicked(new Set());
      props.onPicked(day as DayView);
    },
  });
  const toggle = (id: string) => {
    const then = new Set(picked);
    if (!then.delete(id)) then.add(id);
    setPicked(then);
  };
  if (free.length === 0) {
    return (
      <p>
        Every blade in work is on a day already. New blades are entered on the rack; a blade needs a
        plan before it can be laid out.
      </p>
    );
  }
  return (
    <form
      className={css["day-pick"]}
      onSubmit={(e) => {
        e.preventDefault();
        add.mutate();
      }}
    >
      <fieldset>
        <legend>Which blades{from ? ` from ${from.toLocaleDateString("en-GB")}` : ""}?</legend>
        {whole.map((ids) => (
          <Button
            key={ids.join()}
            variant="link"
            onClick={() => setPicked(new Set([...picked, ...ids]))}
          >
            The whole batch {marks(ids)}
          </Button>
        ))}
        {free.map((b) => (
          <Form.Check key={b.id} id={`pick-${b.id}`}>
            <Form.Check.Input checked={picked.has(b.id)} onChange={() => toggle(b.id)} />
            <Form.Check.Label>
              <Silhouette outline={b.outline} scale={0.28} />
              <b className="num">{b.mark}</b> {b.name}{" "}
              <span className="soft">
                {b.steel_name}, {standing(b, Date.now()).text}
              </span>
            </Form.Check.Label>
          </Form.Check>
        ))}
      </fieldset>
      <div className="row-of">
        <Field label="Wanted by (may stay empty)">
          {(tie) => (
            <Form.Control
              {...tie}
              type="date"
              value={due}
              min={dateOf(new Date())}
              onChange={(e) => setDue(e.target.value)}
            />
          )}
        </Field>
        <Button type="submit" disabled={picked.size === 0 || add.isPending}>
          {add.isPending ? "Laying the day…" : `Put ${picked.size || "them"} on the day`}
        </Button>
      </div>
      {add.error && <Notice>{add.error.message}</Notice>}
    </form>
  );
}
