import { type QueryClient, useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { ApiError, api, type BladeClay, type Clay, take } from "../api/client";
import { queries } from "../api/queries";
import { useSettled } from "./prediction";

/** What is painted, and the line that is wanted of it. */
export interface Painted {
  clay: Clay;
  wanted: [number, number][];
}

const textOf = ({ clay, wanted }: Painted) => JSON.stringify({ clay, wanted });

/** The clay of a blade is kept: all that was computed of it is asked anew. */
export function clayKept(client: QueryClient, bladeId: string, kept: BladeClay) {
  client.setQueryData(queries.clay(bladeId).queryKey, kept);
  for (const key of ["predict", "maps", "help", "methods"]) {
    client.invalidateQueries({ queryKey: [key] });
  }
}

/** The draft of a blade's clay: undone and redone, saved a moment after the last change, and never
 * over somebody else's. */
export function useClayDraft(bladeId: string, stored: BladeClay) {
  const client = useQueryClient();
  const first: Painted = { clay: stored.clay, wanted: stored.wanted as [number, number][] };
  const [now, setNow] = useState(first);
  const [past, setPast] = useState<Painted[]>([]);
  const [future, setFuture] = useState<Painted[]>([]);
  const [version, setVersion] = useState(stored.version);
  const [problem, setProblem] = useState<ApiError | null>(null);
  const saved = useRef(textOf(first));
  const settled = useSettled(now, 600);
  const { mutate, isPending } = useMutation({
    mutationFn: (body: Painted & { version: number }) =>
      take(api.PUT("/api/v1/blades/{id}/clay", { params: { path: { id: bladeId } }, body })),
    onSuccess: (kept, sent) => {
      saved.current = textOf(sent);
      setVersion(kept.version);
      setProblem(null);
      clayKept(client, bladeId, kept);
    },
    onError: (error) => setProblem(error instanceof ApiError ? error : null),
  });
  const conflict = problem?.problem.status === 409;
  useEffect(() => {
    const text = textOf(settled);
    if (text === saved.current || isPending || conflict) return;
    saved.current = text;
    mutate({ ...settled, version });
  }, [settled, version, isPending, conflict, mutate]);
  const change = (to: Painted) => {
    setPast((p) => [...p.slice(-99), now]);
    setFuture([]);
    setNow(to);
  };
  const undo = () => {
    const before = past.at(-1);
    if (!before) return;
    setPast(past.slice(0, -1));
    setFuture([now, ...future]);
    setNow(before);
  };
  const redo = () => {
    const after = future[0];
    if (!after) return;
    setFuture(future.slice(1));
    setPast([...past, now]);
    setNow(after);
  };
  const theirs = conflict ? (problem?.problem.current as BladeClay | undefined) : undefined;
  const resolve = (mine: boolean) => {
    if (!theirs) return;
    setProblem(null);
    setVersion(theirs.version);
    const painted = { clay: theirs.clay, wanted: theirs.wanted as [number, number][] };
    saved.current = textOf(painted);
    if (!mine) setNow(painted);
  };
  const dirty = textOf(now) !== saved.current || isPending;
  return { now, change, undo, redo, past, future, problem, theirs, resolve, dirty };
}
