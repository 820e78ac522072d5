import { Form } from "react-bootstrap";
import { Field } from "./field";

/** A line of text. */
export function Text(props: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  error?: string;
  max: number;
}) {
  return (
    <Field label={props.label} error={props.error}>
      {(tie) => (
        <Form.Control
          {...tie}
          value={props.value}
          maxLength={props.max}
          onChange={(e) => props.onChange(e.target.value)}
        />
      )}
    </Field>
  );
}
