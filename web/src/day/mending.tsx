import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { api, type DayRelaxation, type DayView, take } from "../api/client";
import { cures } from "../api/day-queries";
import { queries } from "../api/queries";
import { Field } from "../fields/field";
import { ails, clockOn, cure, type DayNames, relaxation } from "../words/day";
import { capital, span } from "../words/names";
import css from "./day.module.css";

/** What cannot be on the day, and the smallest changes that mend it. */
export function Ails({ day, names }: { day: DayView; names: DayNames }) {
  const { data, isFetching } = useQuery({
    ...cures(day.version),
    enabled: day.measures.ails,
  });
  if (!day.measures.ails) return null;
  const best = (data?.cures ?? []).slice(0, 4);
  const alone = (data?.late_alone ?? []).map(names.mark);
  return (
    <section className="notice" aria-label="What cannot be">
      <div>
        <b>{ails(day.measures)}</b>{" "}
        {best.length > 0 && (
          <>What would mend it: {best.map((c) => cure(c, names)).join("; or ")}.</>
        )}
        {alone.length > 0 && <> {alone.join(", ")} would be late alone too: no order cures that.</>}
        {isFetching && !data && <span className="soft">Looking for what would mend it…</span>}
        {data?.cures.length === 0 && "No single change of order, hours or stations mends it."}
      </div>
    </section>
  );
}

/** What could be asked of a day. */
function questions(day: DayView): DayRelaxation[] {
  const longer = day.operators
    .filter((o) => o.hours.some(([, b]) => (b ?? 0) > day.now_s))
    .map((o) => ({ code: "longer" as const, operator: o.name, by_s: 3600 }));
  const second = day.stations
    .filter((s) => s.heats_in_s != null && day.bars.some((b) => b.station === s.id))
    .map((s) => ({ code: "second" as const, station: s.id }));
  const without = day.blades
    .filter((b) => !b.firing_id && b.done_s != null)
    .map((b) => ({ code: "without" as const, blade: b.blade_id }));
  return [...longer, ...second, ...(day.blades.length > 1 ? without : [])];
}

/** Tries a change on the day without making it. */
export function WhatIf({ day, names }: { day: DayView; names: DayNames }) {
  const all = questions(day);
  const [asked, setAsked] = useState(0);
  const client = useQueryClient();
  const ask = useMutation({
    mutationFn: (gives: DayRelaxation) => take(api.POST("/api/v1/day/what-if", { body: gives })),
  });
  const takeOff = useMutation({
    mutationFn: (id: string) =>
      take(api.DELETE("/api/v1/day/blades/{id}", { params: { path: { id } } })),
    onSuccess: (then) => {
      client.setQueryData(queries.day.queryKey, then);
      ask.reset();
    },
  });
  const one = all[asked];
  if (!one) return null;
  const { now, then } = ask.data ?? {};
  const by = now && then ? now.ends_s - then.ends_s : 0;
  const less = now && then ? now.late_s - then.late_s : 0;
  return (
    <section className={css["what-if"]} aria-label="What if">
      <div className="row-of">
        <Field label="What if">
          {(tie) => (
            <Form.Select
              {...tie}
              value={asked}
              onChange={(e) => {
                setAsked(Number(e.target.value));
                ask.reset();
              }}
            >
              {all.map((q, i) => (
                <option key={JSON.stringify(q)} value={i}>
                  {capital(relaxation(q, names))}
                </option>
              ))}
            </Form.Select>
          )}
        </Field>
        <Button variant="outline-primary" disabled={ask.isPending} onClick={() => ask.mutate(one)}>
          Try it
        </Button>
        {now && then && (
          <span role="status">
            {Math.abs(by) < 300 && Math.abs(less) < 300
              ? "It changes next to nothing."
              : `All done ${clockOn(then.ends_s, day.now_s)}${
                  Math.abs(by) >= 300
                    ? `, ${span(Math.abs(by))} ${by > 0 ? "earlier" : "later"}`
                    : ""
                }${Math.abs(less) >= 300 ? `, ${span(Math.abs(less))} ${less > 0 ? "less" : "more"} late` : ""}.`}
          </span>
        )}
        {now && then && one.code === "without" && (
          <Button
            variant="link"
            disabled={takeOff.isPending}
            onClick={() => takeOff.mutate(one.blade)}
          >
            Take it off the day
          </Button>
        )}
        {ask.error && <span className="wrong">{ask.error.message}</span>}
      </div>
    </section>
  );
}
