import { useSyncExternalStore } from "react";

const KEY = "vatten.keys";
const listeners = new Set<() => void>();

/** Whether single keys do something by themselves on this device: U, and Space at the fire. */
export const keysOn = () => localStorage.getItem(KEY) !== "off";

/** Switches single keys on or off on this device. */
export function setKeysOn(on: boolean) {
  if (on) localStorage.removeItem(KEY);
  else localStorage.setItem(KEY, "off");
  for (const listener of listeners) listener();
}

function subscribe(listener: () => void) {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

export const useKeysOn = () => useSyncExternalStore(subscribe, keysOn);

/** True while the key press belongs to something being typed. */
export function typing(event: KeyboardEvent | React.KeyboardEvent): boolean {
  const at = event.target as HTMLElement | null;
  return !!at?.closest("input, textarea, select, [contenteditable]");
}

/** The key of a press that stands for itself: in lower case, and null while it means something else. */
export function singleKey(event: KeyboardEvent): string | null {
  if (!keysOn() || typing(event)) return null;
  return event.ctrlKey || event.metaKey || event.altKey ? null : event.key.toLowerCase();
}
