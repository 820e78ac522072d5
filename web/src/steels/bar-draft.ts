import { useQueryClient } from "@tanstack/react-query";
import { ApiError, api, type Bar, type Layer, take } from "../api/client";
import { queries } from "../api/queries";
import { useSavedForm, WrongFields } from "../fields/saved-form";
import { readAnalysis } from "./analysis";

export const CONDITIONS: Record<Bar["condition"], string> = {
  unknown: "not known",
  hot_rolled: "hot rolled",
  normalized: "normalized",
  annealed: "annealed",
  spheroidized: "spheroidized",
  forged: "forged here",
};

export const ROLES: Record<Layer["role"], string> = {
  edge: "edge: it cuts",
  core: "core: hardens with it",
  cladding: "cladding: may stay soft",
};

export interface Written {
  id: string;
  version: number;
  name: string;
  steel: string;
  layers: Layer[];
  size: Bar["size"];
  condition: Bar["condition"];
  analysis: Record<string, string>;
  note: string;
}

export const EMPTY: Omit<Written, "id"> = {
  version: 0,
  name: "",
  steel: "1084",
  layers: [],
  size: { width_mm: 40, thickness_mm: 5, length_mm: 1000, left_mm: 1000 },
  condition: "unknown",
  analysis: {},
  note: "",
};

export const written = (b: Bar): Written => ({
  ...b,
  analysis: Object.fromEntries(
    Object.entries(b.analysis ?? {})
      .filter(([, v]) => v > 0)
      .map(([k, v]) => [k, String(v)]),
  ),
});

/** A bar while it is written, and bringing it into stock. */
export function useBarForm(first: Written, onDone: () => void) {
  const client = useQueryClient();
  const saved = useSavedForm({
    values: first,
    save: async (w) => {
      if (Object.values(w.analysis).every((v) => !v?.trim())) return store(w, undefined);
      const { analysis, errors } = readAnalysis(w.analysis);
      const wrong = Object.entries(errors).map(([symbol, said]) => [`analysis.${symbol}`, said]);
      if (wrong.length > 0) throw new WrongFields(Object.fromEntries(wrong));
      return store(w, analysis);
    },
    onSaved: () => {
      client.invalidateQueries({ queryKey: queries.bars.queryKey });
      client.invalidateQueries({ queryKey: ["predict"] });
      onDone();
    },
  });
  const { error } = saved.run;
  const newer = error instanceof ApiError && error.problem.status === 409;
  return { ...saved, theirs: newer ? (error.problem.current as unknown as Bar) : null };
}

function store(w: Written, analysis: Record<string, number> | undefined) {
  const body = {
    name: w.name,
    steel: w.layers.length > 0 ? undefined : w.steel,
    // Only how thick the edge layer is tells where it ends.
    layers: w.layers.map(({ role, steel, thickness_mm }) => ({
      role,
      steel,
      ...(role === "edge" && thickness_mm ? { thickness_mm } : {}),
    })),
    size: w.size,
    condition: w.condition,
    analysis,
    note: w.note,
  };
  if (w.version === 0) return take(api.POST("/api/v1/bars", { body: { id: w.id, ...body } }));
  const params = { path: { id: w.id } };
  return take(api.PUT("/api/v1/bars/{id}", { params, body: { ...body, version: w.version } }));
}
