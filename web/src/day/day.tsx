import { useEffect, useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import { Link, useNavigate, useParams } from "react-router";
import type { Blade, DayView } from "../api/client";
import { useDay, useRack } from "../api/queries";
import { Notice } from "../fields/notice";
import { type DayNames, dayNames } from "../words/day";
import { Chosen } from "./chosen";
import css from "./day.module.css";
import { DayHead, type HowMuch } from "./day-head";
import { dayOf, daysLater, overlaps, windowOf } from "./lanes";
import { WhatIf } from "./mending";
import { NextList } from "./next-list";
import { dateOf, Pick } from "./pick";
import { keyOf, Timeline } from "./timeline";
import { Told } from "./told";
import { useDayChanges } from "./use-day";
import { Week } from "./week";
import { WhoseDevice } from "./whose-device";

/** One day drawn, and the bar that is chosen on it. */
function Drawn(props: {
  day: DayView;
  names: DayNames;
  blades: Map<string, Blade>;
  midnight: number;
  changes: ReturnType<typeof useDayChanges>;
}) {
  const { day, names, blades, midnight, changes } = props;
  const [chosen, setChosen] = useState<string | null>(null);
  const { moved, move, pinOrLetGo, takeOff, times } = changes;
  const whole = { from_s: midnight, to_s: daysLater(midnight, 1) };
  if (!day.bars.some((b) => overlaps(b, whole))) return <p>Nothing is planned on this day.</p>;
  const bar = day.bars.find((b) => keyOf(b) === chosen);
  return (
    <>
      <Timeline
        day={day}
        names={names}
        blades={blades}
        shown={windowOf(day, midnight)}
        chosen={chosen}
        onChoose={setChosen}
        moved={moved}
        onMove={move}
        onPin={pinOrLetGo}
      />
      {bar ? (
        <Chosen
          bar={bar}
          day={day}
          names={names}
          name={blades.get(bar.blade)?.name ?? ""}
          start_s={moved.get(keyOf(bar)) ?? bar.start_s}
          onMove={move}
          onPin={pinOrLetGo}
          onTakeOff={(id) => takeOff.mutate(id)}
          onTimes={(id, not_before_s, due_s) => times.mutate({ id, not_before_s, due_s })}
        />
      ) : (
        <p className="soft">
          Choose a bar to see why it is where it is. Drag it, or Shift and the arrows, to move it by
          five minutes; P pins it. The rest gives way.
        </p>
      )}
    </>
  );
}

/** The days to come: several blades, few stations, one or two pairs of hands. */
export function DayPage() {
  const { date } = useParams();
  const go = useNavigate();
  const { data: day, error } = useDay();
  const rack = useRack();
  const blades = useMemo(() => new Map((rack.data ?? []).map((b) => [b.id, b])), [rack.data]);
  const [picking, setPicking] = useState(false);
  const [view, setView] = useState<HowMuch>("day");
  const changes = useDayChanges();
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
  const empty = day.blades.length === 0;
  const to = (at_s: number) => go(`/day/${dateOf(new Date(at_s * 1000))}`);
  const { anew, takeOff } = changes;
  return (
    <main className={`page ${css.day}`}>
      <DayHead midnight={midnight} today={today} view={view} onView={setView} onDay={to}>
        {!empty && (
          <span className={css["day-tools"]}>
            <Button variant="link" disabled={anew.isPending} onClick={() => anew.mutate()}>
              Lay anew
            </Button>
            <Button variant="link" onClick={() => window.print()}>
              Print the day
            </Button>
            <Link to="/shop#hours">Hours and calendar</Link>
            <Button
              variant="outline-primary"
              aria-expanded={picking}
              onClick={() => setPicking(!picking)}
            >
              {picking ? "Not now" : "Pick blades"}
            </Button>
          </span>
        )}
      </DayHead>
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
            changes.taken(then);
            setPicking(false);
          }}
        />
      )}
      {changes.wrong && <Notice>{changes.wrong.message}</Notice>}
      {!empty && (
        <>
          <Told day={day} names={names} onTakeOff={(id) => takeOff.mutate(id)} />
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
            ) : (
              <Drawn
                day={day}
                names={names}
                blades={blades}
                midnight={midnight}
                changes={changes}
              />
            )}
            <WhatIf day={day} names={names} />
          </div>
          <WhoseDevice day={day} />
          <NextList day={day} names={names} midnight={midnight} />
        </>
      )}
    </main>
  );
}
