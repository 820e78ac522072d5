import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { api, take } from "../api/client";
import { codes as codesLeft, sessions } from "../api/people-queries";
import { PasswordField, Saved, useSavedForm } from "../fields/saved-form";
import css from "./shop.module.css";

const when = (at: string) =>
  new Date(at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });

function Password() {
  const client = useQueryClient();
  const { form, run, submit, wrong } = useSavedForm({
    values: { old: "", password: "" },
    save: (body) => take(api.PUT("/api/v1/session/password", { body })),
    onSaved: (_, form) => {
      form.reset();
      client.invalidateQueries({ queryKey: sessions.queryKey });
    },
  });
  return (
    <form className="grid" onSubmit={submit}>
      <PasswordField form={form} name="old" label="Password now" complete="current-password" />
      <PasswordField form={form} name="password" label="New password" complete="new-password" />
      <div className="wide row-of">
        <Button type="submit" variant="outline-primary" disabled={run.isPending}>
          Change the password
        </Button>
        <Saved
          wrong={wrong}
          saved={run.isSuccess}
          word="Changed. Every other device is signed out."
        />
      </div>
    </form>
  );
}

function Codes() {
  const client = useQueryClient();
  const left = useQuery(codesLeft);
  const { form, run, submit, wrong } = useSavedForm({
    values: { old: "" },
    save: (body) => take(api.POST("/api/v1/session/codes", { body })),
    onSaved: (_, form) => {
      form.reset();
      client.invalidateQueries({ queryKey: codesLeft.queryKey });
    },
  });
  return (
    <>
      <h3>Should you forget it</h3>
      <p>
        Codes that each give you a new password, once. Write them down and keep them where the
        shop's papers are.{" "}
        {left.data && (
          <span className="soft">
            {left.data.left > 0 ? `${left.data.left} of them still work.` : "You have none yet."}
          </span>
        )}
      </p>
      {run.data && (
        <div className="notice" role="status">
          <span>
            Shown this once.
            <span className={`num ${css.codes}`}>
              {run.data.codes.map((code) => (
                <code key={code}>{code}</code>
              ))}
            </span>
          </span>
        </div>
      )}
      <form className="grid" onSubmit={submit}>
        <PasswordField form={form} name="old" label="Your password" complete="current-password" />
        <div className="wide row-of">
          <Button type="submit" variant="outline-primary" disabled={run.isPending}>
            {(left.data?.left ?? 0) > 0 ? "Make new codes; the old ones end" : "Make codes"}
          </Button>
          <Saved wrong={wrong} saved={false} word="" />
        </div>
      </form>
    </>
  );
}

function Devices() {
  const client = useQueryClient();
  const all = useQuery(sessions);
  const end = useMutation({
    mutationFn: (id: string) =>
      take(api.DELETE("/api/v1/sessions/{id}", { params: { path: { id } } })),
    onSettled: () => client.invalidateQueries({ queryKey: sessions.queryKey }),
  });
  return (
    <>
      <h3>Where you are signed in</h3>
      <ul className="lines">
        {(all.data ?? []).map((s) => (
          <li key={s.id}>
            <b>{s.device || "A device"}</b>{" "}
            <span className="soft">
              {s.here ? "this one" : `last used ${when(s.last_seen_at)}`}, since{" "}
              {when(s.created_at)}
            </span>
            {!s.here && (
              <Button variant="link" onClick={() => end.mutate(s.id)}>
                Sign out there
              </Button>
            )}
          </li>
        ))}
      </ul>
    </>
  );
}

/** One's own password, ways back in, and devices. */
export function OwnAccount() {
  return (
    <section>
      <h2>Your sign-in</h2>
      <Password />
      <Codes />
      <Devices />
    </section>
  );
}
