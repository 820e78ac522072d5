//! Every row of the reference file `data/checks.csv`: its value, its tolerance, and what the core says.

use crate::bars;
use crate::reference::{ids, row};
use rstest::rstest;
use std::collections::BTreeSet;
use vatten_core::geometry::blade::{Blade, BladeDraft};
use vatten_core::geometry::clay::Clay;
use vatten_core::geometry::form::Form;
use vatten_core::material::analysis::Analysis;
use vatten_core::material::critical;
use vatten_core::material::dissolution::{Structure, dissolve};
use vatten_core::material::hardness;
use vatten_core::material::medium::Medium;
use vatten_core::material::steel::Steel;
use vatten_core::material::temper;
use vatten_core::process::furnace::{Furnace, Load, time_to_heat_s};
use vatten_core::process::heat_transfer::{Agitation, Film};
use vatten_core::process::plan::Plan;
use vatten_core::process::step::Stage;
use vatten_core::process::step_draft::StepDraft;
use vatten_core::process::workpiece::Workpiece;
use vatten_core::quantity::units::{Celsius, Kelvins, Quantity, Seconds};
use vatten_core::simulation::grain::astm_number;
use vatten_core::simulation::hamon::{Hamon, NoLine, hamon};
use vatten_core::simulation::heat::Heat;
use vatten_core::simulation::physics::{Shift, physics};
use vatten_core::simulation::quench::{Setup, Through, quench};
use vatten_core::simulation::transformation::Kinetics;

/// Rows that the core does not meet: what it reaches, and why. At most four.
const KNOWN: [(&str, f64, &str); 1] = [(
    "hamon_w2_water_oil",
    1.0,
    "moved water takes five millimetres of bare W2 past the nose within a second, so that two seconds harden it \
     to the spine at its faces; a second and less leaves the line between",
)];

fn blade(width: f64, spine: f64, edge: f64, grind: &str) -> Blade {
    Blade::parse(&BladeDraft {
        shape: Some("plain".into()),
        length_mm: Some(180.0),
        width_mm: Some(width),
        spine_mm: Some(spine),
        edge_mm: Some(edge),
        grind: Some(grind.into()),
    })
    .unwrap()
}

fn c(value: f64) -> Celsius {
    Celsius::clamped(value)
}

fn plan(steps: &str) -> Plan {
    let drafts: Vec<StepDraft> = serde_json::from_str(steps).unwrap();
    Plan::parse(&drafts).unwrap()
}

/// Hardness after a plan on a small blade, HRC.
fn treated(steel: &Steel, steps: &str) -> f64 {
    let blade = blade(30.0, 4.0, 0.8, "flat");
    physics(&plan(steps), steel, &blade, Shift::default()).tempered_hrc
}

/// The same with a steel of the table.
fn known(steel: &str, steps: &str) -> f64 {
    treated(Steel::built_in(steel).unwrap(), steps)
}

/// Austenitize, quench between plates, what follows, and tempers.
fn steps(heat_c: f64, soak_min: f64, cold: &str, tempers: u32, hours: f64, t: f64) -> String {
    format!(
        r#"[{{"kind":"austenitize","temperature_c":{heat_c},"soak_s":{}}},{{"kind":"quench","stages":[{{"medium":"plates"}}]}},{cold}
        {{"kind":"temper","temperature_c":{t},"hold_s":{},"times":{tempers}}}]"#,
        60.0 * soak_min,
        3600.0 * hours
    )
}

const COLD: &str = r#"{"kind":"sub_zero","temperature_c":-75,"hold_s":7200},"#;

fn by_analysis(pairs: &str) -> Steel {
    let analysis = elements(pairs);
    Steel::from_analysis("own", "own", &analysis)
}

fn elements(pairs: &str) -> Analysis {
    let words: Vec<&str> = pairs.split_whitespace().collect();
    let read = words
        .chunks(2)
        .map(|p| (p[0].to_owned(), p[1].parse().unwrap()));
    Analysis::parse(&read.collect()).unwrap()
}

