import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Link, useNavigate, useParams } from "react-router";
import { api, type DayBar, type DayView, take } from "../api/client";
import { queries, useDay, useRack } from "../api/queries";
import { Field } from "../fields/field";
import { Notice } from "../fields/notice";
import { RadioRow } from "../fields/radio-row";
import { setWhose, useWhose } from "../firing/whose";
import { clockOn, dayNames, news, trouble } from "../words/day";
import { Chosen } from "./chosen";
import css from "./day.module.css";
import { dayOf, daysLater, overlaps, windowOf } from "./lanes";
import { Ails, WhatIf } from "./mending";
import { NextList } from "./next-list";
import { dateOf, Pick } from "./pick";
import { keyOf, Timeline } from "./timeline";
import { Week } from "./week";

/** So long after the last step of a bar it is sent, ms. */
const SETTLED_MS = 450;

/** The moves of a hand or of keys: shown at once, sent when they rest. */
function useMoves(onDay: (day: DayView) => void) {
  const [moved, setMoved] = useState<ReadonlyMap<string, number>>(new Map());
  const waiting = useRef(new Map<string, ReturnType<typeof setTimeout>>());
  const pin = useMutation({
    mutationFn: (p: { bar: DayBar; start_s: number | null }) =>
      take(
        api.PUT("/api/v1/day/pins", {
          body: {
            blade_id: p.bar.blade,
            activity: p.bar.activity,
            ...(p.start_s === null ? {} : { start_at: new Date(p.start_s * 1000).toISOString() }),
          },
        }),
      ),
    onSuccess: (day) => onDay(day as DayView),
    onSettled: (_day, _error, { bar }) =>
      setMoved((before) => {
        const then = new Map(before);
        then.delete(keyOf(bar));
        return then;
      }),
  });
  const { mutate } = pin;
  const move = useCallback(
    (bar: DayBar, start_s: number) => {
      const key = keyOf(bar);
      setMoved((before) => new Map(before).set(key, start_s));
      clearTimeout(waiting.current.get(key));
      waiting.current.set(
        key,
        setTimeout(() => mutate({ bar, start_s }), SETTLED_MS),
      );
    },
    [mutate],
  );
  return { moved, move, pin };
}

function dateSaid(midnight_s: number): string {
  return new Date(midnight_s * 1000).toLocaleDateString("en-GB", {
    weekday: "long",
    day: "numeric",
    month: "long",
  });
}

