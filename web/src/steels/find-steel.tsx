import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { KeyboardEvent } from "react";
import { Form } from "react-bootstrap";
import type { Designation, FoundSteel } from "../api/client";
import { queries } from "../api/queries";
import { Field } from "../fields/field";
import css from "./steels.module.css";

/** By what a steel was found; its own page says whose name that is. */
function foundBy({ by, house }: FoundSteel): string {
  if (!by) return house ? "your own" : "";
  return by.match === "near" ? `near ${by.designation}` : by.designation;
}

/** Where a steel's name of any standard is written. */
export function SteelNameField(props: {
  label: string;
  value: string;
  onChange: (name: string) => void;
  className?: string;
  autoFocus?: boolean;
  onKeyDown?: (e: KeyboardEvent) => void;
}) {
  const { label, value, onChange, className, ...rest } = props;
  return (
    <Field label={label} className={className}>
      {(tie) => (
        <Form.Control
          {...tie}
          {...rest}
          type="search"
          maxLength={60}
          autoComplete="off"
          placeholder="1.2510, SUJ2, 65G …"
          value={value}
          onChange={(e) => onChange(e.target.value)}
        />
      )}
    </Field>
  );
}

/** The steels that a name fits, whatever standard it is of. */
export function FoundSteels(props: {
  name: string;
  chosen?: string;
  onChoose: (key: string) => void;
}) {
  const found = useQuery({
    ...queries.foundSteels(props.name),
    placeholderData: keepPreviousData,
  });
  const all = found.data ?? [];
  return (
    <div className={css.found}>
      <p className="soft" role="status">
        {found.data && (all.length === 0 ? "No steel is called so." : `${all.length} found`)}
      </p>
      {all.map((s) => (
        <button
          type="button"
          key={s.key}
          className={s.key === props.chosen ? "on" : ""}
          aria-current={s.key === props.chosen}
          onClick={() => props.onChoose(s.key)}
        >
          <b>{s.name}</b> <span className="soft">{foundBy(s)}</span>
        </button>
      ))}
    </div>
  );
}

/** What a steel is called in other standards. */
export function Designations({ all }: { all: Designation[] }) {
  const same = all.filter((d) => d.match === "exact");
  const near = all.filter((d) => d.match === "near");
  const list = (those: Designation[]) =>
    those.map((d) => `${d.designation} (${d.standard})`).join(", ");
  if (all.length === 0) return null;
  return (
    <p className="fine soft">
      {same.length > 0 && `Also called ${list(same)}. `}
      {near.length > 0 && `Near it: ${list(near)}.`}
    </p>
  );
}
