import { useQuery } from "@tanstack/react-query";
import type { Firing } from "../api/client";
import { queries, useSays, useStations } from "../api/queries";
import { useUnits } from "../quantity/units";
import { inWords, wrongWith } from "../stations/says";

/** The connected fire or oven of the step at hand, and what it did since it was loaded. */
export function useKiln(firing: Firing, now: number) {
  const { show } = useUnits();
  const says = useSays();
  const stations = useStations();
  const { position, confirmed_ms } = firing.state;
  const last = firing.actions[position - 1];
  const next = firing.actions[position];
  const step = firing.steps[(last ?? next)?.step ?? 0];
  const id = step && "station_id" in step ? (step.station_id ?? undefined) : undefined;
  const station = stations.data?.find((s) => s.id === id);
  const said = says.data?.find((s) => s.station_id === id);
  // Loaded, and waiting for heat: the action at hand begins a hold.
  const loadedAt =
    next?.mark === "hold_begins" && last?.step === next.step ? confirmed_ms.at(-1) : undefined;
  const loaded = useQuery({
    ...queries.loaded(id ?? "", loadedAt ?? 0),
    enabled: !!said && !!id && loadedAt !== undefined,
  });
  if (!said || !station) return null;
  const wrong = wrongWith(said, station.kind, now);
  const dip = loaded.data?.lowest_c ?? null;
  const back = wrong ? null : (loaded.data?.back_ms ?? null);
  const time = (ms: number) =>
    new Date(ms).toLocaleTimeString("en-GB", {
      hour: "2-digit",
      minute: "2-digit",
      second: "2-digit",
    });
  const text = wrong
    ? `${station.name}: ${wrong} Go on by hand.`
    : `${station.name} ${inWords(said, station.kind, now, show)}${
        dip === null ? "" : `, fell to ${show("temperature", dip)}`
      }${back === null ? "" : `, back at heat ${time(back)}`}`;
  return { text, wrong: wrong !== null, back };
}
