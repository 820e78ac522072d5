import { scaleLinear } from "d3-scale";
import { useState } from "react";
import { Table } from "react-bootstrap";
import type { SteelView } from "../api/client";
import { useSteels } from "../api/queries";
import { spread, useWidth } from "../drawing/heat-path";
import { Choice } from "../fields/choice";
import { useUnits } from "../quantity/units";
import { capital, hrc, MEDIA, PURPOSE_TARGETS, PURPOSES } from "../words/names";
import { serves } from "../words/steels";
import { SteelByName } from "./by-name";
import { Side } from "./side";
import css from "./steels.module.css";

/** Lines told apart by their dashes, not by colour. */
const DASHES = ["", "9 4", "2 4", "12 4 2 4"];
const MOST = 4;

/** Hardness against temper of several steels, with the window that is wanted. */
function Curves({ steels, window }: { steels: SteelView[]; window: [number, number] }) {
  const [ref, width] = useWidth<HTMLDivElement>(760);
  const { units } = useUnits();
  const height = 260;
  const [x0, x1, y0, y1] = [44, width - 120, 12, height - 30];
  const x = scaleLinear([120, 650], [x0, x1]);
  const y = scaleLinear([40, 68], [y1, y0]);
  const degrees = (t: number) => (units.temperature === "f" ? Math.round((t * 9) / 5 + 32) : t);
  const ends = steels.map((s) => {
    const shown = s.temper_curve.filter((p) => (p[1] ?? 0) >= 40);
    return { s, shown, last: shown.at(-1) };
  });
  const labels = spread(
    ends.map((e) => y(e.last?.[1] ?? 40)),
    13,
    y1,
  );
  return (
    <div ref={ref}>
      <svg
        width={width}
        height={height}
        className="curve"
        role="img"
        aria-label={`Hardness after tempering of ${steels.map((s) => s.name).join(", ")}`}
      >
        <g className={css["wanted-band"]}>
          <rect x={x0} width={x1 - x0} y={y(window[1])} height={y(window[0]) - y(window[1])} />
          <text x={x1 - 4} y={y(window[1]) - 4} textAnchor="end">
            wanted
          </text>
        </g>
        {[40, 45, 50, 55, 60, 65].map((h) => (
          <g key={h} className="grid">
            <line x1={x0} x2={x1} y1={y(h)} y2={y(h)} />
            <text x={x0 - 8} y={y(h) + 4} textAnchor="end">
              {h}
            </text>
          </g>
        ))}
        {[150, 200, 300, 400, 500, 600].map((t) => (
          <text key={t} className="tick" x={x(t)} y={y1 + 17} textAnchor="middle">
            {degrees(t)}
          </text>
        ))}
        {ends.map(({ s, shown, last }, i) => (
          <g key={s.key}>
            <polyline
              points={shown.map((p) => `${x(p[0] ?? 0)},${y(p[1] ?? 0)}`).join(" ")}
              strokeDasharray={DASHES[i]}
            />
            {last && (
              <text className="axis" x={x(last[0] ?? 0) + 6} y={(labels[i] ?? 0) + 4}>
                {s.name}
              </text>
            )}
          </g>
        ))}
      </svg>
    </div>
  );
}

/** Up to four steels for a purpose, side by side. */
export function ComparePage() {
  const { show, say } = useUnits();
  const all = useSteels().data ?? [];
  const hardenable = all.filter((s) => s.hardening !== "not_hardenable");
  const [keys, setKeys] = useState(["1084", "1095", "o1"]);
  const [purpose, setPurpose] = useState("all_round");
  const steels = keys.flatMap((k) => hardenable.find((s) => s.key === k) ?? []);
  const window = PURPOSE_TARGETS[purpose] ?? [59, 61];
  const toggle = (key: string) =>
    setKeys(keys.includes(key) ? keys.filter((k) => k !== key) : [...keys, key].slice(-MOST));
  const rows: [string, (s: SteelView) => string][] = [
    [
      "Serves",
      (s) => {
        const suits = s.suits.find((u) => u.purpose === purpose);
        return suits ? serves(suits, say) : "";
      },
    ],
    ["Quench", (s) => s.media.map((m) => MEDIA[m as keyof typeof MEDIA]).join(", ")],
    [
      "Austenitize",
      (s) =>
        `${show("temperature", s.austenitize_c)} (${show("temperature", s.austenitize_low_c)} to ${show("temperature", s.austenitize_high_c)})`,
    ],
    ["Soak", (s) => show("time", s.soak_s)],
    [
      "Normalize",
      (s) =>
        s.normalize_c ? show("temperature", Math.round(s.normalize_c)) : "never: hardens in air",
    ],
    ["As quenched", (s) => `${hrc(s.as_quenched_hrc)} HRC`],
    ["Austenite left", (s) => `${Math.round(s.retained_percent)} %`],
    ["Martensite starts", (s) => show("temperature", Math.round(s.martensite_start_c))],
    ["Grain coarsens", (s) => show("temperature", Math.round(s.coarsening_c))],
  ];
  return (
    <div className="with-rack">
      <Side>
        <h3>Up to four</h3>
        <SteelByName
          onChoose={(key) => {
            if (!keys.includes(key)) toggle(key);
          }}
        />
        {hardenable.map((s) => (
          <label key={s.key} className={css.pick}>
            <input type="checkbox" checked={keys.includes(s.key)} onChange={() => toggle(s.key)} />{" "}
            {s.name}
          </label>
        ))}
      </Side>
      <main className={`main ${css["page-in"]}`}>
        <header className="head">
          <h1>Compare</h1>
          <Choice label="For" value={purpose} options={PURPOSES} onChange={setPurpose} />
        </header>
        {steels.length === 0 ? (
          <p>Tick up to four steels on the left.</p>
        ) : (
          <>
            <Curves steels={steels} window={window} />
            <div className={`methods ${css.compare}`}>
              <Table>
                <thead>
                  <tr>
                    <td />
                    {steels.map((s) => (
                      <th key={s.key} scope="col">
                        {s.name}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {rows.map(([name, of]) => (
                    <tr key={name}>
                      <th scope="row">{name}</th>
                      {steels.map((s) => {
                        const well = s.suits.find((u) => u.purpose === purpose)?.well;
                        const mark = name === "Serves" ? (well ? "✓ " : "✗ ") : "";
                        return <td key={s.key}>{mark + capital(of(s))}</td>;
                      })}
                    </tr>
                  ))}
                </tbody>
              </Table>
            </div>
            <p className="soft">
              Typical published values, not a guarantee: each shop closes in on its own.
            </p>
          </>
        )}
      </main>
    </div>
  );
}
