import type { LessonsView } from "../api/client";
import { useLessons } from "../api/queries";
import { useWidth } from "../drawing/heat-path";
import { useUnits } from "../quantity/units";
import { hrc } from "../words/names";

/** Measured against predicted when the blade was left out; on the diagonal is right. */
function Plot({ lessons }: { lessons: LessonsView }) {
  const [ref, width] = useWidth<HTMLDivElement>(560);
  const size = Math.min(width, 460);
  const all = lessons.points.flatMap((p) => [
    p.measured_hrc,
    p.left_out_low_hrc,
    p.left_out_high_hrc,
  ]);
  const low = Math.floor(Math.min(...all, 56));
  const high = Math.ceil(Math.max(...all, 64));
  const at = (v: number) => 36 + ((v - low) / (high - low)) * (size - 48);
  const y = (v: number) => size - at(v) + 6;
  const ticks = Array.from({ length: Math.floor((high - low) / 2) + 1 }, (_, i) => low + i * 2);
  return (
    <div ref={ref}>
      <svg
        width={size}
        height={size + 14}
        role="img"
        aria-label="Measured hardness against prediction, each blade predicted from all the others"
        className="curve"
      >
        {ticks.map((t) => (
          <g key={t} className="grid">
            <line x1={36} x2={size - 12} y1={y(t)} y2={y(t)} />
            <text x={28} y={y(t) + 4} textAnchor="end">
              {t}
            </text>
            <text x={at(t)} y={size - 14} textAnchor="middle">
              {t}
            </text>
          </g>
        ))}
        <line className="diagonal" x1={at(low)} x2={at(high)} y1={y(low)} y2={y(high)} />
        {lessons.points.map((p, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a blade has several points
          <g key={i} className="lesson-point">
            <line
              x1={at(p.left_out_low_hrc)}
              x2={at(p.left_out_high_hrc)}
              y1={y(p.measured_hrc)}
              y2={y(p.measured_hrc)}
            />
            <path d={`M${at(p.left_out_hrc)} ${y(p.measured_hrc) - 4}l4 4-4 4-4-4z`}>
              <title>
                {p.mark}: predicted {hrc(p.left_out_hrc)}, read {hrc(p.measured_hrc)}
              </title>
            </path>
          </g>
        ))}
        <text className="axis" x={size - 12} y={size + 4} textAnchor="end">
          predicted without that blade, HRC
        </text>
        <text className="axis" x={36} y={12}>
          read, HRC
        </text>
      </svg>
    </div>
  );
}

const OTHERS: Record<string, string> = {
  line: "Height of the hamon",
  band: "Width of its band",
  side: "Sideways bend",
  crack: "Cracks",
};

/** How well an outcome other than hardness is predicted, in a sentence. */
export function otherLesson(o: LessonsView["others"][0]): string {
  const name = OTHERS[o.outcome] ?? o.outcome;
  const of = o.results === 1 ? "one result" : `${o.results} results`;
  if (o.outcome === "crack" || !o.after_rms) return `${name}: ${of} have moved the risk.`;
  // Band and bend are compared by ratio.
  const off = (rms: number) =>
    o.outcome === "line" ? `${rms.toFixed(1)} mm` : `a factor of ${Math.exp(rms).toFixed(1)}`;
  return `${name}: from ${of}, off by ${off(o.before_rms ?? 0)} by simulation alone, ${off(o.after_rms)} with your records; the intervals held ${Math.round(100 * (o.coverage ?? 0))} %.`;
}

/** What the records say: sentences first, the plot second. */
export function LessonsPage() {
  const { degrees } = useUnits();
  const query = useLessons();
  const l = query.data;
  const odd = [...(l?.points ?? [])]
    .filter((p) => p.measured_hrc < p.left_out_low_hrc || p.measured_hrc > p.left_out_high_hrc)
    .sort(
      (a, b) =>
        Math.abs(b.measured_hrc - b.left_out_hrc) - Math.abs(a.measured_hrc - a.left_out_hrc),
    )
    .slice(0, 6);
  return (
    <main className="page lessons">
      <h1>Lessons</h1>
      {query.error && <p role="alert">{query.error.message}</p>}
      {l && l.records === 0 && (
        <p>
          No readings yet. Fire a blade, read its hardness, and each result makes the next
          prediction better. A handful is enough to see it move.
        </p>
      )}
      {l && l.records === 0 && l.others.length > 0 && (
        <ul className="sentences">
          {l.others.map((o) => (
            <li key={o.outcome}>{otherLesson(o)}</li>
          ))}
        </ul>
      )}
      {l && l.records > 0 && (
        <div className="two">
          <div>
            <ul className="sentences">
              <li>
                From {l.records} results: physics alone is off by{" "}
                <b className="num">{l.before_rms_hrc.toFixed(2)} HRC</b>; with your records, each
                blade predicted from all the others, by{" "}
                <b className="num">{l.after_rms_hrc.toFixed(2)} HRC</b>.
              </li>
              {Math.abs(l.bias_hrc) >= 0.05 ? (
                <li>
                  Your readings come out{" "}
                  <b className="num">{Math.abs(l.bias_hrc).toFixed(1)} HRC</b>{" "}
                  {l.bias_hrc >= 0 ? "higher" : "lower"} than the typical numbers say.
                </li>
              ) : (
                <li>On the whole your readings come out as the typical numbers say.</li>
              )}
              <li>
                The intervals held <b className="num">{Math.round(100 * l.coverage)} %</b> of what
                was read; they promise 90.
              </li>
              {l.ovens.map((o) => (
                <li key={o.station_id}>
                  {o.name}{" "}
                  {o.by_check_c === null || o.by_check_c === undefined ? "seems to run" : "runs"}{" "}
                  <b className="num">
                    {degrees(Math.abs(o.runs_hot_c)).slice(1)} {o.runs_hot_c >= 0 ? "hot" : "cool"}
                  </b>
                  {o.by_check_c === null || o.by_check_c === undefined
                    ? ". A thermometer in the tray would settle it."
                    : `; its last check says ${degrees(o.by_check_c)}.`}
                </li>
              ))}
              {l.others.map((o) => (
                <li key={o.outcome}>{otherLesson(o)}</li>
              ))}
            </ul>
            {odd.length > 0 && (
              <>
                <h2>Did not fit</h2>
                <ul className="sentences">
                  {odd.map((p) => (
                    <li key={`${p.mark} ${p.stage}`}>
                      <b className="num">{p.mark}</b>{" "}
                      {p.stage === "tempered" ? "tempered" : "as quenched"}: read{" "}
                      <b className="num">{hrc(p.measured_hrc)}</b>, the other blades say{" "}
                      {hrc(p.left_out_low_hrc)} to {hrc(p.left_out_high_hrc)}.
                    </li>
                  ))}
                </ul>
              </>
            )}
          </div>
          <Plot lessons={l} />
        </div>
      )}
    </main>
  );
}
