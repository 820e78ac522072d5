//! The reference checks of `data/checks.csv` that concern critical temperatures, what dissolves,
//! hardness, tempering and grain number: each row is one case, its value and tolerance read from the
//! file. The rows on transformation, quench simulation, hamon and heating belong to the engine.

use crate::reference;

use reference::numbers;
use rstest::rstest;
use vatten_core::geometry::blade::{Blade, BladeDraft};
use vatten_core::material::analysis::Analysis;
use vatten_core::material::critical;
use vatten_core::material::hardness;
use vatten_core::material::steel::Steel;
use vatten_core::material::temper;
use vatten_core::process::plan::Plan;
use vatten_core::process::step_draft::StepDraft;
use vatten_core::quantity::units::{Celsius, Quantity};
use vatten_core::simulation::physics::{Shift, physics};

fn tempered(steel: &str, steps: &str) -> f64 {
    let drafts: Vec<StepDraft> = serde_json::from_str(steps).unwrap();
    let blade = BladeDraft {
        length_mm: Some(180.0),
        width_mm: Some(30.0),
        spine_mm: Some(4.0),
        edge_mm: Some(0.8),
        ..BladeDraft::default()
    };
    let plan = Plan::parse(&drafts).unwrap();
    let steel = Steel::built_in(steel).unwrap();
    physics(
        &plan,
        steel,
        &Blade::parse(&blade).unwrap(),
        Shift::default(),
    )
    .tempered_hrc
}

fn c(value: f64) -> Celsius {
    Celsius::clamped(value)
}

fn grain_number(intercept_mm: f64) -> f64 {
    vatten_core::simulation::grain::astm_number(intercept_mm)
}

#[rstest]
#[case("andrews_ac1_5160", critical::ac1_c(&Analysis { carbon: 0.60, manganese: 0.85, silicon: 0.25, chromium: 0.80, ..Analysis::default() }))]
#[case("andrews_ms_1050", critical::martensite_start_c(&Analysis { carbon: 0.50, manganese: 0.75, ..Analysis::default() }))]
#[case("km_ra_200_20", hardness::retained_austenite_percent(200.0, 20.0))]
#[case("km_ra_200_m75", hardness::retained_austenite_percent(200.0, -75.0))]
#[case("hj_205c_4h", temper::parameter(c(205.0), 4.0))]
#[case(
    "hj_equiv",
    temper::equivalent_hours(temper::parameter(c(230.0), 1.0), c(205.0))
)]
#[case("e140_697hv", hardness::hrc_of_hv(697.0))]
#[case("e140_513hv", hardness::hrc_of_hv(513.0))]
#[case("astm_grain_10um", grain_number(0.010))]
#[case("temper_1084_205", tempered("1084", r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},
    {"kind":"quench","stages":[{"medium":"fast_oil","bath_c":50}]},{"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}]"#))]
#[case("temper_5160_190", tempered("5160", r#"[{"kind":"austenitize","temperature_c":830,"soak_s":300},
    {"kind":"quench","stages":[{"medium":"medium_oil"}]},{"kind":"temper","temperature_c":190,"hold_s":7200,"times":2}]"#))]
#[case("temper_x65cr13_175", tempered("x65cr13", r#"[{"kind":"austenitize","temperature_c":1060,"soak_s":720},
    {"kind":"quench","stages":[{"medium":"plates"}]},{"kind":"sub_zero","temperature_c":-75,"hold_s":7200},
    {"kind":"temper","temperature_c":175,"hold_s":7200,"times":2}]"#))]
fn reference_value(#[case] id: &str, #[case] got: f64) {
    let (value, tolerance) = numbers(id);
    assert!(
        (got - value).abs() <= tolerance,
        "{id}: {got}, wanted {value} ± {tolerance}"
    );
}
