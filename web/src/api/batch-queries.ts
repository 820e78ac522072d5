/** What is asked of the server about batches. */
import { queryOptions } from "@tanstack/react-query";
import { api, take } from "./client";

/** Every batch of which two blades or more are in work. */
export const batches = queryOptions({
  queryKey: ["batches"],
  queryFn: () => take(api.GET("/api/v1/batches")),
});
