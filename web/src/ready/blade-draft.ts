import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ApiError, api, type Blade, type Ready, take } from "../api/client";
import { queries } from "../api/queries";

/** What a blade is while it is changed, and saving it. */
export function useBladeDraft(blade: Blade) {
  const client = useQueryClient();
  const [now, setNow] = useState(blade);
  const save = useMutation({
    mutationFn: (b: Blade) =>
      take(
        api.PATCH("/api/v1/blades/{id}", {
          params: { path: { id: blade.id } },
          body: {
            mark: b.mark,
            name: b.name,
            steel: b.steel,
            shape: b.shape,
            length_mm: b.length_mm,
            width_mm: b.width_mm,
            spine_mm: b.spine_mm,
            edge_mm: b.edge_mm,
            grind: b.grind,
            purpose: b.purpose,
            target_low_hrc: b.target_low_hrc,
            target_high_hrc: b.target_high_hrc,
            ready: b.ready,
            // No bar is said so: what is not named stays.
            bar_id: b.bar_id ?? null,
            // Of another bar it takes the usual.
            cut_mm: b.bar_id === blade.bar_id ? (b.cut_mm ?? undefined) : undefined,
            note: b.note,
            version: b.version,
          },
        }),
      ),
    onSuccess: (stored) => {
      setNow(stored);
      client.setQueryData(queries.blade(blade.id).queryKey, stored);
      for (const key of ["blades", "bars", "maps", "help", "methods"]) {
        client.invalidateQueries({ queryKey: [key] });
      }
    },
  });
  const problem = save.error instanceof ApiError ? save.error : null;
  const newer = problem?.problem.status === 409;
  const theirs = newer ? (problem.problem.current as Blade | undefined) : undefined;
  return {
    now,
    /** The bar it was of when it was read. */
    bar_id: blade.bar_id,
    save,
    problem,
    /** What somebody else saved meanwhile. */
    theirs,
    resolve: (mine: boolean) => {
      if (!theirs) return;
      if (mine) {
        save.mutate({ ...now, version: theirs.version });
        return;
      }
      setNow(theirs);
      client.setQueryData(queries.blade(blade.id).queryKey, theirs);
      save.reset();
    },
    dirty: JSON.stringify(now) !== JSON.stringify(blade),
    putBack: () => setNow(blade),
    set: (part: Partial<Blade>) => setNow({ ...now, ...part }),
    setReady: (part: Partial<Ready>) => setNow({ ...now, ready: { ...now.ready, ...part } }),
  };
}

/** What is wrong with a field of the blade, or of how it is made ready: as saved, or as predicted with. */
export function fieldErrors(saved: Error | null, predicted: Error | null) {
  const [stored, asked] = [saved, predicted].map((e) => (e instanceof ApiError ? e.fields : {}));
  return {
    blade: (field: string) => stored?.[field] ?? asked?.[`blade.${field}`],
    ready: (field: string) => stored?.[`ready.${field}`] ?? asked?.[field],
  };
}

export type FieldErrors = ReturnType<typeof fieldErrors>;
export type BladeDraft = ReturnType<typeof useBladeDraft>;