/// 1080 of the isothermal atlas, all dissolved.
fn of_1080(grain: f64) -> Kinetics {
    let a = elements("C 0.79 Mn 0.76 Si 0.2");
    Kinetics::new(&a, 723.0, grain, critical::martensite_start_c(&a))
}

/// Kinetics of a steel after its nominal soak, grain number given.
fn nominal(steel: &str, grain: f64) -> (&'static Steel, Kinetics, f64) {
    let steel = Steel::built_in(steel).unwrap();
    let d = steel.nominal_dissolved();
    let kinetics = Kinetics::new(&d.composition, steel.ac1_c, grain, d.martensite_start_c);
    (
        steel,
        kinetics,
        steel.hardened_hrc(&d, d.retained(20.0), &[]).0,
    )
}

fn first_pearlite(steel: &str) -> f64 {
    nominal(steel, 9.0).1.pearlite_nose().0
}

/// Hardness of the end-quench bar, HRC.
fn end_quenched(steel: &Steel, grain: f64, x_mm: f64) -> f64 {
    let d = steel.nominal_dissolved();
    let kinetics = Kinetics::new(&d.composition, steel.ac1_c, grain, d.martensite_start_c);
    let hard = steel.hardened_hrc(&d, d.retained(20.0), &[]).0;
    bars::end_quench(&kinetics, 845.0, x_mm).0.hrc(hard)
}

/// Depth of half martensite in a bar of 19 mm in brine, mm.
fn case_of_a_bar(steel: &str) -> f64 {
    let (_, kinetics, _) = nominal(steel, 9.0);
    let film = Film::new(Medium::Brine, c(25.0), Agitation::Moved);
    let bar = bars::round(&kinetics, &film, 19.0, 795.0, 0.0);
    let spots = &bar.0;
    let width = 9.5 / spots.len() as f64;
    let soft = spots.iter().rposition(|s| s.hardened() < 0.5);
    let Some(i) = soft else { return 9.5 };
    let at = |k: usize| spots[k].hardened();
    let next = (i + 1).min(spots.len() - 1);
    let part = if next > i {
        (0.5 - at(i)) / (at(next) - at(i))
    } else {
        0.0
    };
    9.5 - width * (i as f64 + 0.5 + part)
}

fn nominal_heat(steel: &str) -> Heat {
    let steel = Steel::built_in(steel).unwrap();
    let plan = plan(&format!(
        r#"[{{"kind":"normalize","temperature_c":860,"times":1}},{{"kind":"austenitize","temperature_c":{},"soak_s":{}}},
        {{"kind":"quench","stages":[{{"medium":"fast_oil"}}]}}]"#,
        steel.austenitize.nominal.value(),
        steel.soak.value()
    ));
    let work = Workpiece::plain(&blade(30.0, 4.0, 0.8, "flat"));
    Heat::new(&work, &plan, steel, Kelvins::ZERO)
}

/// Thickest plate with half martensite in the middle, mm.
fn half_plate(steel: &str, medium: Medium) -> f64 {
    let form = Form::from_blade(&blade(30.0, 4.0, 4.0, "none"));
    nominal_heat(steel).reach_mm(&form, &[Stage::until_cold(medium)])
}

/// A plate through its thickness after the quench.
fn plate(steel: &str, medium: Medium, mm: f64) -> Through {
    let form = Form::from_blade(&blade(40.0, mm, mm, "none"));
    let (steel, kinetics, _) = nominal(steel, 9.0);
    let stages = [Stage::until_cold(medium)];
    let clay = Clay::default();
    let setup = Setup::usual(&form, &clay, &kinetics, steel.austenitize.nominal, &stages);
    let q = quench(setup, None).unwrap();
    q.through(q.cell_at(90.0, 20.0).unwrap())
}

/// Pearlite and bainite in the middle of five millimetres, percent.
fn soft_middle(steel: &str, medium: Medium) -> f64 {
    100.0 * (1.0 - plate(steel, medium, 5.0).middle.hardened())
}

