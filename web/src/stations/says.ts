import type { Station, StationBody, StationKind, StationSays } from "../api/client";
import type { Kind } from "../quantity/parse";

/** A station as it is, to be saved with something changed. */
export const bodyOf = (station: Station): StationBody => ({
  kind: station.kind,
  name: station.name,
  medium: station.medium,
  litres: station.litres,
  filled_at: station.filled_at,
  note: station.note,
  device: station.device,
  capacity: station.capacity,
  retired: !!station.retired_at,
  version: station.version,
});

/** A connected station that said nothing for this long is silent, ms. A tester speaks only when used. */
export const SILENT_MS = 20_000;

/** What is wrong with a connected station, in a sentence; null while it is heard. */
export function wrongWith(says: StationSays, kind: StationKind, now: number): string | null {
  if (says.trouble) return says.trouble;
  if (kind === "tester") return null;
  if (!says.at) return "Nothing was heard of it yet.";
  const quiet = now - Date.parse(says.at);
  return quiet > SILENT_MS ? `Silent for ${Math.round(quiet / 1000)} s.` : null;
}

/** What a connected station says, in a few words. */
export function inWords(
  says: StationSays,
  kind: StationKind,
  now: number,
  show: (kind: Kind, value: number) => string,
): string {
  const wrong = wrongWith(says, kind, now);
  if (wrong) return wrong;
  if (says.value === null || says.value === undefined) return "there";
  if (kind === "tester") return `last ${says.value.toFixed(1)} HRC`;
  const shown = show("temperature", says.value);
  const set = says.set_value ?? null;
  return set === null ? shown : `${shown} of ${show("temperature", set)}`;
}
