import { useState } from "react";
import type { Firing } from "../api/client";
import css from "./firing.module.css";

export type Ending = "abandoned" | "mistake";

const ASKED: Record<Ending, { word: string; asks: string; yes: string }> = {
  abandoned: {
    word: "Abandon the firing",
    asks: "What was pressed counts as done, what was not pressed does not. The blade stays as it is; plan the rest anew.",
    yes: "Yes, abandon it",
  },
  mistake: {
    word: "Begun by mistake",
    asks: "Nothing was done to the blade: it is planned as before, and nothing is learned from this.",
    yes: "Yes, it was a mistake",
  },
};

/** Ends a firing that does not go on, once that was asked. */
export function StopHere({ firing, onEnd }: { firing: Firing; onEnd: (end: Ending) => void }) {
  const [asked, setAsked] = useState<Ending | null>(null);
  if (firing.closed_at) return null;
  if (asked) {
    return (
      <div className={`${css.caut} ${css.strong}`} role="alert">
        {ASKED[asked].asks}
        {asked === "abandoned" && firing.state.untempered_since_ms
          ? " It is hard and untempered: brittle as glass."
          : ""}
        <div className={css.alt}>
          <button type="button" onClick={() => onEnd(asked)}>
            {ASKED[asked].yes}
          </button>
          <button type="button" onClick={() => setAsked(null)}>
            No
          </button>
        </div>
      </div>
    );
  }
  const endings: Ending[] = firing.state.quenched ? ["abandoned"] : ["abandoned", "mistake"];
  return (
    <div className={css.alt}>
      {endings.map((end) => (
        <button key={end} type="button" onClick={() => setAsked(end)}>
          {ASKED[end].word}
        </button>
      ))}
    </div>
  );
}