/// Retained austenite of a steel of the table, percent.
fn retained(steel: &str, heat_c: f64) -> f64 {
    let steel = Steel::built_in(steel).unwrap();
    let soak = Seconds::clamped(steel.soak.value());
    let d = dissolve(&steel.limits(), c(heat_c), soak, steel.usual_structure());
    100.0 * d.retained(20.0)
}

fn kiln_s() -> f64 {
    let load = Load {
        furnace: Furnace::Kiln,
        set_c: 815.0,
        start_c: 20.0,
        mass_kg: 0.2,
        blades: 1,
    };
    time_to_heat_s(load, 723.0, 5.0)
}

/// Height of the line on the section of the reference, mm.
fn line_mm(stages: &[Stage]) -> f64 {
    let blade = blade(30.0, 5.0, 0.6, "flat");
    let form = Form::from_blade(&blade);
    let (steel, kinetics, _) = nominal("w2", 9.0);
    let clay = Clay::default();
    let setup = Setup::usual(&form, &clay, &kinetics, steel.austenitize.nominal, stages);
    match hamon(&quench(setup, None).unwrap(), blade.length_mm) {
        Hamon::Line(line) => line.height_mm,
        // Hard to the spine: the line has run off the blade.
        Hamon::None { none } => match none {
            NoLine::HardensThrough {} => blade.width_mm,
            other => panic!("{other:?}"),
        },
    }
}

/// How far the line of two seconds in water and then oil lies between that of oil (0) and that of water (1).
fn between_oil_and_water() -> f64 {
    let water = Stage {
        bath_c: c(25.0),
        ..Stage::until_cold(Medium::Water)
    };
    let oil = Stage::until_cold(Medium::FastOil);
    let first = Stage {
        for_s: Some(Seconds::clamped(2.0)),
        ..water
    };
    let (low, high) = (line_mm(&[oil]), line_mm(&[water]));
    (line_mm(&[first, oil]) - low) / (high - low)
}

