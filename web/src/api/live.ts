import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { syncClock } from "./clock";
import { COMPUTED, queries } from "./queries";

/** What has to be read anew when something of this kind changed. */
export function touched(noun: string, id: string, blade: string | null | undefined): string[][] {
  // What is computed from all records of the shop.
  const computed = COMPUTED.map((name) => [name]);
  const ofBlade = (...names: string[]) => (blade ? names.map((name) => [name, blade]) : []);
  switch (noun) {
    case "firing":
      return [
        ["firing", id],
        ["in-fire"],
        ["blades"],
        ["day"],
        ["operators"],
        ["lessons"],
        ...ofBlade("blade", "firings", "story"),
      ];
    case "reading":
      return [
        ["blades"],
        ...computed,
        ...ofBlade("blade", "firings", "readings", "diagnosis", "story"),
      ];
    case "finding":
      return [
        ["blades"],
        ...computed,
        ...ofBlade("blade", "firings", "findings", "diagnosis", "story"),
      ];
    case "day":
      return [["day"]];
    case "plan":
      return [["blades"], ["day"], ...ofBlade("blade", "plan")];
    case "photo":
    case "trace":
      return ofBlade(`${noun}s`, "story", "diagnosis");
    case "ladder":
      return [["ladders"], ...computed];
    case "blade":
      return [["blades"], ["bars"], ["blade", id], ["edits", id]];
    case "tester_value":
      return [["tester-values"]];
    case "station":
      // How much a tank holds, and what is checked where, is part of what is predicted.
      return [["stations"], ["now"], ["day"], ...computed];
    case "calibration":
      return [["calibrations"], ["now"], ...computed];
    case "station_now":
      return [["now"]];
    default:
      return [];
  }
}

/** Reads anew what a change made here, or told of by the server, touches. */
export function changed(client: QueryClient, noun: string, id: string, blade?: string | null) {
  for (const queryKey of touched(noun, id, blade)) client.invalidateQueries({ queryKey });
}

function hear(client: QueryClient, message: MessageEvent<string>) {
  const told = JSON.parse(message.data) as { noun: string; id: string; blade_id?: string | null };
  changed(client, told.noun, told.id, told.blade_id);
}

const gapListeners = new Set<() => void>();

/** Calls `listener` whenever the server is heard again after it was not; gives back how to stop that. */
export function onGap(listener: () => void) {
  gapListeners.add(listener);
  return () => {
    gapListeners.delete(listener);
  };
}

/** Listens to the server while somebody is signed in; comes back by itself when it was gone. */
export function useLive() {
  const client = useQueryClient();
  useEffect(() => {
    if (!("EventSource" in window)) return;
    let source: EventSource | undefined;
    const open = () => {
      source = new EventSource("/api/v1/live");
      source.addEventListener("changed", (message) => hear(client, message));
      source.addEventListener("gap", () => {
        syncClock().catch(() => undefined);
        for (const listener of gapListeners) listener();
        client.invalidateQueries();
      });
    };
    // A page that is put by for going back to must not hold one of the browser's few connections.
    const close = () => source?.close();
    const back = (event: PageTransitionEvent) => {
      if (event.persisted) open();
    };
    // The browser comes back after a lost connection, but not after an answer that was no stream.
    const again = setInterval(() => {
      if (source?.readyState === EventSource.CLOSED) {
        client.invalidateQueries({ queryKey: queries.session.queryKey });
        open();
      }
    }, 10_000);
    open();
    window.addEventListener("pagehide", close);
    window.addEventListener("pageshow", back);
    return () => {
      clearInterval(again);
      close();
      window.removeEventListener("pagehide", close);
      window.removeEventListener("pageshow", back);
    };
  }, [client]);
}

/** Keeps what is on the screen as new as the server's; shows nothing. */
export function Live() {
  useLive();
  return null;
}
