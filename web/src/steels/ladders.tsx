import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { useSearchParams } from "react-router";
import { api, type LadderView, problemOf, take } from "../api/client";
import { queries, useStations } from "../api/queries";
import { useUnits } from "../quantity/units";
import { ALONG, type Along, CAUTION, HOW } from "../words/ladders";
import { MEDIA } from "../words/names";
import { BeginLadder } from "./begin-ladder";
import { LadderFound } from "./ladder-found";
import { LadderRungs } from "./ladder-rungs";
import { LadderTreatmentForm } from "./ladder-treatment";
import { Side } from "./side";
import css from "./steels.module.css";

/** What all coupons go through, in a line. */
function Alike({ ladder }: { ladder: LadderView }) {
  const { show } = useUnits();
  const stations = useStations();
  const named = (id: string | null | undefined) => stations.data?.find((s) => s.id === id)?.name;
  const { treatment: of, along } = ladder;
  const where = [named(of.stations?.kiln), named(of.stations?.oven), named(of.tester)]
    .filter(Boolean)
    .join(", ");
  const temper =
    along === "heats"
      ? ""
      : `, tempered ${of.times === 1 ? "once" : `${of.times} times`} for ${show("time", of.hold_s)}`;
  return (
    <>
      {show("length", of.thickness_mm)} thick
      {along === "tempers" && `, from ${show("temperature", of.heat_c)}`}, soak{" "}
      {show("time", of.soak_s)}, {MEDIA[of.medium]} at {show("temperature", of.bath_c)}
      {temper}
      {where && ` (${where})`}.
    </>
  );
}

function LadderOf({ ladder, onGone }: { ladder: LadderView; onGone: () => void }) {
  const client = useQueryClient();
  const [changing, setChanging] = useState(false);
  const [asked, setAsked] = useState(false);
  const remove = useMutation({
    mutationFn: () =>
      take(api.DELETE("/api/v1/ladders/{id}", { params: { path: { id: ladder.id } } })),
    onSuccess: () => {
      onGone();
      client.invalidateQueries({ queryKey: queries.ladders.queryKey });
      client.invalidateQueries({ queryKey: ["points", ladder.steel] });
    },
  });
  return (
    <>
      <header className="head">
        <h1>{ladder.name}</h1>
        <span className="soft">
          {ladder.steel_name}, a ladder of {ALONG[ladder.along]}
        </span>
      </header>
      <p>{HOW[ladder.along]}</p>
      <p className="caution">{CAUTION[ladder.along]}</p>
      {changing ? (
        <LadderTreatmentForm ladder={ladder} onDone={() => setChanging(false)} />
      ) : (
        <p className={css.alike}>
          <b>All alike:</b> <Alike ladder={ladder} />{" "}
          <Button variant="link" onClick={() => setChanging(true)}>
            Change it
          </Button>
        </p>
      )}
      <LadderRungs ladder={ladder} />
      <LadderFound ladder={ladder} />
      <p className={css.gone}>
        {asked ? (
          <>
            What was read of it is then forgotten, and learned from no more.{" "}
            <Button variant="outline-danger" onClick={() => remove.mutate()}>
              Take it away
            </Button>{" "}
            <Button variant="link" onClick={() => setAsked(false)}>
              Keep it
            </Button>
          </>
        ) : (
          <Button variant="link" onClick={() => setAsked(true)}>
            Take this ladder away
          </Button>
        )}
        {remove.error && <span className="notice">{remove.error.message}</span>}
      </p>
    </>
  );
}

/** Ladders of heats and of tempers on steel that is known. */
export function LaddersPage() {
  const ladders = useQuery(queries.ladders);
  const [asked, setAsked] = useSearchParams();
  const chosen = asked.get("ladder");
  const steel = asked.get("steel");
  const all = ladders.data ?? [];
  const begin = steel !== null || chosen === "new" || (ladders.isSuccess && all.length === 0);
  const id = begin ? undefined : (all.find((l) => l.id === chosen) ?? all[0])?.id;
  const ladder = useQuery({ ...queries.ladder(id ?? ""), enabled: id !== undefined });
  const choose = (next: string) => setAsked({ ladder: next });
  return (
    <div className="with-rack">
      <Side chosen={asked.toString()}>
        {all.length > 0 && (
          <>
            <h3>Ladders</h3>
            <button
              type="button"
              className={begin ? "on" : ""}
              aria-current={begin}
              onClick={() => choose("new")}
            >
              Another ladder
            </button>
          </>
        )}
        {all.map((l) => (
          <button
            type="button"
            key={l.id}
            className={l.id === id ? "on" : ""}
            aria-current={l.id === id}
            onClick={() => choose(l.id)}
          >
            <b>{l.name}</b>
            <span className="soft">
              {l.read === 0 ? "not read" : `${l.read} of ${l.coupons} read`}
            </span>
          </button>
        ))}
      </Side>
      <main className={`main ${css["page-in"]}`}>
        {ladders.error && <p className="notice">{problemOf(ladders.error)}</p>}
        {begin && (
          <>
            <header className="head">
              <h1>A ladder on a steel you know</h1>
            </header>
            <p>
              A book says what a steel does in a laboratory. A few coupons, alike but for one
              temperature, say what it does in your fire; every plan of that steel goes by them.
            </p>
            <BeginLadder
              key={asked.toString()}
              steel={steel ?? "1084"}
              along={(asked.get("along") === "heats" ? "heats" : "tempers") as Along}
              onBegun={choose}
            />
          </>
        )}
        {ladder.error && <p className="notice">{problemOf(ladder.error)}</p>}
        {id && ladder.data && (
          <LadderOf
            key={id}
            ladder={ladder.data as LadderView}
            onGone={() => setAsked({}, { replace: true })}
          />
        )}
      </main>
    </div>
  );
}
