import { useQuery } from "@tanstack/react-query";
import { useSyncExternalStore } from "react";
import { api, type Firing, take, unreachable } from "../api/client";
import type { Entry } from "./device";
import { fold } from "./fold";
import { journal } from "./journal";

/** What waits on this device, and whether the server is gone. */
export const useWaiting = () => useSyncExternalStore(journal.subscribe, journal.snapshot);

/** The firings kept on this device: shown until the server answers, and while it does not. */
function useKept(): Firing[] | undefined {
  const kept = useQuery({
    queryKey: ["kept"],
    queryFn: () => journal.kept().catch(() => []),
    networkMode: "always",
  });
  return kept.data;
}

/** The firing, from the server or from this device, with what waits to be sent. */
export function useFiring(id: string) {
  const query = useQuery({
    queryKey: ["firing", id],
    queryFn: async () => {
      try {
        const said = await take(api.GET("/api/v1/firings/{id}", { params: { path: { id } } }));
        const firing = journal.newest(said);
        await journal.keep(firing).catch(() => undefined);
        journal.reached(true);
        return firing;
      } catch (error) {
        if (unreachable(error)) journal.reached(false);
        throw error;
      }
    },
    refetchInterval: 15_000,
    retry: false,
    networkMode: "always",
  });
  const { entries } = useWaiting();
  const kept = useKept()?.find((f) => f.id === id);
  const firing = query.data ?? (query.error && !unreachable(query.error) ? undefined : kept);
  return {
    error: firing ? null : query.error,
    firing: firing && withWaiting(firing, entries),
  };
}

function withWaiting(firing: Firing, entries: readonly Entry[]): Firing {
  const events = entries.filter((e) => e.firing === firing.id && !e.refused).map((e) => e.body);
  return events.length > 0 ? fold(firing, events) : firing;
}

/** Every firing going on, from the server or from this device, with what waits to be sent. */
export function useInFire(): Firing[] {
  const query = useQuery({
    queryKey: ["in-fire"],
    queryFn: async () => {
      const all = await take(api.GET("/api/v1/firings"));
      const newest = all.map((firing) => journal.newest(firing));
      for (const firing of newest) await journal.keep(firing).catch(() => undefined);
      return newest;
    },
    refetchInterval: 15_000,
    retry: false,
    networkMode: "always",
  });
  const { entries } = useWaiting();
  const kept = useKept();
  const all = query.data ?? kept ?? [];
  return all.map((f) => withWaiting(f, entries)).filter((f) => !f.closed_at);
}
