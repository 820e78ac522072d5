import { Form } from "react-bootstrap";
import { Field } from "../fields/field";
import { ELEMENTS } from "./analysis";

/** An analysis in percent, element by element; `input` gives what ties each field to its form. */
export function ElementFields(props: {
  /** Tells these fields from others on the page. */
  id: string;
  error: (symbol: string) => string | undefined;
  input: (symbol: string) => object;
}) {
  return ELEMENTS.map(([symbol]) => (
    <Field
      key={symbol}
      id={`${props.id}-${symbol}`}
      label={`${symbol} %`}
      className="field element"
      error={props.error(symbol)}
    >
      {(tie) => (
        <Form.Control className="num" inputMode="decimal" {...tie} {...props.input(symbol)} />
      )}
    </Field>
  ));
}
