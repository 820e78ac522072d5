//! Prints how the sag towards the spine settles as sections are divided more finely, as an SVG: the plot of
//! `docs/model.md` (`cargo run --release -p vatten-core --example warp_convergence >docs/warp-convergence.svg`).

use std::fmt::Write;
use vatten_core::geometry::blade::{Blade, BladeDraft};
use vatten_core::geometry::clay::Clay;
use vatten_core::material::medium::Medium;
use vatten_core::material::steel::Steel;
use vatten_core::process::heat_transfer::Agitation;
use vatten_core::process::plan::Plan;
use vatten_core::process::step::Stage;
use vatten_core::process::workpiece::Workpiece;
use vatten_core::quantity::units::Kelvins;
use vatten_core::simulation::heat::Heat;
use vatten_core::simulation::warp::blade::case_at;
use vatten_core::simulation::warp::course::Course;
use vatten_core::simulation::warp::run::bend;
use vatten_core::simulation::warp::section::{Faces, Fineness, Section};

/// Name, steel, medium, clay from so many mm above the edge on, length, width, spine and edge, mm.
type Row = (&'static str, &'static str, Medium, Option<f64>, [f64; 4]);

const ROWS: [Row; 5] = [
    (
        "W2, still water, clay, 700 mm",
        "w2",
        Medium::Water,
        Some(12.0),
        [700.0, 30.0, 7.0, 1.5],
    ),
    (
        "1095, brine, clay, 700 mm",
        "1095",
        Medium::Brine,
        Some(12.0),
        [700.0, 30.0, 7.0, 1.5],
    ),
    (
        "W2, still water, clay, 180 mm",
        "w2",
        Medium::Water,
        Some(12.0),
        [180.0, 30.0, 5.0, 0.6],
    ),
    (
        "1084, fast oil, bare, 240 mm",
        "1084",
        Medium::FastOil,
        None,
        [240.0, 45.0, 2.5, 0.5],
    ),
    (
        "1095, fast oil, bare, 240 mm",
        "1095",
        Medium::FastOil,
        None,
        [240.0, 45.0, 4.0, 0.5],
    ),
];

/// Rows, layers and the largest change of temperature in a step, K, from coarse to fine.
const GRIDS: [(usize, usize, f64); 5] = [
    (10, 4, 8.0),
    (20, 4, 6.0),
    (20, 6, 4.0),
    (30, 8, 4.0),
    (60, 12, 1.5),
];

const WIDE: f64 = 720.0;
/// Room for the names.
const NAMES: f64 = 270.0;
const HIGH: f64 = 320.0;
const LEFT: f64 = 56.0;
/// Shown beside the finest, percent.
const REACH: f64 = 16.0;

