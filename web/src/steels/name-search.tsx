import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Field } from "../fields/field";
import { FoundSteels } from "./find-steel";

/** A name of any standard, and the steels that it fits. Chooses none when it is left. */
export default function NameSearch({ onChoose }: { onChoose: (key?: string) => void }) {
  const [name, setName] = useState("");
  return (
    <div>
      <div className="tool-row">
        <Field label="Its name in any standard">
          {(tie) => (
            <Form.Control
              {...tie}
              type="search"
              maxLength={60}
              autoComplete="off"
              autoFocus
              placeholder="1.2510, SUJ2, 65G …"
              value={name}
              onChange={(e) => setName(e.target.value)}
              onKeyDown={(e) => {
                // Enter looks, it does not send the form around it.
                if (e.key === "Enter") e.preventDefault();
                if (e.key === "Escape") onChoose();
              }}
            />
          )}
        </Field>
        <Button variant="link" onClick={() => onChoose()}>
          Leave it
        </Button>
      </div>
      {name.trim() !== "" && <FoundSteels name={name.trim()} onChoose={onChoose} />}
    </div>
  );
}