/// What the core says of a row.
fn computed(id: &str) -> f64 {
    match id {
        "hj_205c_4h" => temper::parameter(c(205.0), 4.0),
        "hj_equiv" => temper::equivalent_hours(temper::parameter(c(230.0), 1.0), c(205.0)),
        "e140_697hv" => hardness::hrc_of_hv(697.0),
        "e140_513hv" => hardness::hrc_of_hv(513.0),
        "astm_grain_10um" => astm_number(0.010),
        "temper_1084_205" => known("1084", &OIL.replace("HEAT", "815").replace("TEMPER", "205")),
        "temper_5160_190" => known("5160", &OIL.replace("HEAT", "830").replace("TEMPER", "190")),
        "temper_x65cr13_175" => known("x65cr13", &steps(1060.0, 12.0, COLD, 2, 2.0, 175.0)),
        "nose_1084" => first_pearlite("1084"),
        "nose_o1" => first_pearlite("o1"),
        "section_5mm_o1_oil" => soft_middle("o1", Medium::MediumOil),
        "section_5mm_1084_fast" => soft_middle("1084", Medium::FastOil),
        "section_5mm_w2_slow" => soft_middle("w2", Medium::SlowOil),
        "section_5mm_1095_fast" => soft_middle("1095", Medium::FastOil),
        "hamon_w2_water_oil" => between_oil_and_water(),
        "heat_5mm_kiln" => kiln_s(),
        "ms_1080" => of_1080(6.0).martensite_start_c(),
        "bainite_1080_350" => bars::seconds_held(&of_1080(6.0), 350.0, 0.01),
        "nose_1080_50" => {
            let k = of_1080(6.0);
            bars::seconds_held(&k, k.pearlite_nose().1, 0.5)
        }
        "nose_a2" => first_pearlite("a2"),
        "ccr_1080" => bars::critical_rate(&of_1080(6.0), 0.99),
        "jominy_5160_12" => end_quenched(Steel::built_in("5160").unwrap(), 7.0, 12.7),
        "jominy_5160_25" => end_quenched(Steel::built_in("5160").unwrap(), 7.0, 25.4),
        "jominy_8640_12" => {
            let steel = by_analysis("C 0.40 Mn 0.88 Si 0.25 Ni 0.55 Cr 0.50 Mo 0.20");
            end_quenched(&steel, 8.0, 12.7)
        }
        "pf_w2" => case_of_a_bar("w2"),
        "plate_1084_fast" => half_plate("1084", Medium::FastOil),
        "plate_5160_medium" => half_plate("5160", Medium::MediumOil),
        "plate_52100_medium" => half_plate("52100", Medium::MediumOil),
        "plate_80crv2_medium" => half_plate("80crv2", Medium::MediumOil),
        "plate_8670_medium" => half_plate("8670", Medium::MediumOil),
        "plate_15n20_medium" => half_plate("15n20", Medium::MediumOil),
        "plate_1084_plates" => half_plate("1084", Medium::Plates),
        "plate_a2_air" => half_plate("a2", Medium::StillAir),
        "face_w2_6" => 100.0 * plate("w2", Medium::Water, 6.0).face.hardened(),
        "core_w2_10" => 100.0 * plate("w2", Medium::Water, 10.0).middle.hardened(),
        "ra_1084" => retained("1084", 815.0),
        "ra_52100_845" => retained("52100", 845.0),
        "ra_o1" => retained("o1", 800.0),
        "ra_a2" => retained("a2", 955.0),
        "ra_d2_1010" => retained("d2", 1010.0),
        "ra_d2_1070" => retained("d2", 1070.0),
        "ra_x65cr13" => retained("x65cr13", 1060.0),
        "colour_1084" => {
            let steel = Steel::built_in("1084").unwrap();
            let at = dissolve(
                &steel.limits(),
                c(815.0),
                Seconds::clamped(0.0),
                Structure::Normalized,
            );
            steel.hardened_hrc(&at, at.retained(20.0), &[]).0
        }
        "a2_600" => known("a2", &steps(955.0, 25.0, "", 2, 2.0, 600.0)),
        "d2_600" => known("d2", &steps(1015.0, 25.0, "", 2, 2.0, 600.0)),
        "d2_1070_520" => known("d2", &steps(1070.0, 25.0, "", 2, 2.0, 520.0)),
        "cr14n_175" => {
            let steel = by_analysis("C 0.62 Si 0.2 Mn 0.6 Cr 14 N 0.11");
            treated(&steel, &steps(1065.0, 15.0, COLD, 2, 2.0, 175.0))
        }
        "hs652_560" => treated(&by_analysis(HS652), &steps(1215.0, 4.0, "", 3, 1.0, 560.0)),
        "hs654_560" => {
            let steel = by_analysis("C 1.42 Si 0.3 Mn 0.3 Cr 4 Mo 4.7 W 5.5 V 4");
            treated(&steel, &steps(1190.0, 4.0, "", 3, 1.0, 560.0))
        }
        "x40crmov51_540" => {
            let steel = by_analysis("C 0.4 Si 1 Mn 0.4 Cr 5.2 Mo 1.35 V 1");
            treated(&steel, &steps(1025.0, 25.0, "", 2, 2.0, 540.0))
        }
        "w142_180" => {
            let steel = by_analysis("C 1.42 Si 0.25 Mn 0.3 Cr 0.3 W 3.1 V 0.25");
            let plan = OIL.replace("HEAT", "810").replace("TEMPER", "180");
            treated(&steel, &plan.replace("medium_oil", "fast_oil"))
        }
        "heat_hs652" => critical::usual_heat_c(&elements(HS652)),
        "ac1_5160" => critical::ac1_c(&elements("C 0.60 Mn 0.85 Si 0.25 Cr 0.80")),
        "ms_1050" => critical::martensite_start_c(&elements("C 0.50 Mn 0.75")),
        other => panic!("no computation for {other}"),
    }
}

