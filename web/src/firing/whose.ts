import { useSyncExternalStore } from "react";

const KEY = "vatten.whose";
const listeners = new Set<() => void>();

/** Whose device this is: who of the day works with it; nobody said when null. */
export const whose = () => localStorage.getItem(KEY);

/** Says whose device this is. */
export function setWhose(name: string | null) {
  if (name) localStorage.setItem(KEY, name);
  else localStorage.removeItem(KEY);
  for (const listener of listeners) listener();
}

function subscribe(listener: () => void) {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

export const useWhose = () => useSyncExternalStore(subscribe, whose);
