import { useState } from "react";
import { QuantityInput } from "../quantity/quantity-input";

/** What really was, where it differs from the plan. */
export function SayForm(props: {
  title: string;
  onSay: (said: { temperature_c?: number; lasted_s?: number; note?: string }) => void;
  onCancel: () => void;
}) {
  const [temperature, setTemperature] = useState<number | null>(null);
  const [lasted, setLasted] = useState<number | null>(null);
  const [note, setNote] = useState("");
  const nothing = temperature === null && lasted === null && note.trim() === "";
  return (
    <form
      className="say"
      onSubmit={(e) => {
        e.preventDefault();
        if (nothing) return;
        props.onSay({
          temperature_c: temperature ?? undefined,
          lasted_s: lasted ?? undefined,
          note,
        });
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
