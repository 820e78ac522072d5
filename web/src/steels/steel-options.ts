import { useSteels } from "../api/queries";

/** Options of a steel list: the shop's own last. */
export function useSteelOptions(): Record<string, string> {
  const steels = useSteels();
  return Object.fromEntries(
    (steels.data ?? []).map((s) => [s.key, s.house ? `${s.name} (own)` : s.name]),
  );
}
