import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { ApiError, api, type ImportReport, type Session, take } from "../api/client";
import { queries } from "../api/queries";
import { Choice } from "../fields/choice";
import { Text } from "../fields/text";
import { setKeysOn, useKeysOn } from "../keys";
import { fault } from "../words/faults";

function Settings({ session }: { session: Session }) {
  const client = useQueryClient();
  const [now, setNow] = useState(session.workshop);
  const save = useMutation({
    mutationFn: () => {
      const { name, temperature_unit, length_unit, time_zone, version } = now;
      return take(
        api.PUT("/api/v1/workshop", {
          body: { name, temperature_unit, length_unit, time_zone, version },
        }),
      );
    },
    onSuccess: (stored) => {
      setNow(stored);
      localStorage.removeItem("vatten.units");
      client.invalidateQueries({ queryKey: queries.session.queryKey });
    },
  });
  const fields = save.error instanceof ApiError ? save.error.fields : {};
  return (
    <section>
      <h2>The shop</h2>
      <form
        className="grid"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        <Text
          label="Shop name"
          max={80}
          value={now.name}
          error={fields.name}
          onChange={(name) => setNow({ ...now, name })}
        />
        <Choice
          label="Temperatures in"
          value={now.temperature_unit}
          options={{ c: "Celsius", f: "Fahrenheit" }}
          onChange={(temperature_unit) => setNow({ ...now, temperature_unit })}
        />
        <Choice
          label="Lengths in"
          value={now.length_unit}
          asIs
          options={{ mm: "millimetres", in: "inches" }}
          onChange={(length_unit) => setNow({ ...now, length_unit })}
        />
        <Text
          label="Time zone"
          max={64}
          value={now.time_zone}
          error={fields.time_zone}
          onChange={(time_zone) => setNow({ ...now, time_zone })}
        />
        <div className="wide row-of">
          <Button type="submit" disabled={save.isPending}>
            Save
          </Button>
          {save.error && <span className="wrong">{save.error.message}</span>}
          {save.isSuccess && <span className="soft">Saved.</span>}
        </div>
      </form>
    </section>
  );
}

/** What only this device does, kept on it. */
function ThisDevice() {
  const on = useKeysOn();
  return (
    <section>
      <h2>This device</h2>
      <Form.Check
        type="switch"
        id="single-keys"
        label="Single keys: U changes units and takes back at the fire, Space goes on at the fire"
        checked={on}
        onChange={(e) => setKeysOn(e.target.checked)}
      />
    </section>
  );
}

function Tokens() {
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
            <code className="secret">{make.data.secret}</code>
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

/** What came of a file that was brought in, line by line: what was left out is named. */
export function brought({ blades, skipped, known, left_out }: ImportReport): string[] {
  const count = (n: number, one: string) => (n === 1 ? `1 ${one}` : `${n} ${one}s`);
  const listed = (all: string[]) => {
    const rest = all.length - NAMED;
    return `${all.slice(0, NAMED).join(", ")}${rest > 0 ? ` and ${rest} more` : ""}`;
  };
  const left = [
    left_out.photographs > 0 ? count(left_out.photographs, "photograph") : "",
    left_out.logs > 0 ? count(left_out.logs, "log") : "",
    left_out.methods ? count(left_out.methods, "older or retired method") : "",
  ].filter(Boolean);
  return [
    `${count(blades, "blade")} brought in.`,
    skipped.length > 0
      ? `Left alone, since the shop has blades of these marks: ${listed(skipped)}.`
      : "",
    known.length > 0
      ? `Already here under these names, and left as they are here: ${listed(known)}.`
      : "",
    left.length > 0
      ? `Not in the file, and still only where it came from: ${left.join(", ")}.`
      : "",
  ].filter(Boolean);
}

/** Most names that are listed. */
const NAMED = 40;

function InAndOut() {
  const client = useQueryClient();
  const bring = useMutation({
    // The file goes as it lies on the disk: however large, it is never read into this page.
    mutationFn: (file: File) =>
      take(
        api.POST("/api/v1/import", {
          body: file as never,
          bodySerializer: (raw) => raw,
          headers: { "Content-Type": "application/json" },
        }),
      ),
    onSuccess: () => client.invalidateQueries(),
  });
  const fields = bring.error instanceof ApiError ? bring.error.problem.fields : [];
  return (
    <section>
      <h2>In and out</h2>
      <p>
        <a className="btn btn-outline-primary" href="/api/v1/export" download="vatten-shop.json">
          Export the whole shop
        </a>
      </p>
      <Form.Group controlId="bring" className="field">
        <Form.Label>Bring in a file that Vatten wrote</Form.Label>
        <Form.Control
          type="file"
          accept="application/json,.json"
          onChange={(e) => {
            const file = (e.target as HTMLInputElement).files?.[0];
            if (file) bring.mutate(file);
          }}
        />
      </Form.Group>
      {bring.isPending && <p role="status">Reading it, and writing all of it or nothing…</p>}
      {bring.data && (
        <div role="status">
          {brought(bring.data).map((line) => (
            <p key={line}>{line}</p>
          ))}
        </div>
      )}
      {bring.error && (
        <div className="notice" role="alert">
          <span>
            Nothing was stored. {bring.error.message}
            {fields?.slice(0, 6).map((f) => (
              <span key={f.field}>
                <br />
                <code>{f.field}</code>: {fault(f)}
              </span>
            ))}
          </span>
        </div>
      )}
    </section>
  );
}

/** The shop: its settings, tokens, and its data in and out. */
export function ShopPage({ session }: { session: Session }) {
  const client = useQueryClient();
  const out = useMutation({
    mutationFn: () => take(api.DELETE("/api/v1/session")),
    onSettled: () => {
      client.clear();
      window.location.assign("/");
    },
  });
  return (
    <main className="page shop">
      <div className="row-of top-line">
        <h1>Shop</h1>
        <span>
          <span className="soft">{session.person.email}</span>{" "}
          <Button variant="outline-primary" onClick={() => out.mutate()}>
            Sign out
          </Button>
        </span>
      </div>
      <div className="two">
        <Settings key={session.workshop.version} session={session} />
        <ThisDevice />
        <Tokens />
        <InAndOut />
      </div>
    </main>
  );
}
