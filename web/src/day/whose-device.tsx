import { Form } from "react-bootstrap";
import type { DayView } from "../api/client";
import { Field } from "../fields/field";
import { setWhose, useWhose } from "../firing/whose";
import css from "./day.module.css";

/** Who of several people this device is with: their own come first, and ring. */
export function WhoseDevice({ day }: { day: DayView }) {
  const mine = useWhose();
  if (day.operators.length < 2) return null;
  return (
    <div className={`row-of ${css["day-tools"]}`}>
      <Field label="This device is with">
        {(tie) => (
          <Form.Select
            {...tie}
            value={mine ?? ""}
            onChange={(e) => setWhose(e.target.value || null)}
          >
            <option value="">everybody</option>
            {day.operators.map((o) => (
              <option key={o.name}>{o.name}</option>
            ))}
          </Form.Select>
        )}
      </Field>
    </div>
  );
}
