import { useId } from "react";
import { useHands } from "../api/queries";

/** The one who quenched last on this device. */
const LAST = "vatten.hand";

/** Who will quench, until somebody says otherwise: the last one here, or the one signed in. */
export const usualHand = (person: string) => localStorage.getItem(LAST) ?? person;

export const keepHand = (name: string) => localStorage.setItem(LAST, name);

/** Who quenches: a name, with those of the shop to choose from. */
export function HandInput(props: { value: string; onChange: (name: string) => void }) {
  const id = useId();
  const hands = useHands();
  return (
    <div className="field">
      <label htmlFor={id}>Who quenches</label>
      <input
        className="form-control"
        id={id}
        list={`${id}-known`}
        value={props.value}
        maxLength={40}
        autoComplete="off"
        onChange={(e) => props.onChange(e.target.value)}
      />
      <datalist id={`${id}-known`}>
        {(hands.data ?? []).map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
    </div>
  );
}
