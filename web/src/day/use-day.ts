import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { api, type DayBar, type DayView, take } from "../api/client";
import { queries } from "../api/queries";
import { keyOf } from "./timeline";

/** So long after the last step of a bar it is sent, ms. */
const SETTLED_MS = 450;

const iso = (at_s: number) => new Date(at_s * 1000).toISOString();

/** What can be done to a day: each answer is the day as it is then. */
export function useDayChanges() {
  const client = useQueryClient();
  const taken = useCallback(
    (then: unknown) => client.setQueryData(queries.day.queryKey, then as DayView),
    [client],
  );
  const [moved, setMoved] = useState<ReadonlyMap<string, number>>(new Map());
  const waiting = useRef(new Map<string, ReturnType<typeof setTimeout>>());
  const anew = useMutation({
    mutationFn: () => take(api.POST("/api/v1/day/anew")),
    onSuccess: taken,
  });
  const takeOff = useMutation({
    mutationFn: (id: string) =>
      take(api.DELETE("/api/v1/day/blades/{id}", { params: { path: { id } } })),
    onSuccess: taken,
  });
  const times = useMutation({
    mutationFn: (t: { id: string; not_before_s: number; due_s: number | null }) =>
      take(
        api.PUT("/api/v1/day/blades/{id}", {
          params: { path: { id: t.id } },
          body: {
            not_before: iso(t.not_before_s),
            ...(t.due_s === null ? {} : { due_at: iso(t.due_s) }),
          },
        }),
      ),
    onSuccess: taken,
  });
  const pin = useMutation({
    mutationFn: (p: { bar: DayBar; start_s: number | null }) =>
      take(
        api.PUT("/api/v1/day/pins", {
          body: {
            blade_id: p.bar.blade,
            activity: p.bar.activity,
            ...(p.start_s === null ? {} : { start_at: iso(p.start_s) }),
          },
        }),
      ),
    onSuccess: taken,
    onSettled: (_day, _error, { bar }) =>
      setMoved((before) => {
        const then = new Map(before);
        then.delete(keyOf(bar));
        return then;
      }),
  });
  const { mutate } = pin;
  /** Shown at once, sent when it rests. */
  const move = useCallback(
    (bar: DayBar, start_s: number) => {
      const key = keyOf(bar);
      setMoved((before) => new Map(before).set(key, start_s));
      clearTimeout(waiting.current.get(key));
      waiting.current.set(
        key,
        setTimeout(() => mutate({ bar, start_s }), SETTLED_MS),
      );
    },
    [mutate],
  );
  const pinOrLetGo = (bar: DayBar) => {
    // A move that was not sent yet goes along with it, or is no longer meant.
    clearTimeout(waiting.current.get(keyOf(bar)));
    mutate({ bar, start_s: bar.pinned ? null : (moved.get(keyOf(bar)) ?? bar.start_s) });
  };
  const wrong = pin.error ?? anew.error ?? takeOff.error ?? times.error;
  return { taken, moved, move, pinOrLetGo, anew, takeOff, times, wrong };
}
