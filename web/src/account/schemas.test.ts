import { describe, expect, it } from "vitest";
import * as z from "zod/mini";
import api from "../api/openapi.json";
import { schema as ownSteel } from "../steels/own-steel";
import { signIn, signUp } from "./schemas";

type Described = { minLength?: number; maxLength?: number; type?: unknown };

const bounds = ({ minLength, maxLength }: Described) => ({ minLength, maxLength });

describe("what a form asks for", () => {
  it.each([
    ["SignUp", signUp, ["workshop", "name", "email", "password"]],
    ["SteelBody", ownSteel, ["name"]],
  ] as const)("is what the API asks for: %s", (name, form, fields) => {
    const said = z.toJSONSchema(form).properties as Record<string, Described>;
    const asked = api.components.schemas[name].properties as Record<string, Described>;
    for (const field of fields) {
      expect([field, bounds(said[field] ?? {})]).toEqual([field, bounds(asked[field] ?? {})]);
    }
  });

  it("has no field that the API does not know, and every one it needs", () => {
    for (const [name, form] of [
      ["SignIn", signIn],
      ["SignUp", signUp],
    ] as const) {
      const { properties, required } = api.components.schemas[name];
      expect(Object.keys(form.def.shape).sort()).toEqual(Object.keys(properties).sort());
      expect([...required].sort()).toEqual(Object.keys(form.def.shape).sort());
    }
  });
});
