import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { ApiError, api, take } from "../api/client";
import { queries } from "../api/queries";
import { Text } from "../fields/text";
import css from "./shop.module.css";

export function Tokens() {
  const client = useQueryClient();
  const tokens = useQuery(queries.tokens);
  const [name, setName] = useState("");
  const make = useMutation({
    mutationFn: () => take(api.POST("/api/v1/tokens", { body: { name } })),
    onSuccess: () => {
      setName("");
      client.invalidateQueries({ queryKey: queries.tokens.queryKey });
    },
  });
  const revoke = useMutation({
    mutationFn: (id: string) =>
      take(api.DELETE("/api/v1/tokens/{id}", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: queries.tokens.queryKey }),
  });
  const fields = make.error instanceof ApiError ? make.error.fields : {};
  return (
    <section>
      <h2>Tokens for scripts</h2>
      <ul className="lines">
        {(tokens.data ?? []).map((t) => (
          <li key={t.id}>
            <b>{t.name}</b>{" "}
            <span className="soft">
              made {new Date(t.created_at).toLocaleDateString("en-GB", { dateStyle: "medium" })}
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
      <form
        className="grid"
        onSubmit={(e) => {
          e.preventDefault();
          make.mutate();
        }}
      >
        <Text
          label="What the token is for"
          max={80}
          value={name}
          error={fields.name}
          onChange={setName}
        />
        <div className="wide">
          <Button type="submit" disabled={make.isPending}>
            Make token
          </Button>
        </div>
      </form>
    </section>
  );
}
