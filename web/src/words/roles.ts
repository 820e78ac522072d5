import type { Role, Scope } from "../api/client";

/** What people of a shop are called. */
export const ROLES: Record<Role, string> = {
  owner: "owner",
  smith: "smith",
  helper: "helper",
  reader: "reader",
};

/** What each may do, beside what those after it may. */
export const MAY: Record<Role, string> = {
  owner: "says who works here, and everything below",
  smith: "plans, and everything below",
  helper: "fires and reads what came out; plans nothing",
  reader: "looks",
};

/** What tokens may do. */
export const SCOPES: Record<Scope, string> = {
  read: "Read",
  fire: "Read, and write at the fire",
  plan: "Read, write at the fire, and plan",
};
