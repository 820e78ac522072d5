//! Heats judged by eye and magnet, and in other fires than a kiln: what the interval says they cost, held against
//! draws of heats, and what an eye that is known is worth.

use std::sync::Arc;
use uuid::Uuid;
use vatten_core::geometry::blade::{Blade, BladeDraft};
use vatten_core::learning::Model;
use vatten_core::material::steel::Steel;
use vatten_core::prediction::predict::{Prediction, StationNames, predict};
use vatten_core::prediction::reason::Why;
use vatten_core::prediction::subject::Subject;
use vatten_core::process::calibration::Corrections;
use vatten_core::process::eye::{Eye, Look};
use vatten_core::process::furnace::Furnace;
use vatten_core::process::plan::{Plan, Stations};
use vatten_core::process::sighting::{Glow, Light};
use vatten_core::process::workpiece::Workpiece;
use vatten_core::quantity::units::Kelvins;
use vatten_core::simulation::physics::{Shift, of_section, section, sensitivity};

fn work(furnace: Furnace) -> Workpiece {
    let draft = BladeDraft {
        length_mm: Some(180.0),
        width_mm: Some(30.0),
        spine_mm: Some(4.0),
        edge_mm: Some(0.8),
        ..BladeDraft::default()
    };
    Workpiece {
        furnace,
        ..Workpiece::plain(&Blade::parse(&draft).unwrap())
    }
}

