import { useState } from "react";
import { Button } from "react-bootstrap";
import { FoundSteels, SteelNameField } from "./find-steel";

/** A name of any standard, and the steels that it fits. Chooses none when it is left. */
export default function NameSearch({ onChoose }: { onChoose: (key?: string) => void }) {
  const [name, setName] = useState("");
  return (
    <div>
      <div className="tool-row">
        <SteelNameField
          label="Its name in any standard"
          value={name}
          onChange={setName}
          autoFocus
          onKeyDown={(e) => {
            // Enter looks, it does not send the form around it.
            if (e.key === "Enter") e.preventDefault();
            if (e.key === "Escape") onChoose();
          }}
        />
        <Button variant="link" onClick={() => onChoose()}>
          Leave it
        </Button>
      </div>
      {name.trim() !== "" && <FoundSteels name={name.trim()} onChoose={onChoose} />}
    </div>
  );
}
