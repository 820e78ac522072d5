import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, type Blade, type Clay, type Prediction, type Step, take } from "../api/client";
import { useSettled } from "../draft/settled";

export type Geometry = Pick<
  Blade,
  | "id"
  | "ready"
  | "steel"
  | "shape"
  | "length_mm"
  | "width_mm"
  | "spine_mm"
  | "edge_mm"
  | "grind"
  | "target_low_hrc"
  | "target_high_hrc"
>;

/** What the server wants to know of a blade. */
export function described(b: Geometry, clay?: Clay) {
  return {
    clay,
    blade_id: b.id,
    ready: b.ready,
    steel: b.steel as unknown as Record<string, never>,
    blade: {
      shape: b.shape,
      length_mm: b.length_mm,
      width_mm: b.width_mm,
      spine_mm: b.spine_mm,
      edge_mm: b.edge_mm,
      grind: b.grind,
    },
  };
}

/** The steps that a quench depends on: up to the last one. */
export function upToQuench(steps: Step[]): Step[] {
  return steps.slice(0, steps.findLastIndex((s) => s.kind === "quench") + 1);
}

/** What maps are asked of, as text. */
export const mapsKey = (blade: Geometry, steps: Step[] | undefined, clay?: Clay) =>
  JSON.stringify([described(blade, clay), upToQuench(steps ?? [])]);

/** How a quench is simulated: under a clay that is being painted, with cells of a size, after a pause. */
interface Simulated {
  clay?: Clay;
  step_mm?: number;
  pause?: number;
}

/** The maps of the last quench of a plan; a newer question cancels the older. */
export function useMaps(
  blade: Geometry,
  steps: Step[] | undefined,
  wanted: boolean,
  { clay, step_mm = 2, pause = 60 }: Simulated = {},
) {
  const asked = mapsKey(blade, steps, clay);
  const settled = useSettled(asked, pause);
  return useQuery({
    queryKey: ["maps", step_mm, asked],
    // A change gives up at once what is still computed of what was before it.
    enabled: wanted && settled === asked && !asked.endsWith("[]]"),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: async ({ signal }) => {
      const [what, upTo] = JSON.parse(asked) as [ReturnType<typeof described>, Step[]];
      const body = { ...what, steps: upTo, step_mm };
      const maps = await take(api.POST("/api/v1/simulate", { signal, body }));
      return { ...maps, asked };
    },
  });
}

/** The prediction of a plan on a blade; a newer question cancels the older. */
export function usePrediction(blade: Geometry | undefined, steps: Step[] | undefined, clay?: Clay) {
  const asked = useSettled(JSON.stringify([blade, clay ?? null, steps]), 25);
  return useQuery({
    queryKey: ["predict", asked],
    // The settled question may be older than the plan it is asked of.
    enabled: !!blade && !!steps && !asked.endsWith("null]"),
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 30_000,
    queryFn: async ({ signal }) => {
      const [b, painted, s] = JSON.parse(asked) as [Geometry, Clay | null, Step[]];
      return take<Prediction>(
        api.POST("/api/v1/predict", {
          signal,
          body: {
            ...described(b, painted ?? undefined),
            steps: s,
            target_hrc: { low: b.target_low_hrc, high: b.target_high_hrc },
          },
        }),
      );
    },
  });
}

/** The outline of a shape and size while they are being changed. */
export function useOutline(
  blade: Pick<Blade, "shape" | "length_mm" | "width_mm" | "spine_mm" | "edge_mm">,
): number[][] | undefined {
  const { shape, length_mm, width_mm, spine_mm, edge_mm } = blade;
  const body = { shape, length_mm, width_mm, spine_mm, edge_mm };
  const asked = useSettled(JSON.stringify(body), 40);
  return useQuery({
    queryKey: ["outline", asked],
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: ({ signal }) => take(api.POST("/api/v1/outline", { signal, body: JSON.parse(asked) })),
  }).data;
}