fn plan(steel: &Steel, heat: &str) -> Plan {
    let json = format!(
        r#"[{{"kind":"normalize","temperature_c":870,"hold_s":120}},
            {{"kind":"austenitize",{heat},"soak_s":300}},
            {{"kind":"quench","stages":[{{"medium":"fast_oil"}}]}},
            {{"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}}]"#
    );
    Plan::parse(&serde_json::from_str::<Vec<_>>(&json).unwrap())
        .unwrap()
        .judged_on(steel)
}

fn asked(steel: &Steel, plan: &Plan, furnace: Furnace) -> Prediction {
    let subject = Subject {
        plan,
        steel,
        work: &work(furnace),
        tester: None,
        bar: None,
        operator: None,
    };
    predict(subject, &Model::fit(Vec::new()), &StationNames::new(), None)
}

fn width(steel: &Steel, plan: &Plan, furnace: Furnace) -> f64 {
    let hardness = asked(steel, plan, furnace).hardness.as_quenched;
    hardness.high - hardness.low
}

const CHERRY: &str = r#""by":{"sign":"colour","colour":"cherry","light":"daylight"}"#;

#[test]
fn an_eye_costs_more_than_a_forge_and_a_forge_more_than_a_kiln() {
    let steel = Steel::built_in("1084").unwrap();
    let set = plan(steel, r#""temperature_c":800"#);
    let fires = [
        Furnace::Kiln,
        Furnace::Pipe,
        Furnace::Forge,
        Furnace::Charcoal,
    ];
    let widths = fires.map(|f| width(steel, &set, f));
    println!("kiln, pipe, forge, charcoal: {widths:?}");
    assert!(widths.windows(2).all(|w| w[1] > w[0]), "{widths:?}");
    let magnet = plan(steel, r#""by":{"sign":"past_magnet"}"#);
    let colour = plan(
        steel,
        r#""by":{"sign":"colour","colour":"cherry","light":"daylight"}"#,
    );
    let (by_magnet, by_colour) = (
        width(steel, &magnet, Furnace::Forge),
        width(steel, &colour, Furnace::Forge),
    );
    println!("a shade past the magnet {by_magnet}, cherry by daylight {by_colour}");
    assert!(by_colour > by_magnet && by_colour > widths[2]);
}

#[test]
fn an_eye_that_is_known_narrows_it_and_moves_the_heat() {
    let steel = Steel::built_in("1084").unwrap();
    let id = Uuid::from_u128(9);
    let by_eye = |corrections: Corrections| {
        let plan = plan(steel, CHERRY);
        plan.with_stations(Stations {
            eye: Some(id),
            ..Stations::default()
        })
        .with_corrections(Arc::new(corrections))
    };
    let looks: Vec<Look> = (0..20)
        .map(|i| Look {
            at_s: i,
            colour: Glow::Cherry,
            light: Light::Daylight,
            really_c: Glow::Cherry.usual_c(Light::Daylight) + 20.0 + 6.0 * (i % 3 - 1) as f64,
            shown_by: None,
        })
        .collect();
    let known = Corrections::default().with_eyes([(id, Eye::of(&looks))]);
    let (none, tried) = (by_eye(Corrections::default()), by_eye(known));
    let (before, after) = (
        width(steel, &none, Furnace::Forge),
        width(steel, &tried, Furnace::Forge),
    );
    println!("{before} -> {after}");
    assert!(after < 0.8 * before, "{before} {after}");
    let heat = |plan: &Plan| match plan.real_steps()[1] {
        vatten_core::process::step::Step::Austenitize { temperature_c, .. } => {
            temperature_c.value()
        }
        _ => panic!("no heat"),
    };
    assert!((heat(&tried) - heat(&none) - 20.0).abs() < 5.0);
    let told = asked(steel, &tried, Furnace::Forge).reasons;
    assert!(told.iter().any(|r| matches!(
        r.why,
        Why::HeatByEye { looks: 20, deviation_c, .. } if deviation_c < 25.0
    )));
}

/// Mean and deviation over equal shares of the spread against two thousand heats, where hardness falls off below the magnet.
#[test]
fn few_heats_say_what_two_thousand_heats_do() {
    for (steel, colour) in [
        ("1084", "cherry"),
        ("w2", "cherry"),
        ("5160", "bright_cherry"),
    ] {
        let steel = Steel::built_in(steel).unwrap();
        let heat = format!(r#""by":{{"sign":"colour","colour":"{colour}","light":"dim"}}"#);
        let plan = plan(steel, &heat);
        let work = work(Furnace::Forge);
        let section = section(&plan, steel, &work);
        let slopes = sensitivity(&plan, steel, &section, work.furnace).as_quenched;
        let doubt = plan.heat_doubt(work.furnace);
        let spread = doubt.spread_c();
        let at = |by: f64| {
            let shift = Shift {
                kiln: Kelvins::of(by),
                ..Shift::default()
            };
            of_section(&plan, steel, &section, shift).as_quenched_hrc
        };
        // Two thousand even shares of a normal, drawn at their middles.
        let heats: Vec<f64> = (0..2000)
            .map(|i| spread * quantile((f64::from(i) + 0.5) / 2000.0))
            .collect();
        let all: Vec<f64> = heats.iter().map(|by| at(*by)).collect();
        let mean = all.iter().sum::<f64>() / 2000.0;
        let deviation = (all.iter().map(|h| (h - mean).powi(2)).sum::<f64>() / 2000.0).sqrt();
        let said = (slopes.per_kiln_c * spread).hypot(slopes.heat_rest_hrc);
        let shift = slopes.over_heat_hrc.iter().sum::<f64>() / slopes.over_heat_hrc.len() as f64;
        println!(
            "{}: mean {:.2} said {shift:.2}, deviation {deviation:.2} said {said:.2}",
            steel.key,
            mean - at(0.0)
        );
        assert!(
            (mean - at(0.0) - shift).abs() < 0.05 * deviation + 0.05,
            "{}",
            steel.key
        );
        assert!(
            (deviation - said).abs() < 0.05 * deviation + 0.8,
            "{}",
            steel.key
        );
    }
}

/// Of a standard normal (Abramowitz and Stegun 1964, 26.2.23: within 4.5e-4).
fn quantile(share: f64) -> f64 {
    let (tail, sign) = if share < 0.5 {
        (share, -1.0)
    } else {
        (1.0 - share, 1.0)
    };
    let t = (-2.0 * tail.ln()).sqrt();
    let above = 2.515_517 + t * (0.802_853 + t * 0.010_328);
    let below = 1.0 + t * (1.432_788 + t * (0.189_269 + t * 0.001_308));
    sign * (t - above / below)
}
