import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ApiError, api, type Bar, type Layer, take } from "../api/client";
import { queries } from "../api/queries";
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
  const [now, setNow] = useState(first);
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const save = useMutation({
    mutationFn: (w: Written) => {
      const read = Object.values(w.analysis).some((v) => v.trim() !== "")
        ? readAnalysis(w.analysis)
        : null;
      setWrong(read?.errors ?? {});
      if (read && Object.keys(read.errors).length > 0) {
        return Promise.reject(new Error("The analysis needs another look."));
      }
      return store(w, read?.analysis);
    },
    onSuccess: () => {
      client.invalidateQueries({ queryKey: queries.bars.queryKey });
      client.invalidateQueries({ queryKey: ["predict"] });
      onDone();
    },
  });
  const problem = save.error instanceof ApiError ? save.error : null;
  const fields = problem?.fields ?? {};
  const newer = problem?.problem.status === 409;
  return {
    now,
    setNow,
    set: (part: Partial<Written>) => setNow({ ...now, ...part }),
    save,
    fields,
    /** What is wrong with an element of the analysis. */
    elementError: (symbol: string) => wrong[symbol] ?? fields[`analysis.${symbol}`],
    theirs: newer ? (problem.problem.current as unknown as Bar) : null,
  };
}

export type BarFormState = ReturnType<typeof useBarForm>;

function store(w: Written, analysis: Record<string, number> | undefined) {
  const body = {
    name: w.name,
    steel: w.layers.length > 0 ? undefined : w.steel,
    layers: w.layers,
    size: w.size,
    condition: w.condition,
    analysis,
    note: w.note,
  };
  if (w.version === 0) return take(api.POST("/api/v1/bars", { body: { id: w.id, ...body } }));
  const params = { path: { id: w.id } };
  return take(api.PUT("/api/v1/bars/{id}", { params, body: { ...body, version: w.version } }));
}
