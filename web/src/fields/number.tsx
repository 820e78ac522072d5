import { useState } from "react";
import { Form } from "react-bootstrap";
import { Field } from "./field";

/** A plain number, with a point or a comma; nothing where the field is empty. */
export function NumberField(props: {
  label: string;
  value: number | null;
  onChange: (value: number | null) => void;
  error?: string;
}) {
  const [text, setText] = useState(props.value === null ? "" : String(props.value));
  const read = (written: string) => Number(written.trim().replace(",", "."));
  const wrong = text.trim() !== "" && !Number.isFinite(read(text));
  return (
    <Field label={props.label} error={wrong ? "That is no number." : props.error}>
      {(tie) => (
        <Form.Control
          {...tie}
          inputMode="decimal"
          value={text}
          onChange={(e) => {
            const written = e.target.value;
            setText(written);
            if (written.trim() === "") props.onChange(null);
            else if (Number.isFinite(read(written))) props.onChange(read(written));
          }}
        />
      )}
    </Field>
  );
}
