//! Prints what twenty blades come to: sori, chance of warp, chance of a crack, when each may come out of the bath. The
//! table of `docs/model.md` is its answer.

use vatten_core::geometry::blade::{Blade, BladeDraft};
use vatten_core::geometry::clay::Clay;
use vatten_core::learning::bias_models::BiasModels;
use vatten_core::material::steel::Steel;
use vatten_core::prediction::outcome::outcomes;
use vatten_core::process::plan::Plan;
use vatten_core::process::workpiece::Workpiece;
use vatten_core::simulation::straightening::straightening;

/// Steel, quench, clay (from the edge, thickness, mm), length, width, spine and edge, mm.
type Row = (&'static str, &'static str, Option<(f64, f64)>, [f64; 4]);

const WATER: &str = r#"{"medium":"water"}"#;
const STILL: &str = r#"{"medium":"water","agitation":"still"}"#;
const FAST: &str = r#"{"medium":"fast_oil"}"#;
const MEDIUM: &str = r#"{"medium":"medium_oil"}"#;
const PLATES: &str = r#"{"medium":"plates"}"#;
const WATER_OIL: &str = r#"{"medium":"water","for_s":2.5},{"medium":"fast_oil"}"#;

const ROWS: [Row; 20] = [
    ("w2", WATER, None, [180.0, 30.0, 5.0, 0.6]),
    ("w2", WATER, Some((12.0, 3.0)), [180.0, 30.0, 5.0, 0.6]),
    ("w2", STILL, Some((12.0, 3.0)), [180.0, 30.0, 5.0, 0.6]),
    ("w2", WATER_OIL, Some((12.0, 3.0)), [180.0, 30.0, 5.0, 0.6]),
    ("w2", FAST, Some((12.0, 3.0)), [180.0, 30.0, 5.0, 0.6]),
    ("w2", STILL, Some((12.0, 3.0)), [700.0, 30.0, 7.0, 1.5]),
    ("1095", WATER, Some((12.0, 3.0)), [700.0, 30.0, 7.0, 1.5]),
    ("1095", FAST, None, [200.0, 32.0, 4.5, 0.8]),
    ("1095", WATER, None, [200.0, 32.0, 4.5, 0.8]),
    ("1075", FAST, None, [200.0, 32.0, 4.5, 0.8]),
    ("1084", FAST, None, [240.0, 45.0, 2.0, 0.5]),
    ("1084", FAST, None, [240.0, 45.0, 2.5, 0.5]),
    ("1084", FAST, None, [240.0, 45.0, 4.0, 0.5]),
    ("1084", PLATES, None, [240.0, 45.0, 2.0, 0.5]),
    ("80crv2", MEDIUM, None, [240.0, 45.0, 2.5, 0.5]),
    ("5160", MEDIUM, None, [400.0, 45.0, 6.0, 1.2]),
    ("52100", MEDIUM, None, [200.0, 32.0, 4.5, 0.8]),
    ("o1", MEDIUM, None, [200.0, 32.0, 4.5, 0.8]),
    ("o1", WATER, None, [200.0, 32.0, 4.5, 0.8]),
    ("a2", PLATES, None, [200.0, 32.0, 4.5, 0.8]),
];

fn main() -> Result<(), Box<dyn std::error::Error>> {
    println!("| blade | sori, mm | out of line | crack | may come out |");
    println!("|---|---|---|---|---|");
    for (key, stages, clay, [length, width, spine, edge]) in ROWS {
        let steel = Steel::built_in(key).ok_or("no such steel")?;
        let blade = Blade::parse(&BladeDraft {
            length_mm: Some(length),
            width_mm: Some(width),
            spine_mm: Some(spine),
            edge_mm: Some(edge),
            ..BladeDraft::default()
        })
        .map_err(|f| f.to_string())?;
        let normalize = steel.normalize.map_or_else(String::new, |t| {
            format!(r#"{{"kind":"normalize","temperature_c":{}}},"#, t.value())
        });
        let steps = format!(
            r#"[{normalize}{{"kind":"austenitize","temperature_c":{},"soak_s":{}}},{{"kind":"quench","stages":[{stages}]}},{{"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}}]"#,
            steel.austenitize.nominal.value(),
            steel.soak.value()
        );
        let drafts: Vec<_> = serde_json::from_str(&steps)?;
        let plan = Plan::parse(&drafts).map_err(|f| f.to_string())?;
        let work = Workpiece {
            clay: clay.map_or_else(Clay::default, |(from, mm)| Clay::band(from, mm)),
            ..Workpiece::plain(&blade)
        };
        let found = outcomes(&work, &plan, steel, &BiasModels::default(), 2.0, None)
            .map_err(|_| "it was stopped")?
            .0;
        let out = straightening(&plan, steel, &work);
        let media: Vec<&str> = stages.split('"').skip(3).step_by(12).collect();
        let clay = clay.map_or_else(String::new, |(from, mm)| {
            format!(", {mm} mm clay above {from}")
        });
        println!(
            "| {key} {}{clay}, {length} × {width} × {spine}/{edge} | {:+.2} | {:.1} % | {:.1} % | {} |",
            media.first().unwrap_or(&""),
            found.bend.sori_mm,
            100.0 * found.bend.side_over_tolerance_probability,
            100.0 * found.crack.probability,
            out.map_or_else(|| "–".to_owned(), |w| format!("{:.1} s", w.pull_s)),
        );
    }
    Ok(())
}
