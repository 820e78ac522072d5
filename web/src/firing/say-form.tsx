import { useState } from "react";
import { QuantityInput } from "../quantity/quantity-input";
import { HandInput } from "./hand";

/** What really was, where it differs from the plan. */
export interface Said {
  temperature_c?: number;
  lasted_s?: number;
  note?: string;
}

/** Asks what really was, and who quenches. */
export function SayForm(props: {
  title: string;
  hand: string;
  /** `hand` only where it changed, `said` only where something was said. */
  onSay: (said: Said | null, hand: string | null) => void;
  onCancel: () => void;
}) {
  const [temperature, setTemperature] = useState<number | null>(null);
  const [lasted, setLasted] = useState<number | null>(null);
  const [note, setNote] = useState("");
  const [hand, setHand] = useState(props.hand);
  const quiet = temperature === null && lasted === null && note.trim() === "";
  const other = hand.trim() !== "" && hand.trim() !== props.hand;
  const nothing = quiet && !other;
  return (
    <form
      className="say"
      onSubmit={(e) => {
        e.preventDefault();
        if (nothing) return;
        const said = {
          temperature_c: temperature ?? undefined,
          lasted_s: lasted ?? undefined,
          note,
        };
        props.onSay(quiet ? null : said, other ? hand.trim() : null);
      }}
    >
      <p>Planned: {props.title}. What really was:</p>
      <QuantityInput
        label="Temperature"
        kind="temperature"
        value={temperature}
        range={[-200, 1300]}
        onChange={setTemperature}
      />
      <QuantityInput
        label="Lasted"
        kind="time"
        value={lasted}
        range={[0, 604_800]}
        onChange={setLasted}
      />
      <HandInput value={hand} onChange={setHand} />
      <label className="field wide">
        Remark
        <input
          className="form-control"
          value={note}
          maxLength={500}
          onChange={(e) => setNote(e.target.value)}
        />
      </label>
      <div className="alt">
        <button type="submit" disabled={nothing}>
          Keep it
        </button>
        <button type="button" onClick={props.onCancel}>
          Never mind
        </button>
      </div>
    </form>
  );
}
