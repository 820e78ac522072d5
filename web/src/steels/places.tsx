import { NavLink } from "react-router";
import css from "./steels.module.css";

const PLACES = [
  ["/steels", "Steels"],
  ["/steels/compare", "Compare"],
  ["/steels/bars", "Bars in stock"],
  ["/steels/ladders", "Ladders"],
  ["/steels/trials", "Unknown steel"],
] as const;

/** The parts of the steels place. */
export function SteelPlaces() {
  return (
    <div className={css["steel-places"]}>
      {PLACES.map(([to, name]) => (
        <NavLink key={to} to={to} end className={({ isActive }) => (isActive ? "on" : "")}>
          {name}
        </NavLink>
      ))}
    </div>
  );
}
