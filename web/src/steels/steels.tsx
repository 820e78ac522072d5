import { useState } from "react";
import { Button } from "react-bootstrap";
import { Link, useSearchParams } from "react-router";
import type { SteelView } from "../api/client";
import { useSteels } from "../api/queries";
import { useUnits } from "../quantity/units";
import { capital, hrc, MEDIA, PURPOSES } from "../words/names";
import { OLD } from "../words/salvage";
import { serves } from "../words/steels";
import { Designations, FoundSteels, SteelNameField } from "./find-steel";
import { OwnSteel } from "./own-steel";
import { Side } from "./side";
import css from "./steels.module.css";
import { Curve, HARDENING, SUB_ZERO, Windows } from "./windows";

function Details({ steel }: { steel: SteelView }) {
  const { show, say } = useUnits();
  const analysis = Object.entries(steel.analysis).filter(([, v]) => v > 0);
  return (
    <article>
      <header className="head">
        <h1>{steel.name}</h1>
        <span className="soft">
          {steel.family} · hardens in {HARDENING[steel.hardening]}
        </span>
      </header>
      <p className={`num ${css.analysis}`}>
        {analysis.map(([symbol, percent]) => (
          <span key={symbol}>
            {symbol} {percent}
          </span>
        ))}
      </p>
      <Designations all={steel.designations} />
      {steel.estimate?.reclaimed && (
        <p className="soft">
          Known by what it was, {OLD[steel.estimate.reclaimed.was]}, and{" "}
          {steel.estimate.reclaimed.coupons} coupons and {steel.estimate.reclaimed.readings}{" "}
          readings of its blades: carbon {steel.estimate.carbon[0]?.toFixed(2)} to{" "}
          {steel.estimate.carbon[2]?.toFixed(2)} %.{" "}
          <Link to={`/steels/trials?trial=${steel.key}`}>What it may be, and the next coupon</Link>
        </p>
      )}
      {steel.estimate && !steel.estimate.reclaimed && (
        <p className="soft">
          Known by a coupon trial: carbon likely {steel.estimate.carbon[1]} % (
          {steel.estimate.carbon[0]} to {steel.estimate.carbon[2]}). Its own readings will narrow
          it.
        </p>
      )}
      {steel.house && !steel.estimate && (
        <p className="soft">
          Known by its analysis: all of it by formulas
          {steel.formulas_hold ? "" : ", outside what they were tried for"}
          {(steel.distance ?? 0) < 0.3 ? ", close to a steel of the table" : ""}. Hardness from the
          quench is sure to about ±{steel.spread_hrc.toFixed(1)} HRC until your own readings narrow
          it.
        </p>
      )}
      <h2>Windows</h2>
      <Windows steel={steel} />
      <p>
        Soak <b className="num">{show("time", steel.soak_s)}</b> from back at heat. Martensite
        starts at <b className="num">{show("temperature", Math.round(steel.martensite_start_c))}</b>
        . As quenched <b className="num">{hrc(steel.as_quenched_hrc)} HRC</b> with{" "}
        {Math.round(steel.retained_percent)} % austenite left; sub-zero: {SUB_ZERO[steel.sub_zero]}.
        Quench: {steel.water_then_oil ? "water then oil, " : ""}
        {steel.media.map((m) => MEDIA[m as keyof typeof MEDIA]).join(", ")}.
      </p>
      <h2>Hardness after two tempers of two hours</h2>
      <Curve steel={steel} />
      <p>
        Its own ladder in your fire:{" "}
        <Link to={`/steels/ladders?steel=${steel.key}&along=tempers`}>
          coupons of several tempers
        </Link>
        , or{" "}
        <Link to={`/steels/ladders?steel=${steel.key}&along=heats`}>coupons of several heats</Link>.
      </p>
      <h2>What it serves for</h2>
      <ul className={css.suits}>
        {steel.suits.map((s) => (
          <li key={s.purpose}>
            <span aria-hidden="true">{s.well ? "✓" : "✗"}</span>
            <b>{capital(PURPOSES[s.purpose] ?? s.purpose)}</b>
            <span className="visually-hidden">{s.well ? ": serves. " : ": does not serve. "}</span>
            <span>{serves(s, say)}</span>
          </li>
        ))}
      </ul>
      <p className="soft">
        {steel.row_hrc == null
          ? "Computed, not a guarantee: each shop closes in on its own."
          : `Typical published values, sure to about ±${steel.row_hrc} HRC, ±${1.5 * steel.row_hrc} above ${show("temperature", 540)}; not a guarantee: each shop closes in on its own.`}
      </p>
    </article>
  );
}

/** What the shop has and knows of steels. */
export function SteelsPage() {
  const steels = useSteels();
  const [asked] = useSearchParams();
  const [chosen, setChosen] = useState(asked.get("steel") ?? "1084");
  const [adding, setAdding] = useState(false);
  const [name, setName] = useState("");
  const choose = (key: string) => {
    setChosen(key);
    setAdding(false);
  };
  const all = steels.data ?? [];
  const steel = all.find((s) => s.key === chosen) ?? all[0];
  const lists: [string, SteelView[]][] = [
    ["Your own", all.filter((s) => s.house)],
    ["Table", all.filter((s) => !s.house)],
  ];
  return (
    <div className="with-rack">
      <Side chosen={steel?.key}>
        <SteelNameField label="Find a steel" className={css.find} value={name} onChange={setName} />
        {name.trim() !== "" && (
          <FoundSteels name={name.trim()} chosen={steel?.key} onChoose={choose} />
        )}
        {(name.trim() === "" ? lists : []).map(([name, list]) => (
          <div key={name}>
            {(list.length > 0 || name === "Table") && <h3>{name}</h3>}
            {list.map((s) => (
              <button
                type="button"
                key={s.key}
                className={s.key === steel?.key ? "on" : ""}
                aria-current={s.key === steel?.key}
                onClick={() => choose(s.key)}
              >
                <b>{s.name}</b>
                <span className="soft">{HARDENING[s.hardening]}</span>
              </button>
            ))}
          </div>
        ))}
      </Side>
      <main className={`main ${css["page-in"]}`}>
        <div className="row-of end">
          <Button
            variant="outline-primary"
            aria-expanded={adding}
            onClick={() => setAdding(!adding)}
          >
            {adding ? "Not now" : "Add your own steel"}
          </Button>
        </div>
        {adding && <OwnSteel onDone={choose} />}
        {steel && <Details steel={steel} />}
      </main>
    </div>
  );
}
