import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Firing } from "../api/client";
import { onGap } from "../api/live";
import { journal } from "./journal";

/** Starts the journal for the shop that is signed in, and hands on what the server answers. */
export function JournalAtWork({ workshop }: { workshop: string }) {
  const client = useQueryClient();
  useEffect(() => {
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
    journal
      .begin(workshop)
      .catch(() => undefined)
      // What is on this device can be shown before the server says anything.
      .finally(() => client.invalidateQueries({ queryKey: ["kept"] }));
    const stop = onGap(() => journal.send());
    return () => {
      stop();
      journal.end();
    };
  }, [client, workshop]);
  return null;
}
