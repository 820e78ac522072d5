import type { ReactNode } from "react";
import { ToggleButton, ToggleButtonGroup } from "react-bootstrap";
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
    <div className={css.views}>
      <ToggleButtonGroup
        type="radio"
        role="radiogroup"
        aria-label={label}
        name={name}
        value={value}
        onChange={onChange}
      >
        {(Object.keys(options) as T[]).map((v) => (
          <ToggleButton key={v} id={`${name}-${v}`} value={v} variant="">
            {options[v]}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      {children}
    </div>
  );
}
