import { useEffect, useId, useRef, useState } from "react";
import { Form } from "react-bootstrap";
import type { Kind } from "./parse";
import { nudged, parse } from "./parse";
import { useUnits } from "./units";

interface Props {
  label: string;
  kind: Kind;
  value: number | null;
  /** Smallest and largest allowed value, in the API's unit. */
  range: [number, number];
  onChange: (value: number) => void;
  /** What the server said of it. */
  error?: string;
  disabled?: boolean;
  hideLabel?: boolean;
}

/** One input for every quantity: reads what people write, shows it in the user's unit. */
export function QuantityInput(props: Props) {
  const { label, kind, value, range, onChange, error, disabled, hideLabel } = props;
  const { units, show } = useUnits();
  const id = useId();
  const shown = value === null ? "" : show(kind, value);
  const [text, setText] = useState(shown);
  const [wrong, setWrong] = useState<string | null>(null);
  const editing = useRef(false);
  useEffect(() => {
    if (!editing.current) {
      setText(shown);
      setWrong(null);
    }
  }, [shown]);

  const accept = (written: string) => {
    if (written.trim() === shown) {
      setWrong(null);
      return;
    }
    const read = parse(kind, written, units);
    if (read === null) {
      setWrong(`“${written}” cannot be read. Try ${show(kind, value ?? range[0])}.`);
    } else if (read < range[0] - 1e-9 || read > range[1] + 1e-9) {
      setWrong(`Allowed: ${show(kind, range[0])} to ${show(kind, range[1])}.`);
    } else {
      setWrong(null);
      onChange(read);
      setText(show(kind, read));
    }
  };
  const message = wrong ?? error;
  return (
    <Form.Group controlId={id} className="field">
      <Form.Label visuallyHidden={hideLabel}>{label}</Form.Label>
      <Form.Control
        className="num"
        value={text}
        disabled={disabled}
        isInvalid={!!message}
        aria-describedby={message ? `${id}-wrong` : undefined}
        autoComplete="off"
        onFocus={(e) => {
          editing.current = true;
          e.target.select();
        }}
        onChange={(e) => setText(e.target.value)}
        onBlur={(e) => {
          editing.current = false;
          accept(e.target.value);
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") {
            accept(text);
          } else if ((e.key === "ArrowUp" || e.key === "ArrowDown") && value !== null) {
            e.preventDefault();
            e.stopPropagation();
            const way = e.key === "ArrowUp" ? 1 : -1;
            const next = nudged(kind, value, way, e.shiftKey, units);
            if (next >= range[0] && next <= range[1]) {
              onChange(next);
              setText(show(kind, next));
              setWrong(null);
            }
          }
        }}
      />
      {message && (
        <div className="wrong" id={`${id}-wrong`}>
          {message}
        </div>
      )}
    </Form.Group>
  );
}
