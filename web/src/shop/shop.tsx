import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, Form } from "react-bootstrap";
import { api, type Session, take } from "../api/client";
import { may, queries } from "../api/queries";
import { ChoiceField, Saved, TextField, useSavedForm } from "../fields/saved-form";
import { setKeysOn, useKeysOn } from "../keys";
import { ROLES } from "../words/roles";
import { Calendar } from "./calendar";
import { ShopHoursForm } from "./hours";
import { InAndOut } from "./in-and-out";
import { OwnAccount } from "./own-account";
import { People } from "./people";
import css from "./shop.module.css";
import { Tokens } from "./tokens";

function Settings({ session }: { session: Session }) {
  const client = useQueryClient();
  const { name, temperature_unit, length_unit, time_zone, version } = session.workshop;
  const { form, run, submit, wrong } = useSavedForm({
    values: { name, temperature_unit, length_unit, time_zone, version },
    save: (body) => take(api.PUT("/api/v1/workshop", { body })),
    onSaved: (stored, form) => {
      form.setValue("version", stored.version);
      localStorage.removeItem("vatten.units");
      client.invalidateQueries({ queryKey: queries.session.queryKey });
    },
  });
  return (
    <section>
      <h2>The shop</h2>
      <form className="grid" onSubmit={submit}>
        <TextField form={form} name="name" label="Shop name" max={80} />
        <ChoiceField
          form={form}
          name="temperature_unit"
          label="Temperatures in"
          options={{ c: "Celsius", f: "Fahrenheit" }}
        />
        <ChoiceField
          form={form}
          name="length_unit"
          label="Lengths in"
          asIs
          options={{ mm: "millimetres", in: "inches" }}
        />
        <TextField form={form} name="time_zone" label="Time zone" max={64} />
        <div className="wide row-of">
          <Button type="submit" disabled={run.isPending}>
            Save
          </Button>
          <Saved wrong={wrong} saved={run.isSuccess} word="Saved." />
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
  const role = session.person.role;
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
          <span className="soft">
            {session.person.name}, {ROLES[role]} · {session.person.email}
          </span>{" "}
          <Button variant="outline-primary" onClick={() => out.mutate()}>
            Sign out
          </Button>
        </span>
      </div>
      <div className="two">
        {may(role, "owner") && <Settings key={session.workshop.version} session={session} />}
        <People session={session} />
        {may(role, "smith") && <ShopHoursForm />}
        <OwnAccount />
        {may(role, "smith") && <Calendar />}
        <ThisDevice />
        {may(role, "smith") && <Tokens />}
        <InAndOut bringsIn={may(role, "owner")} />
      </div>
    </main>
  );
}
