/** What is asked of the server about who works in the shop: see queries.ts. */
import { queryOptions } from "@tanstack/react-query";
import { api, take } from "./client";

export const people = queryOptions({
  queryKey: ["people"],
  queryFn: () => take(api.GET("/api/v1/people")),
});
export const invitations = queryOptions({
  queryKey: ["invitations"],
  queryFn: () => take(api.GET("/api/v1/invitations")),
});
export const sessions = queryOptions({
  queryKey: ["sessions"],
  queryFn: () => take(api.GET("/api/v1/sessions")),
});
export const codes = queryOptions({
  queryKey: ["codes"],
  queryFn: () => take(api.GET("/api/v1/session/codes")),
});
