import { createContext, type ReactNode, useContext, useEffect, useMemo, useState } from "react";
import { singleKey } from "../keys";
import { type Say, say } from "../words/quantities";
import type { Kind, Units } from "./parse";
import { show, showAbout, showDegrees } from "./parse";
import { showIn } from "./shown";

interface Shown {
  units: Units;
  toggle: () => void;
  show: (kind: Kind, value: number) => string;
  /** A computed length, mm. */
  about: (mm: number) => string;
  /** A difference of temperatures, °C, with its sign. */
  degrees: (c: number) => string;
  /** Quantities inside a sentence. */
  say: Say;
}

const METRIC: Units = { temperature: "c", length: "mm" };
const Context = createContext<Shown>({
  units: METRIC,
  toggle: () => {},
  show: (kind, value) => show(kind, value, METRIC),
  about: (mm) => showAbout(mm, METRIC),
  degrees: (c) => showDegrees(c, METRIC),
  say: say(METRIC),
});

const KEY = "vatten.units";

/** The units of the shop, until this device chose others with U. */
export function UnitsProvider({ shop, children }: { shop: Units; children: ReactNode }) {
  const [own, setOwn] = useState<Units | null>(() => {
    const kept = localStorage.getItem(KEY);
    if (kept === "metric") return METRIC;
    return kept === "inch" ? { temperature: "f", length: "in" } : null;
  });
  const units = own ?? shop;
  showIn(units);
  const value = useMemo(() => {
    const toggle = () => {
      const inch = units.temperature === "c";
      localStorage.setItem(KEY, inch ? "inch" : "metric");
      setOwn(inch ? { temperature: "f", length: "in" } : METRIC);
    };
    return {
      units,
      toggle,
      show: (kind: Kind, v: number) => show(kind, v, units),
      about: (mm: number) => showAbout(mm, units),
      degrees: (c: number) => showDegrees(c, units),
      say: say(units),
    };
  }, [units]);
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (singleKey(event) === "u") value.toggle();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [value]);
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

export const useUnits = () => useContext(Context);
