import { Form } from "react-bootstrap";
import { capital } from "../words/names";
import { Field } from "./field";

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
          {props.placeholder && <option value="">{props.placeholder}</option>}
          {Object.entries(props.options).map(([key, name]) => (
            <option key={key} value={key}>
              {props.asIs ? name : capital(name)}
            </option>
          ))}
        </Form.Select>
      )}
    </Field>
  );
}