const HS652: &str = "C 0.87 Si 0.3 Mn 0.3 Cr 4.15 Mo 5 W 6.2 V 1.85";
const OIL: &str = r#"[{"kind":"austenitize","temperature_c":HEAT,"soak_s":300},{"kind":"quench","stages":[{"medium":"medium_oil"}]},
    {"kind":"temper","temperature_c":TEMPER,"hold_s":7200,"times":2}]"#;

/// True when a value is as a row has it: near enough, or on the right side.
fn holds(id: &str, got: f64) -> bool {
    let (value, tolerance) = row(id);
    let number = |text: &str| text.parse::<f64>().unwrap();
    if let Some(limit) = value.strip_prefix('<') {
        got < number(limit)
    } else if let Some(limit) = value.strip_prefix('>') {
        got > number(limit)
    } else if value.starts_with("between") {
        got > 0.05 && got < 0.95
    } else {
        (got - number(&value)).abs() <= number(&tolerance)
    }
}

fn check(id: &str) {
    let got = computed(id);
    let (value, tolerance) = row(id);
    match KNOWN.iter().find(|k| k.0 == id) {
        // A row that is met again must leave the list, and one that gets worse is seen.
        Some((_, reached, why)) => assert!(
            !holds(id, got) && (got - reached).abs() < 0.02 * reached.abs() + 0.05,
            "{id}: {got}, known to be {reached} ({why})"
        ),
        None => assert!(holds(id, got), "{id}: {got}, wanted {value} ± {tolerance}"),
    }
}

#[rstest]
#[case("hj_205c_4h")]
#[case("hj_equiv")]
#[case("e140_697hv")]
#[case("e140_513hv")]
#[case("astm_grain_10um")]
#[case("temper_1084_205")]
#[case("temper_5160_190")]
#[case("temper_x65cr13_175")]
#[case("nose_1084")]
#[case("nose_o1")]
#[case("section_5mm_o1_oil")]
#[case("section_5mm_1084_fast")]
#[case("section_5mm_w2_slow")]
#[case("section_5mm_1095_fast")]
#[case("hamon_w2_water_oil")]
#[case("heat_5mm_kiln")]
#[case("ms_1080")]
#[case("bainite_1080_350")]
#[case("nose_1080_50")]
#[case("nose_a2")]
#[case("ccr_1080")]
#[case("jominy_5160_12")]
#[case("jominy_5160_25")]
#[case("jominy_8640_12")]
#[case("pf_w2")]
#[case("plate_1084_fast")]
#[case("plate_5160_medium")]
#[case("plate_52100_medium")]
#[case("plate_80crv2_medium")]
#[case("plate_8670_medium")]
#[case("plate_15n20_medium")]
#[case("plate_1084_plates")]
#[case("plate_a2_air")]
#[case("face_w2_6")]
#[case("core_w2_10")]
#[case("ra_1084")]
#[case("ra_52100_845")]
#[case("ra_o1")]
#[case("ra_a2")]
#[case("ra_d2_1010")]
#[case("ra_d2_1070")]
#[case("ra_x65cr13")]
#[case("colour_1084")]
#[case("a2_600")]
#[case("d2_600")]
#[case("d2_1070_520")]
#[case("cr14n_175")]
#[case("hs652_560")]
#[case("hs654_560")]
#[case("x40crmov51_540")]
#[case("w142_180")]
#[case("heat_hs652")]
#[case("ac1_5160")]
#[case("ms_1050")]
fn row_of_the_reference(#[case] id: &str) {
    check(id);
}

#[test]
fn every_row_is_a_case_and_at_most_four_are_known_misses() {
    let source = include_str!("checks.rs");
    let cases: BTreeSet<&str> = source
        .lines()
        .filter_map(|l| l.strip_prefix("#[case(\"")?.split('"').next())
        .collect();
    let all = ids();
    assert_eq!(all.len(), 54);
    for id in &all {
        assert!(cases.contains(id.as_str()), "{id} has no case");
    }
    assert_eq!(cases.len(), all.len());
    assert!(KNOWN.len() <= 4 && KNOWN.iter().all(|k| cases.contains(k.0)));
}
