import { useState } from "react";
import { Button } from "react-bootstrap";
import { v7 as uuid } from "uuid";
import { problemOf } from "../api/client";
import { useBars, useSteels } from "../api/queries";
import { useUnits } from "../quantity/units";
import { CONDITIONS, EMPTY, type Written, written } from "./bar-draft";
import { BarForm } from "./bar-form";
import { Side } from "./side";
import css from "./steels.module.css";

/** The bars in stock. */
export function BarsPage() {
  const { show } = useUnits();
  const bars = useBars();
  const steels = useSteels();
  const [open, setOpen] = useState<Written | null>(null);
  const nameOf = (key: string) => steels.data?.find((s) => s.key === key)?.name ?? key;
  const all = bars.data ?? [];
  return (
    <div className="with-rack">
      <Side />
      <main className={`main ${css["page-in"]}`}>
        <header className="head">
          <h1>Bars in stock</h1>
          {!open && (
            <Button variant="outline-primary" onClick={() => setOpen({ id: uuid(), ...EMPTY })}>
              Bring in a bar
            </Button>
          )}
        </header>
        {open && <BarForm key={open.id} first={open} onDone={() => setOpen(null)} />}
        {bars.error && <p className="notice">{problemOf(bars.error)}</p>}
        {bars.data && all.length === 0 && !open && (
          <p>
            Nothing in stock yet. Bring in a bar: blades made from it know its analysis, how it
            came, and what its layers bear.
          </p>
        )}
        <ul className={css.bars}>
          {all.map((b) => (
            <li key={b.id} className={b.size.left_mm === 0 ? css.used : ""}>
              <button type="button" className="why" onClick={() => setOpen(written(b))}>
                {b.name}
              </button>
              <span>
                {b.layers.length > 0
                  ? b.layers.map((l) => `${nameOf(l.steel)} (${l.role})`).join(" + ")
                  : nameOf(b.steel)}
              </span>
              <span className="num">
                {show("length", b.size.width_mm)} × {show("length", b.size.thickness_mm)}
              </span>
              <span className={css["left-bar"]} aria-hidden="true">
                <i style={{ width: `${(100 * b.size.left_mm) / b.size.length_mm}%` }} />
              </span>
              <span className="num">
                {b.size.left_mm === 0 ? "used up" : `${show("length", b.size.left_mm)} left`}
              </span>
              <span className="soft">
                {CONDITIONS[b.condition]}
                {b.analysis ? ", mill analysis" : ""}
                {b.blades > 0 ? ` · ${b.blades} ${b.blades === 1 ? "blade" : "blades"}` : ""}
              </span>
            </li>
          ))}
        </ul>
      </main>
    </div>
  );
}
