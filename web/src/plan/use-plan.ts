import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Blade, type Clay, type Plan, type Step, take } from "../api/client";
import { queries } from "../api/queries";
import { clayKept } from "../clay/use-clay";
import { useVersionedDraft } from "../draft/versioned-draft";

const versioned = (plan: Plan) => ({ value: plan.steps, version: plan.version });

const put = (blade: string, steps: Step[], version: number) =>
  take(
    api.PUT("/api/v1/blades/{id}/plan", {
      params: { path: { id: blade } },
      body: { steps, version },
    }),
  );

/** The draft of a plan; what was frozen at a firing is not saved. */
export function usePlanDraft(blade: Blade, plan: Plan) {
  const client = useQueryClient();
  return useVersionedDraft<Step[], Plan>({
    stored: versioned(plan),
    save: (steps, version) => put(blade.id, steps, version),
    read: versioned,
    onStored: (stored) => client.setQueryData(queries.plan(blade.id).queryKey, stored),
    locked: !!plan.frozen_at,
  });
}

/** Makes a new plan out of one that was frozen. */
export function useNewPlan(bladeId: string, steps: Step[]) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => put(bladeId, steps, 0),
    onSuccess: (stored) => {
      client.setQueryData(queries.plan(bladeId).queryKey, stored);
      client.invalidateQueries({ queryKey: queries.blade(bladeId).queryKey });
    },
  });
}

/** Lays the clay that goes with a method; the line that is wanted stays. */
export function useLay(bladeId: string) {
  const client = useQueryClient();
  const params = { path: { id: bladeId } };
  return useMutation({
    mutationFn: async (clay: Clay) => {
      const { wanted, version } = await take(api.GET("/api/v1/blades/{id}/clay", { params }));
      const body = { clay, wanted, version };
      return take(api.PUT("/api/v1/blades/{id}/clay", { params, body }));
    },
    onSuccess: (kept) => clayKept(client, bladeId, kept),
  });
}
