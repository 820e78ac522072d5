import { zodResolver } from "@hookform/resolvers/zod";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Suspense, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { useForm } from "react-hook-form";
import type * as z from "zod/mini";
import { ApiError, api, take } from "../api/client";
import { queries } from "../api/queries";
import { Field } from "../fields/field";
import { page } from "../page";
import css from "./account.module.css";
import { Mark } from "./mark";
import { signIn, signUp } from "./schemas";

const ByCode = page(() => import("./come-in").then((m) => m.ByCode));

interface LineProps {
  id: string;
  label: string;
  type?: string;
  complete: string;
  error?: string;
  register: object;
}

function Line({ id, label, type = "text", complete, error, register }: LineProps) {
  return (
    <Field id={id} label={label} error={error}>
      {(tie) => <Form.Control type={type} autoComplete={complete} {...tie} {...register} />}
    </Field>
  );
}

function useEnter<T>(enter: (body: T) => Promise<unknown>) {
  const client = useQueryClient();
  const run = useMutation({
    mutationFn: enter,
    onSuccess: () => client.invalidateQueries({ queryKey: queries.session.queryKey }),
  });
  return { run, fields: run.error instanceof ApiError ? run.error.fields : {} };
}

function SignIn() {
  const form = useForm<z.infer<typeof signIn>>({ resolver: zodResolver(signIn) });
  const { run } = useEnter((body: z.infer<typeof signIn>) =>
    take(api.POST("/api/v1/session", { body })),
  );
  const e = form.formState.errors;
  return (
    <form onSubmit={form.handleSubmit((body) => run.mutate(body))}>
      <Line
        id="email"
        label="Address"
        type="email"
        complete="username"
        error={e.email?.message}
        register={form.register("email")}
      />
      <Line
        id="password"
        label="Password"
        type="password"
        complete="current-password"
        error={e.password?.message}
        register={form.register("password")}
      />
      {run.error && (
        <p className="wrong" role="alert">
          {run.error.message}
        </p>
      )}
      <Button type="submit" disabled={run.isPending}>
        Sign in
      </Button>
    </form>
  );
}

function SignUp() {
  const form = useForm<z.infer<typeof signUp>>({ resolver: zodResolver(signUp) });
  const { run, fields } = useEnter((body: z.infer<typeof signUp>) =>
    take(api.POST("/api/v1/signup", { body })),
  );
  const e = form.formState.errors;
  return (
    <form onSubmit={form.handleSubmit((body) => run.mutate(body))}>
      <Line
        id="workshop"
        label="Name of the shop"
        complete="organization"
        error={e.workshop?.message ?? fields.workshop}
        register={form.register("workshop")}
      />
      <Line
        id="name"
        label="Your name"
        complete="name"
        error={e.name?.message ?? fields.name}
        register={form.register("name")}
      />
      <Line
        id="new-email"
        label="Address"
        type="email"
        complete="username"
        error={e.email?.message ?? fields.email}
        register={form.register("email")}
      />
      <Line
        id="new-password"
        label="Password"
        type="password"
        complete="new-password"
        error={e.password?.message ?? fields.password}
        register={form.register("password")}
      />
      {run.error && Object.keys(fields).length === 0 && (
        <p className="wrong" role="alert">
          {run.error.message}
        </p>
      )}
      <Button type="submit" disabled={run.isPending}>
        Open the shop
      </Button>
    </form>
  );
}

/** Signing in, or opening a new shop. */
export function AccountPage() {
  const [way, setWay] = useState<"in" | "fresh" | "back">("in");
  return (
    <main className={css.account}>
      <div className={css.words}>
        <h1>
          <Mark /> vatten
        </h1>
        <p>
          Plan the heat, see the hardness it will reach and how sure that is, do it, write down what
          came out. The next prediction has learned from it.
        </p>
      </div>
      <div>
        <h2>{{ in: "Sign in", fresh: "Open a shop", back: "Forgot the password" }[way]}</h2>
        {way === "in" && <SignIn />}
        {way === "fresh" && <SignUp />}
        {way === "back" && (
          <Suspense fallback={null}>
            <ByCode />
          </Suspense>
        )}
        <p>
          {way === "in" ? (
            <>
              <Button variant="link" onClick={() => setWay("fresh")}>
                No shop yet: open one
              </Button>
              <br />
              <Button variant="link" onClick={() => setWay("back")}>
                Forgot the password
              </Button>
            </>
          ) : (
            <Button variant="link" onClick={() => setWay("in")}>
              {way === "fresh" ? "I have a shop: sign in" : "I know it: sign in"}
            </Button>
          )}
        </p>
      </div>
    </main>
  );
}
