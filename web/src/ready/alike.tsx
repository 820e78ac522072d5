import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Link } from "react-router";
import { batches } from "../api/batch-queries";
import { api, type Blade, take } from "../api/client";
import { queries, useRack } from "../api/queries";
import { Field } from "../fields/field";

const MOST = 11;

/** More blades like this one: one order, planned once. */
export function Alike({ blade }: { blade: Blade }) {
  const client = useQueryClient();
  const rack = useRack();
  const { data } = useQuery(batches);
  const [count, setCount] = useState("3");
  const make = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/v1/blades/{id}/alike", {
          params: { path: { id: blade.id } },
          body: { count: Number(count) },
        }),
      ),
    onSuccess: () => {
      client.invalidateQueries({ queryKey: queries.rack.queryKey });
      client.invalidateQueries({ queryKey: batches.queryKey });
    },
  });
  const of = data?.find((b) => b.blade_ids.includes(blade.id));
  const others = (rack.data ?? []).filter((b) => b.id !== blade.id && of?.blade_ids.includes(b.id));
  const wanted = Number(count);
  const fits = Number.isInteger(wanted) && wanted >= 1 && wanted <= MOST;
  return (
    <section aria-label="Batch">
      <h2>Batch</h2>
      {others.length > 0 && (
        <p>
          One order with{" "}
          {others.map((b, i) => (
            <span key={b.id}>
              {i > 0 && ", "}
              <Link to={`/blades/${b.id}`} className="num">
                {b.mark}
              </Link>
            </span>
          ))}
          . What differs between them is kept by blade.
        </p>
      )}
      <form
        className="row-of"
        onSubmit={(e) => {
          e.preventDefault();
          make.mutate();
        }}
      >
        <Field label="More like this" error={fits ? undefined : `Allowed: 1 to ${MOST}.`}>
          {(tie) => (
            <Form.Control
              {...tie}
              className="num"
              inputMode="numeric"
              value={count}
              onChange={(e) => setCount(e.target.value)}
            />
          )}
        </Field>
        <Button type="submit" variant="outline-primary" disabled={!fits || make.isPending}>
          Make them, with this plan
        </Button>
        {make.data && (
          <span role="status">
            {make.data.map((b) => b.mark).join(", ")} {make.data.length === 1 ? "is" : "are"} on the
            rack.
          </span>
        )}
        {make.error && <span className="wrong">{make.error.message}</span>}
      </form>
    </section>
  );
}