/// Sag towards the spine of the middle section over the whole length, mm: the answer for ever smaller steps.
fn sori(row: &Row, grid: (usize, usize, f64)) -> Result<f64, Box<dyn std::error::Error>> {
    let (_, key, medium, clay, [length, width, spine, edge]) = *row;
    let steel = Steel::built_in(key).ok_or("no such steel")?;
    let blade = Blade::parse(&BladeDraft {
        length_mm: Some(length),
        width_mm: Some(width),
        spine_mm: Some(spine),
        edge_mm: Some(edge),
        ..BladeDraft::default()
    })
    .map_err(|f| f.to_string())?;
    let steps = format!(
        r#"[{{"kind":"austenitize","temperature_c":{},"soak_s":{}}},{{"kind":"quench","stages":[{{"medium":"water"}}]}}]"#,
        steel.austenitize.nominal.value(),
        steel.soak.value()
    );
    let drafts: Vec<_> = serde_json::from_str(&steps)?;
    let plan = Plan::parse(&drafts).map_err(|f| f.to_string())?;
    let work = Workpiece::plain(&blade);
    let heat = Heat::new(&work, &plan, steel, Kelvins::ZERO);
    let stage = Stage {
        agitation: (medium == Medium::Water).then_some(Agitation::Still),
        ..Stage::until_cold(medium)
    };
    let course = Course::new(&[stage]);
    let clay = clay.map_or_else(Clay::default, |from| Clay::band(from, 3.0));
    let fineness = Fineness {
        rows: grid.0,
        layers: grid.1,
        clay_layers: 3,
    };
    let section = Section::of_blade(
        &work.form,
        &clay,
        0.45 * length,
        fineness,
        Faces::Alike,
        [1.0; 2],
    )
    .ok_or("no section")?;
    let curvature = |step_k: f64| {
        let case = case_at(&work, &heat, &course, 0.45 * length, step_k);
        bend(&section, &case, None).map(|b| -b.curvature[0])
    };
    let fine = curvature(grid.2).map_err(|_| "stopped")?;
    let coarse = curvature(2.0 * grid.2).map_err(|_| "stopped")?;
    Ok((2.0 * fine - coarse) * (1e-3 * length).powi(2) / 8.0 * 1e3)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let x = |cells: f64| {
        let (low, high) = (40f64.ln(), 720f64.ln());
        LEFT + (cells.ln() - low) / (high - low) * (WIDE - LEFT - NAMES)
    };
    let y = |percent: f64| {
        20.0 + (REACH - percent.clamp(-REACH, REACH)) / (2.0 * REACH) * (HIGH - 60.0)
    };
    let mut svg = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {WIDE} {HIGH}\" font-family=\"sans-serif\" font-size=\"11\">\n"
    );
    for percent in [-15.0, -10.0, -5.0, 0.0, 5.0, 10.0, 15.0] {
        writeln!(
            svg,
            "<line x1=\"{LEFT}\" x2=\"{}\" y1=\"{1:.1}\" y2=\"{1:.1}\" stroke=\"#c9c4b8\"/><text x=\"{2}\" y=\"{3:.1}\" text-anchor=\"end\">{percent:+} %</text>",
            WIDE - NAMES,
            y(percent),
            LEFT - 6.0,
            y(percent) + 4.0
        )?;
    }
    for (rows, layers, step_k) in GRIDS {
        let at = x((rows * layers) as f64);
        writeln!(
            svg,
            "<text x=\"{at:.1}\" y=\"{}\" text-anchor=\"middle\">{rows} × {layers}</text><text x=\"{at:.1}\" y=\"{}\" text-anchor=\"middle\">{step_k} K</text>",
            HIGH - 24.0,
            HIGH - 10.0
        )?;
    }
    let colours = ["#14201f", "#1f6f78", "#a4432b", "#7f8886", "#c98a34"];
    let mut named = 0.0;
    for (row, colour) in ROWS.iter().zip(colours) {
        let all: Vec<f64> = GRIDS
            .iter()
            .map(|grid| sori(row, *grid))
            .collect::<Result<_, _>>()?;
        eprintln!("{}: {all:.3?} mm", row.0);
        let finest = all[GRIDS.len() - 1];
        // Against the finest; where that is small, 0.02 mm count as five percent.
        let off = |mm: f64| 100.0 * (mm - finest) / finest.abs().max(0.4);
        let points: Vec<String> = GRIDS
            .iter()
            .zip(&all)
            .map(|(g, mm)| format!("{:.1},{:.1}", x((g.0 * g.1) as f64), y(off(*mm))))
            .collect();
        named += 1.0;
        let place = 20.0 + 16.0 * named;
        writeln!(
            svg,
            "<polyline points=\"{}\" fill=\"none\" stroke=\"{colour}\" stroke-width=\"1.8\"/><text x=\"{}\" y=\"{place}\" fill=\"{colour}\">{}: {finest:+.2} mm</text>",
            points.join(" "),
            WIDE - NAMES + 8.0,
            row.0
        )?;
    }
    println!("{svg}</svg>");
    Ok(())
}
