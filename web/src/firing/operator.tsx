import { useId } from "react";
import { Form } from "react-bootstrap";
import { useOperators } from "../api/queries";
import { Field } from "../fields/field";

/** The one who quenched last on this device. */
const LAST = "vatten.operator";

/** Who will quench, until somebody says otherwise: the last one here, or the one signed in. */
export const usualOperator = (person: string) => localStorage.getItem(LAST) ?? person;

export const keepOperator = (name: string) => localStorage.setItem(LAST, name);

/** Who quenches: a name, with those of the shop to choose from. */
export function OperatorInput(props: { value: string; onChange: (name: string) => void }) {
  const id = useId();
  const operators = useOperators();
  return (
    <>
      <Field label="Who quenches">
        {(tie) => (
          <Form.Control
            {...tie}
            list={`${id}-known`}
            value={props.value}
            maxLength={40}
            autoComplete="off"
            onChange={(e) => props.onChange(e.target.value)}
          />
        )}
      </Field>
      <datalist id={`${id}-known`}>
        {(operators.data ?? []).map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
    </>
  );
}
