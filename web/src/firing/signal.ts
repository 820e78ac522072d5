import { useEffect, useRef } from "react";
import { chime } from "./wake";

/** Sounds once when each of these moments (ms) comes; not for what was over before it was looked at. */
export function useSignals(now: number, moments: (number | null | undefined)[]) {
  const rung = useRef(new Set<number>());
  useEffect(() => {
    for (const due of moments) {
      if (due && now >= due && now < due + 3_000 && !rung.current.has(due)) {
        rung.current.add(due);
        chime();
      }
    }
  }, [now, moments]);
}
