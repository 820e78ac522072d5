import { useQuery } from "@tanstack/react-query";
import type { Eyes } from "../api/client";
import { queries } from "../api/queries";
import { chipOf } from "../plan/judged-by";
import { useUnits } from "../quantity/units";
import { GLOWS, LIGHTS } from "../words/sightings";
import css from "./stations.module.css";

type Kept = Eyes["eyes"][number];

const LIGHT_KEYS = Object.keys(LIGHTS) as (keyof typeof LIGHTS)[];
const COLOURS = Object.keys(GLOWS) as (keyof typeof GLOWS)[];

/** What an eye was found to do, in a sentence. */
function Found({ kept }: { kept: Kept }) {
  const { say } = useUnits();
  const { offset_c, doubt_c, looks } = kept.eye;
  if (looks === 0) {
    return (
      <p>
        Not tried yet. At the fire, press “Colour, magnet” while a thermocouple shows the heat: each
        look beside it teaches what {kept.name} calls a colour.
      </p>
    );
  }
  const sure = Math.abs(offset_c) > 1.645 * doubt_c;
  return (
    <p>
      {looks === 1 ? "One look" : `${looks} looks`} beside a thermocouple.{" "}
      {sure
        ? `Steel is ${say.difference(Math.abs(offset_c))} ${offset_c > 0 ? "hotter" : "cooler"} than the colours ${kept.name} names usually mean, give or take ${say.difference(doubt_c)}.`
        : `No difference from what the names usually mean is to be told: within ${say.difference(1.645 * doubt_c)}.`}
    </p>
  );
}

/** What the eye of an operator calls colours, by light. */
export function EyeTable({ stationId }: { stationId: string }) {
  const { show, say } = useUnits();
  const eyes = useQuery(queries.eyes()).data;
  const kept = eyes?.eyes.find((e) => e.station_id === stationId);
  if (!kept) return null;
  const seen = (colour: string, light: string) =>
    kept.sees.find((s) => s.colour === colour && s.light === light);
  return (
    <>
      <h3 className="small-head">What {kept.name} calls a colour</h3>
      <Found kept={kept} />
      <table className={css["eye-table"]}>
        <thead>
          <tr>
            <th scope="col">Colour</th>
            {LIGHT_KEYS.map((light) => (
              <th key={light} scope="col" className="num">
                {LIGHTS[light]}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {COLOURS.map((colour) => (
            <tr key={colour}>
              <th scope="row">
                <span
                  className={css["glow-chip"]}
                  style={{ backgroundColor: chipOf(colour, "dim", eyes) }}
                  aria-hidden="true"
                />
                {GLOWS[colour]}
              </th>
              {LIGHT_KEYS.map((light) => {
                const s = seen(colour, light);
                return (
                  <td key={light} className="num">
                    {s && `${show("temperature", s.middle_c)} ± ${say.difference(s.deviation_c)}`}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="soft">
        ± is one standard deviation: two looks in three lie within. Screens show colours as they
        can: go by the names.
      </p>
    </>
  );
}
