//! Blades and quenches at the rim of what can be entered: a sensible answer or a typed refusal, never a panic and never
//! a number that is none.

use rstest::rstest;
use vatten_core::geometry::blade::{Blade, BladeDraft};
use vatten_core::geometry::clay::{Band, Clay, ClayDraft, Face};
use vatten_core::geometry::form::{Bevel, Thickness};
use vatten_core::learning::bias_models::BiasModels;
use vatten_core::material::clay_mix::ClayMix;
use vatten_core::material::medium::Medium;
use vatten_core::material::steel::Steel;
use vatten_core::prediction::outcome::{Outcomes, outcomes};
use vatten_core::process::plan::Plan;
use vatten_core::process::ready::Ready;
use vatten_core::process::step::Stage;
use vatten_core::process::workpiece::Workpiece;
use vatten_core::quantity::units::{Celsius, Kelvins, Quantity};
use vatten_core::simulation::heat::Heat;
use vatten_core::simulation::simulated::STEP_MM;
use vatten_core::simulation::straightening::straightening;
use vatten_core::simulation::warp::place::follow;

fn blade(length: f64, width: f64, spine: f64, edge: f64) -> Blade {
    Blade::parse(&BladeDraft {
        length_mm: Some(length),
        width_mm: Some(width),
        spine_mm: Some(spine),
        edge_mm: Some(edge),
        ..BladeDraft::default()
    })
    .unwrap()
}

fn plan(stages: &str) -> Plan {
    let steps = format!(
        r#"[{{"kind":"austenitize","temperature_c":815,"soak_s":300}},{{"kind":"quench","stages":[{stages}]}},{{"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}}]"#
    );
    let drafts: Vec<_> = serde_json::from_str(&steps).unwrap();
    Plan::parse(&drafts).unwrap()
}

fn come_out(work: &Workpiece, plan: &Plan, steel: &str) -> Outcomes {
    let steel = Steel::built_in(steel).unwrap();
    let found = outcomes(work, plan, steel, &BiasModels::default(), STEP_MM, None)
        .unwrap()
        .0;
    let bend = &found.bend;
    let numbers = [
        bend.sori_mm,
        bend.side_known_mm,
        bend.side_ninety_mm,
        bend.twist_mm,
        bend.numerical_mm,
        bend.side_over_tolerance_probability,
        found.crack.probability,
        found.grain_astm,
    ];
    assert!(numbers.iter().all(|n| n.is_finite()), "{numbers:?}");
    assert!((0.0..=1.0).contains(&found.crack.probability));
    assert!((0.0..=1.0).contains(&bend.side_over_tolerance_probability));
    // JSON writes what is no number as null.
    assert!(!serde_json::to_string(&found).unwrap().contains("null"));
    // Nothing bends by more than a fifth of its length.
    let length = work.blade().length_mm;
    assert!(bend.sori_mm.abs() < 0.2 * length, "{}", bend.sori_mm);
    if let Some(window) = straightening(plan, steel, work) {
        assert!(window.pull_s <= window.until_s && window.overbend_mm.is_finite());
    }
    found
}

#[rstest]
#[case::as_long_as_they_come(blade(1000.0, 40.0, 7.0, 1.5))]
#[case::thinner_than_a_cell(blade(200.0, 30.0, 0.5, 0.05))]
#[case::thick_as_a_bar(blade(120.0, 60.0, 25.0, 10.0))]
#[case::narrow(blade(180.0, 5.0, 3.0, 0.5))]
#[case::short(blade(20.0, 10.0, 2.0, 0.3))]
fn blades_of_any_size_come_to_something(#[case] blade: Blade) {
    for stages in [
        r#"{"medium":"water"}"#,
        r#"{"medium":"fast_oil"}"#,
        r#"{"medium":"plates"}"#,
    ] {
        come_out(&Workpiece::plain(&blade), &plan(stages), "1084");
    }
}

#[test]
fn a_blade_of_a_metre_and_a_half_is_refused_by_name() {
    let draft = BladeDraft {
        length_mm: Some(1500.0),
        ..BladeDraft::default()
    };
    let faults = Blade::parse(&draft).unwrap_err();
    assert_eq!(faults.0[0].field, "length_mm");
    assert!(faults.0[0].allowed.is_some());
}

