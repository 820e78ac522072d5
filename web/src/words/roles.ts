import type { Role, Scope } from "../api/client";

/** What people of a shop are called. */
export const ROLES: Record<Role, string> = {
  owner: "owner",
  smith: "smith",
  helper: "helper",
  reader: "reader",
};

/** What each may do. */
export const MAY: Record<Role, string> = {
  owner: "An owner says who works here, and may all the rest",
  smith: "A smith plans, fires and reads what came out",
  helper: "A helper fires and reads what came out, and plans nothing",
  reader: "A reader looks",
};

/** What tokens may do. */
export const SCOPES: Record<Scope, string> = {
  read: "Read",
  fire: "Read, and write at the fire",
  plan: "Read, write at the fire, and plan",
};
