import { type QueryClient, useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Blade, type BladeClay, type Clay, type Plan, take } from "../api/client";
import { queries } from "../api/queries";
import { useVersionedDraft, type VersionedDraft } from "../draft/versioned-draft";
import { withClay } from "../plan/edit-plan";
import { described } from "../prediction/prediction";
import type { Place } from "./line";

/** What is painted, and the line that is wanted of it. */
export interface Painted {
  clay: Clay;
  wanted: Place[];
}

export type ClayDraft = VersionedDraft<Painted>;

/** The clay of a blade is kept: all that was computed of it is asked anew. */
export function clayKept(client: QueryClient, bladeId: string, kept: BladeClay) {
  client.setQueryData(queries.clay(bladeId).queryKey, kept);
  for (const key of ["predict", "maps", "help", "methods"]) {
    client.invalidateQueries({ queryKey: [key] });
  }
}

const versioned = ({ clay, wanted, version }: BladeClay) => ({
  value: { clay, wanted: wanted as Place[] },
  version,
});

/** The draft of a blade's clay. */
export function useClayDraft(bladeId: string, stored: BladeClay): ClayDraft {
  const client = useQueryClient();
  return useVersionedDraft<Painted, BladeClay>({
    stored: versioned(stored),
    save: (painted, version) =>
      take(
        api.PUT("/api/v1/blades/{id}/clay", {
          params: { path: { id: bladeId } },
          body: { ...painted, version },
        }),
      ),
    read: versioned,
    onStored: (kept) => clayKept(client, bladeId, kept),
    pause: 600,
  });
}

/** Puts the step that lays clay, and dries it so long, into a plan. */
export function useClayStep(bladeId: string, plan: Plan, dryS: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () =>
      take(
        api.PUT("/api/v1/blades/{id}/plan", {
          params: { path: { id: bladeId } },
          body: { steps: withClay(plan.steps, dryS), version: plan.version },
        }),
      ),
    onSuccess: (stored) => client.setQueryData(queries.plan(bladeId).queryKey, stored),
  });
}

/** What clay is looked for. */
export interface Sought {
  wanted: Place[];
  thinnest_mm: number;
  thickest_mm: number;
  brush_mm: number;
}

/** Finds the clay that gives a line. */
export function useFoundClay(
  blade: Blade,
  plan: Plan,
  mix: Clay["mix"],
  onFound: (clay: Clay) => void,
) {
  return useMutation({
    mutationFn: (sought: Sought) =>
      take(
        api.POST("/api/v1/advise/clay", {
          body: {
            request: { ...described(blade, { left: {}, right: null, mix }), steps: plan.steps },
            ...sought,
          },
        }),
      ),
    onSuccess: (found) => found.clay && onFound(found.clay),
  });
}
