import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { api, type Person, type Role, type Session, take } from "../api/client";
import { invitations, people } from "../api/people-queries";
import { may } from "../api/queries";
import { ChoiceField, Saved, TextField, useSavedForm } from "../fields/saved-form";
import { MAY, ROLES } from "../words/roles";
import css from "./shop.module.css";

const day = (at: string) => new Date(at).toLocaleDateString("en-GB", { dateStyle: "medium" });

/** A link that is shown once. */
function OnceLink({ path, words }: { path: string; words: string }) {
  return (
    <div className="notice" role="status">
      <span>
        {words}{" "}
        <code className={css.secret}>
          {window.location.origin}
          {path}
        </code>
      </span>
    </div>
  );
}

/** Somebody of the shop, and what an owner can do about them. */
function PersonLine({ person, session }: { person: Person; session: Session }) {
  const client = useQueryClient();
  const again = () => client.invalidateQueries({ queryKey: people.queryKey });
  const [asked, setAsked] = useState(false);
  const at = { params: { path: { id: person.id } } };
  const change = useMutation({
    mutationFn: (role: Role) =>
      take(api.PUT("/api/v1/people/{id}", { ...at, body: { name: person.name, role } })),
    onSuccess: again,
  });
  const leave = useMutation({
    mutationFn: () => take(api.DELETE("/api/v1/people/{id}", at)),
    onSuccess: again,
    onSettled: () => setAsked(false),
  });
  const link = useMutation({ mutationFn: () => take(api.POST("/api/v1/people/{id}/link", at)) });
  const own = session.person.role === "owner";
  const me = person.id === session.person.id;
  const wrong = change.error ?? leave.error ?? link.error;
  return (
    <li>
      <div className={css.person}>
        <span>
          <b>{person.name}</b> <span className="soft">{me ? "you" : person.email}</span>
        </span>
        {own && !me ? (
          <>
            <Form.Select
              size="sm"
              aria-label={`What ${person.name} is`}
              value={person.role}
              disabled={change.isPending}
              onChange={(e) => change.mutate(e.target.value as Role)}
            >
              {(Object.keys(ROLES) as Role[]).map((role) => (
                <option key={role} value={role}>
                  {ROLES[role]}
                </option>
              ))}
            </Form.Select>
            <Button variant="link" disabled={link.isPending} onClick={() => link.mutate()}>
              New password
            </Button>
            {asked ? (
              <>
                <Button variant="outline-danger" size="sm" onClick={() => leave.mutate()}>
                  {person.name} leaves
                </Button>
                <Button variant="link" onClick={() => setAsked(false)}>
                  Keep
                </Button>
              </>
            ) : (
              <Button variant="link" onClick={() => setAsked(true)}>
                Leaves…
              </Button>
            )}
          </>
        ) : (
          <span className="soft">{ROLES[person.role]}</span>
        )}
      </div>
      {asked && (
        <p className="soft">
          Their sessions and tokens end at once. What they did stays in the record under their name.
        </p>
      )}
      {link.data && (
        <OnceLink
          path={link.data.path}
          words={`Shown this once; give it to ${person.name}. A new password by it, within a day:`}
        />
      )}
      {wrong && <p className="wrong">{wrong.message}</p>}
    </li>
  );
}

/** Inviting somebody, and invitations that wait. */
function Invitations() {
  const client = useQueryClient();
  const again = () => client.invalidateQueries({ queryKey: invitations.queryKey });
  const waiting = useQuery(invitations);
  const { form, run, submit, wrong } = useSavedForm({
    values: { name: "", role: "helper" as Role },
    save: (body) => take(api.POST("/api/v1/invitations", { body })),
    onSaved: (_, form) => {
      form.reset();
      again();
    },
  });
  const revoke = useMutation({
    mutationFn: (id: string) =>
      take(api.DELETE("/api/v1/invitations/{id}", { params: { path: { id } } })),
    onSuccess: () => {
      run.reset();
      again();
    },
  });
  return (
    <>
      <h3>Invite somebody</h3>
      {(waiting.data ?? []).length > 0 && (
        <ul className="lines">
          {(waiting.data ?? []).map((i) => (
            <li key={i.id}>
              <b>{i.name}</b>{" "}
              <span className="soft">
                invited as {ROLES[i.role]}, until {day(i.expires_at)}
              </span>
              <Button variant="link" onClick={() => revoke.mutate(i.id)}>
                Take back
              </Button>
            </li>
          ))}
        </ul>
      )}
      {run.data && (
        <OnceLink
          path={run.data.path}
          words={`Shown this once; give it to ${run.data.invitation.name}. It works one time, for seven days:`}
        />
      )}
      <form className="grid" onSubmit={submit}>
        <TextField form={form} name="name" label="Who" max={80} />
        <ChoiceField form={form} name="role" label="As" options={ROLES} />
        <p className="wide soft">{MAY[form.watch("role")]}.</p>
        <div className="wide row-of">
          <Button type="submit" disabled={run.isPending}>
            Make a link
          </Button>
          <Saved wrong={wrong} saved={false} word="" />
        </div>
      </form>
    </>
  );
}

/** Who works in the shop, and as what. */
export function People({ session }: { session: Session }) {
  const all = useQuery(people);
  return (
    <section>
      <h2>People</h2>
      <ul className="lines">
        {(all.data ?? []).map((p) => (
          <PersonLine key={p.id} person={p} session={session} />
        ))}
      </ul>
      {may(session.person.role, "owner") && <Invitations />}
    </section>
  );
}