/** The days to come: several blades, few stations, one or two pairs of hands. */
export function DayPage() {
  const { date } = useParams();
  const go = useNavigate();
  const client = useQueryClient();
  const { data: day, error } = useDay();
  const rack = useRack();
  const blades = useMemo(() => new Map((rack.data ?? []).map((b) => [b.id, b])), [rack.data]);
  const [chosen, setChosen] = useState<string | null>(null);
  const [picking, setPicking] = useState(false);
  const [view, setView] = useState<"day" | "week">("day");
  const taken = useCallback(
    (then: DayView) => client.setQueryData(queries.day.queryKey, then as never),
    [client],
  );
  const { moved, move, pin } = useMoves(taken);
  const anew = useMutation({
    mutationFn: () => take(api.POST("/api/v1/day/anew")),
    onSuccess: (then) => taken(then as DayView),
  });
  const takeOff = useMutation({
    mutationFn: (id: string) =>
      take(api.DELETE("/api/v1/day/blades/{id}", { params: { path: { id } } })),
    onSuccess: (then) => taken(then as DayView),
  });
  const times = useMutation({
    mutationFn: (t: { id: string; not_before_s: number; due_s: number | null }) =>
      take(
        api.PUT("/api/v1/day/blades/{id}", {
          params: { path: { id: t.id } },
          body: {
            not_before: new Date(t.not_before_s * 1000).toISOString(),
            ...(t.due_s === null ? {} : { due_at: new Date(t.due_s * 1000).toISOString() }),
          },
        }),
      ),
    onSuccess: (then) => taken(then as DayView),
  });
  const mine = useWhose();
  useEffect(() => {
    document.title = "Day · vatten";
  }, []);
  if (!day) {
    return (
      <main className="page" aria-busy={!error}>
        <h1>Day</h1>
        {error && <p role="alert">{error.message}</p>}
      </main>
    );
  }
  const names = dayNames(day, rack.data);
  const today = dayOf(day.now_s);
  const asked = date ? Date.parse(`${date}T00:00:00`) / 1000 : Number.NaN;
  // With nothing to do today it is the first day on which something is.
  const first = day.bars.find((b) => b.end_s > day.now_s)?.start_s ?? today;
  const midnight = Number.isFinite(asked) ? asked : Math.max(today, dayOf(first));
  const shown = windowOf(day, midnight);
  const whole = { from_s: midnight, to_s: daysLater(midnight, 1) };
  const here = day.bars.filter((b) => overlaps(b, whole));
  const bar = day.bars.find((b) => keyOf(b) === chosen);
  const empty = day.blades.length === 0;
  const to = (at_s: number) => go(`/day/${dateOf(new Date(at_s * 1000))}`);
  const pinIt = (b: DayBar) =>
    pin.mutate({ bar: b, start_s: b.pinned ? null : (moved.get(keyOf(b)) ?? b.start_s) });
  const last = day.news[0];
  const wrong = pin.error ?? anew.error ?? takeOff.error ?? times.error;
  return (
    <main className={`page ${css.day}`}>
      <div className="row-of top-line">
        <h1>Day</h1>
        <span className={css.which}>
          <Button
            variant="link"
            aria-label="The day before"
            onClick={() => to(daysLater(midnight, -1))}
          >
            ‹
          </Button>
          <b>
            {dateSaid(midnight)}
            {midnight === today ? ", today" : ""}
          </b>
          <Button
            variant="link"
            aria-label="The day after"
            onClick={() => to(daysLater(midnight, 1))}
          >
            ›
          </Button>
        </span>
        <RadioRow
          label="How much is shown"
          name="day-view"
          options={{ day: "Day", week: "Week" }}
          value={view}
          onChange={setView}
        />
        <span className={css["day-tools"]}>
          {!empty && (
            <>
              <Button variant="link" disabled={anew.isPending} onClick={() => anew.mutate()}>
                Lay anew
              </Button>
              <Button variant="link" onClick={() => window.print()}>
                Print the day
              </Button>
              <Link to="/shop#hours">Hours and calendar</Link>
            </>
          )}
          {!empty && (
            <Button
              variant="outline-primary"
              aria-expanded={picking}
              onClick={() => setPicking(!picking)}
            >
              {picking ? "Not now" : "Pick blades"}
            </Button>
          )}
        </span>
      </div>
      {empty && (
        <p>
          No blade is on a day. Pick those that are to be fired: the kiln is shared where it pays,
          no hard blade waits for its temper, and what runs late moves what follows.
        </p>
      )}
      {(picking || empty) && rack.data && (
        <Pick
          blades={rack.data}
          day={day}
          from={midnight > today ? new Date(midnight * 1000) : null}
          onPicked={(then) => {
            taken(then);
            setPicking(false);
          }}
        />
      )}
      {wrong && <Notice>{wrong.message}</Notice>}
      {day.blades
        .filter((b) => b.trouble)
        .map((b) => (
          <Notice key={b.blade_id}>
            {b.trouble && trouble(b.trouble, b.mark)}{" "}
            <Link to={`/blades/${b.blade_id}/plan`}>To its plan</Link>
            <Button variant="link" onClick={() => takeOff.mutate(b.blade_id)}>
              Take it off
            </Button>
          </Notice>
        ))}
      {day.blades
        .filter((b) => b.untempered && !b.trouble)
        .map((b) => (
          <Notice key={b.blade_id}>
            The plan of {b.mark} has no temper after its quench: it would lie brittle as glass.{" "}
            <Link to={`/blades/${b.blade_id}/plan`}>To its plan</Link>
          </Notice>
        ))}
      {!empty && (
        <>
          <Ails day={day} names={names} />
          {last && day.now_s - last.at_s < 6 * 3600 && (
            <p className={css.news} role="status">
              <span className="num">{clockOn(last.at_s, day.now_s)}</span>{" "}
              {news(last.changes, names, day.now_s, 3)}
            </p>
          )}
          <div className={css.drawn}>
            {view === "week" ? (
              <Week
                day={day}
                names={names}
                blades={blades}
                from_s={midnight}
                onDay={(at) => {
                  setView("day");
                  to(at);
                }}
              />
            ) : here.length === 0 ? (
              <p>Nothing is planned on this day.</p>
            ) : (
              <Timeline
                day={day}
                names={names}
                blades={blades}
                shown={shown}
                chosen={chosen}
                onChoose={setChosen}
                moved={moved}
                onMove={move}
                onPin={pinIt}
              />
            )}
            {view === "day" && bar && (
              <Chosen
                bar={bar}
                day={day}
                names={names}
                name={blades.get(bar.blade)?.name ?? ""}
                start_s={moved.get(keyOf(bar)) ?? bar.start_s}
                onMove={move}
                onPin={pinIt}
                onTakeOff={(id) => takeOff.mutate(id)}
                onTimes={(id, not_before_s, due_s) => times.mutate({ id, not_before_s, due_s })}
              />
            )}
            {view === "day" && !bar && here.length > 0 && (
              <p className="soft">
                Choose a bar to see why it is where it is. Drag it, or Shift and the arrows, to move
                it by five minutes; P pins it. The rest gives way.
              </p>
            )}
            <WhatIf day={day} names={names} />
          </div>
          {day.operators.length > 1 && (
            <div className={`row-of ${css["day-tools"]}`}>
              <Field label="This device is with">
                {(tie) => (
                  <Form.Select
                    {...tie}
                    value={mine ?? ""}
                    onChange={(e) => setWhose(e.target.value || null)}
                  >
                    <option value="">everybody</option>
                    {day.operators.map((o) => (
                      <option key={o.name}>{o.name}</option>
                    ))}
                  </Form.Select>
                )}
              </Field>
            </div>
          )}
          <NextList day={day} names={names} />
        </>
      )}
    </main>
  );
}
