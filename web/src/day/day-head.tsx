import type { ReactNode } from "react";
import { Button } from "react-bootstrap";
import { RadioRow } from "../fields/radio-row";
import css from "./day.module.css";
import { daysLater } from "./lanes";

export type HowMuch = "day" | "week";

const said = (midnight_s: number) =>
  new Date(midnight_s * 1000).toLocaleDateString("en-GB", {
    weekday: "long",
    day: "numeric",
    month: "long",
  });

/** Which day it is, the one before and the one after, and how much is shown. */
export function DayHead(props: {
  midnight: number;
  today: number;
  view: HowMuch;
  onView: (view: HowMuch) => void;
  onDay: (midnight_s: number) => void;
  children?: ReactNode;
}) {
  const { midnight, today, view, onView, onDay, children } = props;
  return (
    <div className="row-of top-line">
      <h1>Day</h1>
      <span className={css.which}>
        <Button
          variant="link"
          aria-label="The day before"
          onClick={() => onDay(daysLater(midnight, -1))}
        >
          ‹
        </Button>
        <b>
          {said(midnight)}
          {midnight === today ? ", today" : ""}
        </b>
        <Button
          variant="link"
          aria-label="The day after"
          onClick={() => onDay(daysLater(midnight, 1))}
        >
          ›
        </Button>
      </span>
      <RadioRow
        label="How much is shown"
        name="day-view"
        options={{ day: "Day", week: "Week" }}
        value={view}
        onChange={onView}
      />
      {children}
    </div>
  );
}
