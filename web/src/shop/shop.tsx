import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { ApiError, api, type Session, take } from "../api/client";
import { queries } from "../api/queries";
import { Choice } from "../fields/choice";
import { Text } from "../fields/text";
import { setKeysOn, useKeysOn } from "../keys";
import { InAndOut } from "./in-and-out";
import css from "./shop.module.css";
import { Tokens } from "./tokens";

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
    <main className={`page ${css.shop}`}>
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
