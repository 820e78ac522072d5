import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Button } from "react-bootstrap";
import { api, take } from "../api/client";
import { PasswordField, Saved, TextField, useSavedForm } from "../fields/saved-form";
import { MAY, ROLES } from "../words/roles";
import css from "./account.module.css";
import { Mark } from "./mark";

/** To the rack, with everything read anew as whoever that is now. */
const goIn = () => window.location.assign("/");

function Accept({ secret, name }: { secret: string; name: string }) {
  const { form, run, submit, wrong } = useSavedForm({
    values: { name, email: "", password: "" },
    save: (body) => take(api.POST("/api/v1/invitations/accept", { body: { ...body, secret } })),
    onSaved: goIn,
  });
  return (
    <form onSubmit={submit}>
      <TextField form={form} name="name" label="Your name" max={80} />
      <TextField form={form} name="email" label="Address" max={254} />
      <PasswordField form={form} name="password" label="Password" complete="new-password" />
      <Saved wrong={wrong} saved={false} word="" />
      <Button type="submit" disabled={run.isPending}>
        Come in
      </Button>
    </form>
  );
}

/** A page for whoever comes with a link. */
function Frame({
  words,
  title,
  children,
}: {
  words: ReactNode;
  title: string;
  children: ReactNode;
}) {
  return (
    <main className={css.account}>
      <div className={css.words}>
        <h1>
          <Mark /> vatten
        </h1>
        {words}
      </div>
      <div>
        <h2>{title}</h2>
        {children}
      </div>
    </main>
  );
}

/** Coming into a shop by an invitation. The secret stands after the #: no address sends it. */
function InvitedPage() {
  const secret = window.location.hash.slice(1);
  const to = useQuery({
    queryKey: ["invited", secret],
    queryFn: () => take(api.POST("/api/v1/invitations/look", { body: { secret } })),
    retry: false,
  });
  return (
    <Frame
      title="Come in"
      words={
        to.data && (
          <p>
            {to.data.workshop} invites you as {ROLES[to.data.role]}. {MAY[to.data.role]}.
          </p>
        )
      }
    >
      {to.error && (
        <p className="wrong" role="alert">
          {to.error.message}
        </p>
      )}
      {to.data && <Accept secret={secret} name={to.data.name} />}
    </Frame>
  );
}

/** A new password by a link that the owner of the shop gave. */
function BackPage() {
  const secret = window.location.hash.slice(1);
  const { form, run, submit, wrong } = useSavedForm({
    values: { password: "" },
    save: (body) => take(api.POST("/api/v1/recovery/link", { body: { ...body, secret } })),
    onSaved: goIn,
  });
  return (
    <Frame
      title="A new password"
      words={<p>Every device you were signed in on is signed out by it.</p>}
    >
      <form onSubmit={submit}>
        <PasswordField form={form} name="password" label="New password" complete="new-password" />
        <Saved wrong={wrong} saved={false} word="" />
        <Button type="submit" disabled={run.isPending}>
          Set it and go in
        </Button>
      </form>
    </Frame>
  );
}

/** A new password by one of the codes that were kept. */
export function ByCode() {
  const { form, run, submit, wrong } = useSavedForm({
    values: { email: "", code: "", password: "" },
    save: (body) => take(api.POST("/api/v1/recovery", { body })),
    onSaved: goIn,
  });
  return (
    <form onSubmit={submit}>
      <p>
        With one of the codes you made under Shop. Without one, the owner of your shop can make you
        a link.
      </p>
      <TextField form={form} name="email" label="Address" max={254} />
      <TextField form={form} name="code" label="Code" max={40} />
      <PasswordField form={form} name="password" label="New password" complete="new-password" />
      <Saved wrong={wrong} saved={false} word="" />
      <Button type="submit" disabled={run.isPending}>
        Set it and go in
      </Button>
    </form>
  );
}

/** Whoever comes with a link, signed in or not. */
export function ByLinkPage() {
  return window.location.pathname === "/back" ? <BackPage /> : <InvitedPage />;
}
