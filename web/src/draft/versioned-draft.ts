import { useMutation } from "@tanstack/react-query";
import { useEffect, useReducer } from "react";
import { ApiError, unreachable } from "../api/client";
import { useSettled } from "./settled";

/** What the server keeps of something, and the number that goes up with each save of it. */
export interface Versioned<T> {
  value: T;
  version: number;
}

/** A draft: what stands there now, what stood there before, and what the server has of it. */
export interface DraftState<T> {
  now: T;
  past: T[];
  future: T[];
  version: number;
  /** What the server has, or was last sent, as text. */
  kept: string;
  /** Why the last save failed. */
  problem: Error | null;
  /** What somebody else saved meanwhile. */
  theirs: Versioned<T> | null;
}

export type DraftAction<T> =
  | { type: "change"; to: (now: T) => T }
  | { type: "undo" | "redo" | "keep-mine" | "take-theirs" }
  | { type: "sent"; value: T }
  | { type: "stored"; version: number }
  | { type: "refused"; problem: Error; theirs: Versioned<T> | null };

/** Changes that can be taken back. */
const DEPTH = 100;

/** Wait before a server that was away is asked again, ms. */
const AGAIN = 3_000;

export const textOf = (value: unknown) => JSON.stringify(value);

export function beginDraft<T>({ value, version }: Versioned<T>): DraftState<T> {
  return {
    now: value,
    past: [],
    future: [],
    version,
    kept: textOf(value),
    problem: null,
    theirs: null,
  };
}

export function draftReducer<T>(state: DraftState<T>, action: DraftAction<T>): DraftState<T> {
  const { now, past, future, theirs } = state;
  switch (action.type) {
    case "change": {
      const next = action.to(now);
      if (next === now) return state;
      return { ...state, now: next, past: [...past.slice(1 - DEPTH), now], future: [] };
    }
    case "undo": {
      const before = past.at(-1);
      if (before === undefined) return state;
      return { ...state, now: before, past: past.slice(0, -1), future: [now, ...future] };
    }
    case "redo": {
      const [after, ...rest] = future;
      if (after === undefined) return state;
      return { ...state, now: after, past: [...past, now], future: rest };
    }
    case "sent":
      return { ...state, kept: textOf(action.value) };
    case "stored":
      return { ...state, version: action.version, problem: null, theirs: null };
    case "refused":
      return { ...state, problem: action.problem, theirs: action.theirs };
    case "keep-mine":
    case "take-theirs": {
      if (!theirs) return state;
      const answered = {
        ...state,
        version: theirs.version,
        kept: textOf(theirs.value),
        problem: null,
        theirs: null,
      };
      return action.type === "keep-mine" ? answered : { ...answered, now: theirs.value };
    }
  }
}

interface Options<T, S> {
  stored: Versioned<T>;
  /** Saves over a version; fails with a conflict when another one is there by now. */
  save: (value: T, version: number) => Promise<S>;
  /** What was stored, out of an answer or of the newer one a conflict told of. */
  read: (stored: S) => Versioned<T>;
  onStored: (stored: S) => void;
  /** Nothing is saved: it may not be changed any more. */
  locked?: boolean;
  /** How long it is still before it is saved, ms. */
  pause?: number;
}

/** A draft that saves itself a moment after the last change, is undone and redone, and never goes over
 * somebody else's newer one. */
export function useVersionedDraft<T, S>(options: Options<T, S>) {
  const { stored, save, read, onStored, locked = false, pause = 500 } = options;
  const [state, act] = useReducer(draftReducer<T>, stored, beginDraft<T>);
  const settled = useSettled(state.now, pause);
  const { mutate, isPending, failureReason } = useMutation({
    // A server that is away now is asked again: what was changed last is not lost for want of another change.
    retry: (_, error) => unreachable(error),
    retryDelay: AGAIN,
    mutationFn: (sent: Versioned<T>) => save(sent.value, sent.version),
    onSuccess: (answer) => {
      act({ type: "stored", version: read(answer).version });
      onStored(answer);
    },
    onError: (problem) => {
      const newer = problem instanceof ApiError && problem.problem.status === 409;
      const current = newer ? (problem.problem.current as S | undefined) : undefined;
      act({ type: "refused", problem, theirs: current ? read(current) : null });
    },
  });
  const { version, kept, theirs } = state;
  const problem = state.problem ?? failureReason;
  useEffect(() => {
    if (locked || isPending || theirs || textOf(settled) === kept) return;
    act({ type: "sent", value: settled });
    mutate({ value: settled, version });
  }, [settled, version, kept, isPending, theirs, locked, mutate]);
  const unsaved = isPending || textOf(state.now) !== kept;
  return {
    ...state,
    problem,
    saved: problem ? ("not saved" as const) : unsaved ? ("saving…" as const) : ("saved" as const),
    /** What is wrong with it, by field, and in one sentence. */
    errors: problem instanceof ApiError ? problem.fields : {},
    change: (to: (now: T) => T) => act({ type: "change", to }),
    undo: () => act({ type: "undo" }),
    redo: () => act({ type: "redo" }),
    resolve: (mine: boolean) => act({ type: mine ? "keep-mine" : "take-theirs" }),
  };
}

export type VersionedDraft<T> = ReturnType<typeof useVersionedDraft<T, unknown>>;
