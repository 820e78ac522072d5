import type { ReactNode } from "react";
import css from "./fields.module.css";

/** One of a few, side by side; walked with the arrow keys like any radio group. */
export function RadioRow<T extends string>(props: {
  /** What is chosen, for the ear. */
  label: string;
  name: string;
  options: Record<T, string>;
  value: T;
  onChange: (value: T) => void;
  /** Stands behind them. */
  children?: ReactNode;
}) {
  const { label, name, options, value, onChange, children } = props;
  return (
    <div className={css.views} role="radiogroup" aria-label={label}>
      {(Object.keys(options) as T[]).map((v) => (
        <label key={v} className={v === value ? "on" : ""}>
          <input
            type="radio"
            name={name}
            className="visually-hidden"
            checked={v === value}
            onChange={() => onChange(v)}
          />
          {options[v]}
        </label>
      ))}
      {children}
    </div>
  );
}
