import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { api, take } from "../api/client";
import { calendar as calendarQuery } from "../api/day-queries";
import css from "./shop.module.css";

/** The shop's calendar: an address that calendar programs subscribe to. */
export function Calendar() {
  const client = useQueryClient();
  const { data } = useQuery(calendarQuery);
  const again = () => client.invalidateQueries({ queryKey: calendarQuery.queryKey });
  const make = useMutation({
    mutationFn: () => take(api.POST("/api/v1/day/calendar")),
    onSuccess: again,
  });
  const revoke = useMutation({
    mutationFn: () => take(api.DELETE("/api/v1/day/calendar")),
    onSuccess: () => {
      make.reset();
      again();
    },
  });
  const wrong = make.error ?? revoke.error;
  return (
    <section>
      <h2>Calendar</h2>
      <p>
        Every moment of the day that asks for hands, with an alarm five minutes ahead, for any
        program that reads calendars. Whoever has the address can read it.
      </p>
      {make.data && (
        <div className="notice" role="status">
          <span>
            Shown this once. Subscribe to{" "}
            <code className={css.secret}>
              {window.location.origin}
              {make.data.path}
            </code>
          </span>
        </div>
      )}
      <div className="row-of">
        <Button variant="outline-primary" disabled={make.isPending} onClick={() => make.mutate()}>
          {data?.since ? "Make a new address" : "Make an address"}
        </Button>
        {data?.since && (
          <>
            <Button variant="link" disabled={revoke.isPending} onClick={() => revoke.mutate()}>
              Take it down
            </Button>
            <span className="soft">
              There is one since{" "}
              {new Date(data.since).toLocaleDateString("en-GB", { dateStyle: "medium" })}; a new one
              closes it.
            </span>
          </>
        )}
        {wrong && <span className="wrong">{wrong.message}</span>}
      </div>
    </section>
  );
}
