import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { api, type Scope, take } from "../api/client";
import { queries } from "../api/queries";
import { ChoiceField, Saved, TextField, useSavedForm } from "../fields/saved-form";
import { SCOPES } from "../words/roles";
import css from "./shop.module.css";

const day = (at: string) => new Date(at).toLocaleDateString("en-GB", { dateStyle: "medium" });

export function Tokens() {
  const client = useQueryClient();
  const tokens = useQuery(queries.tokens);
  const {
    form,
    run: make,
    submit,
    wrong,
  } = useSavedForm({
    values: { name: "", scope: "read" as Scope, days: "365" },
    save: ({ days, ...body }) =>
      take(api.POST("/api/v1/tokens", { body: { ...body, days: days ? Number(days) : null } })),
    onSaved: (_, form) => {
      form.reset();
      client.invalidateQueries({ queryKey: queries.tokens.queryKey });
    },
  });
  const revoke = useMutation({
    mutationFn: (id: string) =>
      take(api.DELETE("/api/v1/tokens/{id}", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: queries.tokens.queryKey }),
  });
  return (
    <section>
      <h2>Tokens for scripts</h2>
      <ul className="lines">
        {(tokens.data ?? []).map((t) => (
          <li key={t.id}>
            <b>{t.name}</b>{" "}
            <span className="soft">
              {SCOPES[t.scope].toLowerCase()}; made {day(t.created_at)} by {t.by},{" "}
              {t.last_used_at ? `last used ${day(t.last_used_at)}` : "not used yet"}
              {t.expires_at ? `, until ${day(t.expires_at)}` : ""}
            </span>
            <Button variant="link" onClick={() => revoke.mutate(t.id)}>
              Revoke
            </Button>
          </li>
        ))}
      </ul>
      {make.data && (
        <div className="notice" role="status">
          <span>
            Shown this once; keep it safe. Send it as <code>Authorization: Bearer</code>{" "}
            <code className={css.secret}>{make.data.secret}</code>
          </span>
        </div>
      )}
      <form className="grid" onSubmit={submit}>
        <TextField form={form} name="name" label="What the token is for" max={80} />
        <ChoiceField form={form} name="scope" label="It may" options={SCOPES} />
        <ChoiceField
          form={form}
          name="days"
          label="It works for"
          options={{ 30: "a month", 365: "a year", "": "good" }}
        />
        <div className="wide row-of">
          <Button type="submit" disabled={make.isPending}>
            Make token
          </Button>
          <Saved wrong={wrong} saved={false} word="" />
        </div>
      </form>
    </section>
  );
}
