import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import { ApiError, api, type Firing, take } from "../api/client";
import { fold } from "./fold";
import { type Entry, journal } from "./journal";

/** Starts the journal for the shop that is signed in, and hands on what the server answers. */
export function useJournal(workshop: string | undefined) {
  const client = useQueryClient();
  useEffect(() => {
    if (!workshop) return;
    journal.onFiring = (firing) => {
      client.setQueryData(["firing", firing.id], firing);
      client.setQueryData<Firing[]>(["in-fire"], (all) =>
        all?.map((f) => (f.id === firing.id ? firing : f)),
      );
      for (const name of ["in-fire", "blades"]) client.invalidateQueries({ queryKey: [name] });
      for (const name of ["blade", "firings", "story"]) {
        client.invalidateQueries({ queryKey: [name, firing.blade_id] });
      }
    };
    journal.begin(workshop).catch(() => undefined);
    return () => {
      journal.end();
    };
  }, [client, workshop]);
}

/** What waits on this device, and whether the server is gone. */
export const useWaiting = () => useSyncExternalStore(journal.subscribe, journal.snapshot);

const gone = (error: unknown) => error instanceof ApiError && error.problem.status === 0;

/** The firing, from the server or from this device, with what waits to be sent. */
export function useFiring(id: string) {
  const query = useQuery({
    queryKey: ["firing", id],
    queryFn: async () => {
      try {
        const said = await take(api.GET("/api/v1/firings/{id}", { params: { path: { id } } }));
        const firing = journal.newest(said);
        await journal.keep(firing);
        journal.reached(true);
        return firing;
      } catch (error) {
        if (gone(error)) journal.reached(false);
        const kept = gone(error) && (await journal.kept()).find((f) => f.id === id);
        if (kept) return kept;
        throw error;
      }
    },
    refetchInterval: 15_000,
    networkMode: "always",
  });
  const { entries } = useWaiting();
  return { error: query.error, firing: query.data && withWaiting(query.data, entries) };
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
      try {
        const all = await take(api.GET("/api/v1/firings"));
        const newest = all.map((firing) => journal.newest(firing));
        for (const firing of newest) await journal.keep(firing);
        return newest;
      } catch (error) {
        if (gone(error)) return journal.kept();
        throw error;
      }
    },
    refetchInterval: 15_000,
    networkMode: "always",
  });
  const { entries } = useWaiting();
  return (query.data ?? []).map((f) => withWaiting(f, entries)).filter((f) => !f.closed_at);
}
