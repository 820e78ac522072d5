import { Form } from "react-bootstrap";
import { capital } from "../words/names";
import { Field } from "./field";
import { Options } from "./options";

/** The names of options as they are shown. */
export function named(choice: { options: Record<string, string>; asIs?: boolean }) {
  if (choice.asIs) return choice.options;
  const names = Object.entries(choice.options);
  return Object.fromEntries(names.map(([id, name]) => [id, capital(name)]));
}

/** One of a list. */
export function Choice(props: {
  label: string;
  value: string;
  options: Record<string, string>;
  onChange: (value: string) => void;
  error?: string;
  placeholder?: string;
  /** The names are units or proper names: not to be capitalized. */
  asIs?: boolean;
}) {
  return (
    <Field label={props.label} error={props.error}>
      {(tie) => (
        <Form.Select {...tie} value={props.value} onChange={(e) => props.onChange(e.target.value)}>
          <Options of={named(props)} placeholder={props.placeholder} />
        </Form.Select>
      )}
    </Field>
  );
}
