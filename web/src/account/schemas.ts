import * as z from "zod/mini";

export const signIn = z.object({
  email: z.string().check(z.trim(), z.minLength(1, "Your address is needed.")),
  password: z.string().check(z.minLength(1, "Your password is needed.")),
});
export const signUp = z.object({
  workshop: z
    .string()
    .check(
      z.trim(),
      z.minLength(1, "What is the shop called?"),
      z.maxLength(80, "At most 80 characters."),
    ),
  name: z
    .string()
    .check(
      z.trim(),
      z.minLength(1, "What are you called?"),
      z.maxLength(80, "At most 80 characters."),
    ),
  email: z
    .string()
    .check(z.trim(), z.minLength(3, "Your address is needed."), z.maxLength(254, "Too long.")),
  password: z
    .string()
    .check(
      z.minLength(10, "At least 10 characters: a few words are easiest."),
      z.maxLength(200, "Too long."),
    ),
});
