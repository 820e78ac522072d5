/** What is asked of the server about days, beside the day itself: not needed before one of them is opened. */
import { queryOptions } from "@tanstack/react-query";
import { api, take } from "./client";

/** What would mend a day on which something cannot be; of one laying. */
export const cures = (version: number) =>
  queryOptions({
    queryKey: ["cures", version],
    queryFn: () => take(api.GET("/api/v1/day/cures")),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** Who is in the shop when, and what counts. */
export const hours = queryOptions({
  queryKey: ["hours"],
  queryFn: () => take(api.GET("/api/v1/day/hours")),
});

/** Whether the shop's calendar can be read under a secret address. */
export const calendar = queryOptions({
  queryKey: ["calendar"],
  queryFn: () => take(api.GET("/api/v1/day/calendar")),
});