#[rstest]
#[case::to_the_edge(0.0, 10.0)]
#[case::a_hair(0.0, 0.05)]
#[case::above_the_spine(299.0, 3.0)]
fn clay_anywhere_comes_to_something(#[case] from: f64, #[case] mm: f64) {
    for mix in ClayMix::ALL {
        let work = Workpiece {
            clay: Clay::band(from, mm).of_mix(*mix),
            ..Workpiece::plain(&blade(180.0, 30.0, 4.0, 0.6))
        };
        come_out(&work, &plan(r#"{"medium":"water"}"#), "w2");
    }
}

#[test]
fn clay_on_the_edge_alone_and_on_one_face_comes_to_something() {
    // From the edge up 8 mm, on the left face only.
    let left = Face {
        band: Some(Band {
            from_edge_mm: 0.0,
            thickness_mm: 3.0,
        }),
        strokes: vec![vatten_core::geometry::clay::Stroke {
            points: vec![[-20.0, 30.0], [220.0, 30.0]],
            width_mm: 44.0,
            thickness_mm: 0.0,
        }],
        ..Face::default()
    };
    let draft = ClayDraft {
        left,
        right: Some(Face::default()),
        ..ClayDraft::default()
    };
    let work = Workpiece {
        clay: Clay::parse(&draft).unwrap(),
        ..Workpiece::plain(&blade(180.0, 30.0, 4.0, 0.6))
    };
    let found = come_out(&work, &plan(r#"{"medium":"water"}"#), "w2");
    assert!(
        found.bend.side_known_mm.abs() > 0.01,
        "{}",
        found.bend.side_known_mm
    );
}

#[test]
fn bevels_that_cross_and_run_out_come_to_something() {
    let ready = Ready {
        bevels: vec![
            Bevel {
                x_mm: 0.0,
                left_mm: 28.0,
                right_mm: 4.0,
            },
            Bevel {
                x_mm: 180.0,
                left_mm: 3.0,
                right_mm: 29.0,
            },
        ],
        taper: vec![
            Thickness {
                x_mm: 0.0,
                spine_mm: 5.0,
                edge_mm: 0.8,
            },
            Thickness {
                x_mm: 180.0,
                spine_mm: 0.5,
                edge_mm: 0.05,
            },
        ],
        ..Ready::default()
    };
    let work = ready.work(&blade(180.0, 30.0, 5.0, 0.8), None).unwrap();
    let found = come_out(&work, &plan(r#"{"medium":"fast_oil"}"#), "1084");
    // Higher on the left near the heel and on the right near the tip: it bends both ways.
    let sideways = || found.bend.stations.iter().map(|s| s.curvature[1]);
    assert!(sideways().any(|k| k < -1e-3) && sideways().any(|k| k > 1e-3));
}

#[test]
fn a_bath_hotter_than_the_martensite_start_leaves_bainite_and_no_nonsense() {
    let stages = r#"{"medium":"salt","bath_c":320}"#;
    let found = come_out(
        &Workpiece::plain(&blade(180.0, 30.0, 4.0, 0.6)),
        &plan(stages),
        "1084",
    );
    assert!(found.crack.probability < 0.2);
}

#[test]
fn a_place_is_followed_wherever_it_lies() {
    let work = Workpiece::plain(&blade(180.0, 30.0, 4.0, 0.6));
    let steel = Steel::built_in("1084").unwrap();
    let heat = Heat::new(&work, &plan(r#"{"medium":"water"}"#), steel, Kelvins::ZERO);
    let hot = Stage {
        bath_c: Celsius::clamped(320.0),
        ..Stage::until_cold(Medium::Salt)
    };
    for stage in [Stage::until_cold(Medium::Water), hot] {
        for x in [0.5, 90.0, 170.0, 179.5] {
            for y in [0.01, 15.0, 29.99] {
                let found =
                    follow(&work, &heat, std::slice::from_ref(&stage), [x, y], None).unwrap();
                let text = serde_json::to_string(&found).unwrap();
                assert!(found.is_none() || !text.contains("null"), "{x} {y}");
            }
        }
    }
    assert_eq!(follow(&work, &heat, &[], [90.0, 5.0], None).unwrap(), None);
}
