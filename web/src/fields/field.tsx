import { type ReactNode, useId } from "react";
import { Form } from "react-bootstrap";

/** What ties an input to what is said of it. */
export interface Tie {
  isInvalid: boolean;
  "aria-describedby": string | undefined;
}

/** A label over an input, and under it what is wrong with it: tied, so that it is also heard. */
export function Field(props: {
  label: string;
  error?: string;
  hideLabel?: boolean;
  /** Where something else has to know it. */
  id?: string;
  className?: string;
  children: (tie: Tie) => ReactNode;
}) {
  const { label, error, hideLabel, className = "field" } = props;
  const own = useId();
  const id = props.id ?? own;
  const wrong = `${id}-wrong`;
  return (
    <Form.Group controlId={id} className={className}>
      <Form.Label visuallyHidden={hideLabel}>{label}</Form.Label>
      {props.children({ isInvalid: !!error, "aria-describedby": error ? wrong : undefined })}
      {error && (
        <Form.Control.Feedback type="invalid" className="wrong" id={wrong}>
          {error}
        </Form.Control.Feedback>
      )}
    </Form.Group>
  );
}
