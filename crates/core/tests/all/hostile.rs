//! Whatever is written, the core answers: a plan or faults that name fields, never a panic or a NaN.

use proptest::prelude::*;
use std::collections::BTreeMap;
use vatten_core::geometry::blade::{Blade, BladeDraft};
use vatten_core::learning::Model;
use vatten_core::material::analysis::{Analysis, ELEMENTS};
use vatten_core::material::steel::Steel;
use vatten_core::prediction::subject::Subject;
use vatten_core::prediction::{StationNames, predict};
use vatten_core::process::manner::PlatesDraft;
use vatten_core::process::plan::Plan;
use vatten_core::process::step::Step;
use vatten_core::process::step_draft::{
    AnnealDraft, AustenitizeDraft, CheckDraft, ClampDraft, HoldDraft, NormalizeDraft, QuenchDraft,
    StageDraft, StepDraft, SubZeroDraft, TemperDraft, TorchTemperDraft,
};
use vatten_core::process::temper_colour::TemperSightingDraft;
use vatten_core::process::workpiece::Workpiece;
use vatten_core::record::done::as_done;
use vatten_core::record::firing::{Deviation, End, Event, FiringEvent, state};
use vatten_core::record::reading::Values;

fn number() -> impl Strategy<Value = Option<f64>> {
    prop_oneof![
        Just(None),
        any::<f64>().prop_map(Some),
        (-250.0..1400.0_f64).prop_map(Some),
        (0.0..8000.0_f64).prop_map(Some),
    ]
}

fn stage() -> impl Strategy<Value = StageDraft> {
    let medium = prop_oneof![
        Just("water"),
        Just("fast_oil"),
        Just("warm_oil"),
        Just("plates"),
        Just("treacle")
    ];
    let agitation = proptest::option::of(prop_oneof![Just("still"), Just("strong"), Just("wild")]);
    let parts = (medium, number(), number(), agitation, number(), number());
    parts.prop_map(
        |(medium, bath_c, for_s, agitation, depth, litres)| StageDraft {
            medium: medium.to_owned(),
            bath_c,
            for_s,
            agitation: agitation.map(str::to_owned),
            edge_depth_mm: depth,
            tip_length_mm: depth,
            litres,
            blades: litres.map(|l| l as u32),
            transfer_s: depth,
            entry: agitation.map(|a| if a == "wild" { a } else { "flat" }.to_owned()),
            plates: litres.map(|l| PlatesDraft {
                metal: "steel".to_owned(),
                thickness_mm: l,
                one_slab: l > 20.0,
                with_air: false,
            }),
            tank_id: None,
        },
    )
}

fn step() -> impl Strategy<Value = StepDraft> {
    let times = prop_oneof![Just(None), (0..20_u32).prop_map(Some)];
    let stages = proptest::collection::vec(stage(), 0..8);
    let look = proptest::option::of(prop_oneof![Just("hard"), Just("nowhere")]);
    let parts = (
        0..14_usize,
        number(),
        number(),
        number(),
        times,
        stages,
        look,
    );
    parts.prop_map(
        |(kind, temperature_c, hold_s, wait_s, times, stages, look)| {
            let hold = HoldDraft {
                temperature_c,
                hold_s,
                by: None,
            };
            let look = look.map(str::to_owned);
            match kind {
                0 => StepDraft::Normalize(NormalizeDraft {
                    temperature_c,
                    hold_s,
                    times,
                    by: None,
                }),
                1 => StepDraft::Anneal(AnnealDraft {
                    temperature_c,
                    hold_s,
                    by: None,
                    bed: look,
                }),
                2 => StepDraft::StressRelief(hold),
                3 => StepDraft::Austenitize(AustenitizeDraft {
                    temperature_c,
                    soak_s: hold_s,
                    station_id: None,
                    by: None,
                    fire: None,
                }),
                4 => StepDraft::Quench(QuenchDraft { stages }),
                5 => StepDraft::SubZero(SubZeroDraft {
                    temperature_c,
                    hold_s,
                    wait_s,
                    bath: look,
                    until_c: wait_s,
                }),
                6 => StepDraft::Temper(TemperDraft {
                    temperature_c,
                    hold_s,
                    times,
                    station_id: None,
                    clamp: wait_s.map(|shim| ClampDraft {
                        shim_mm: Some(shim),
                    }),
                    by: look.clone().map(|colour| TemperSightingDraft {
                        colour,
                        light: "dim".to_owned(),
                    }),
                    cooled: look,
                    blades: times,
                }),
                7 => StepDraft::Refine(hold),
                8 => StepDraft::Coat {},
                9 => StepDraft::Clay(hold),
                10 => StepDraft::Preheat(hold),
                11 => StepDraft::Cool(hold),
                12 => StepDraft::TorchTemper(TorchTemperDraft {
                    temperature_c,
                    part: look,
                    by: None,
                }),
                _ => StepDraft::Check(CheckDraft { look }),
            }
        },
    )
}

/// A step that fits, anywhere in the allowed space.
fn good_step() -> impl Strategy<Value = StepDraft> {
    let hold = |temperature: f64, s: f64| HoldDraft {
        temperature_c: Some(temperature),
        hold_s: Some(s),
        by: None,
    };
    prop_oneof![
        (0.0..1300.0_f64).prop_map(|t| StepDraft::Normalize(NormalizeDraft {
            temperature_c: Some(t),
            ..NormalizeDraft::default()
        })),
        (0.0..1300.0_f64, 0.0..1e5_f64).prop_map(|(t, s)| StepDraft::Anneal(AnnealDraft {
            temperature_c: Some(t),
            hold_s: Some(s),
            by: None,
            bed: Some("ash".to_owned()),
        })),
        (0.0..1300.0_f64, 0..4_usize).prop_map(move |(t, k)| {
            let kinds: [fn(HoldDraft) -> StepDraft; 4] = [
                StepDraft::Refine,
                StepDraft::Clay,
                StepDraft::Preheat,
                StepDraft::Cool,
            ];
            kinds[k](hold(t, 60.0))
        }),
        prop_oneof![
            Just(StepDraft::Coat {}),
            Just(StepDraft::Pouch {}),
            Just(StepDraft::Straighten {}),
            Just(StepDraft::Stamp {})
        ],
        (0.0..1300.0_f64).prop_map(|t| StepDraft::TorchTemper(TorchTemperDraft {
            temperature_c: None,
            part: Some("spine".to_owned()),
            by: Some(TemperSightingDraft {
                colour: if t < 600.0 { "purple" } else { "dark_blue" }.to_owned(),
                light: "daylight".to_owned(),
            }),
        })),
        (-200.0..20.0_f64, 0.0..1e5_f64, 0.0..1e5_f64).prop_map(|(t, s, w)| {
            StepDraft::SubZero(SubZeroDraft {
                temperature_c: Some(t),
                hold_s: Some(s),
                wait_s: Some(w),
                ..SubZeroDraft::default()
            })
        }),
        (20.0..1300.0_f64, 1.0..1e5_f64, 1..5_u32).prop_map(|(t, s, n)| {
            StepDraft::Temper(TemperDraft {
                temperature_c: Some(t),
                hold_s: Some(s),
                times: Some(n),
                cooled: Some("oven".to_owned()),
                ..TemperDraft::default()
            })
        }),
    ]
}

fn good_plan() -> impl Strategy<Value = Vec<StepDraft>> {
    let heat = (-200.0..1300.0_f64, 0.0..1e5_f64).prop_map(|(t, s)| {
        StepDraft::Austenitize(AustenitizeDraft {
            temperature_c: Some(t),
            soak_s: Some(s),
            station_id: None,
            by: None,
            fire: None,
        })
    });
    let medium = prop_oneof![
        Just("brine"),
        Just("water"),
        Just("slow_oil"),
        Just("plates"),
        Just("still_air")
    ];
    let quench = (medium, 0.1..30.0_f64).prop_map(|(medium, s)| {
        let stages = vec![
            StageDraft {
                medium: medium.to_owned(),
                for_s: Some(s),
                ..StageDraft::default()
            },
            StageDraft {
                medium: "medium_oil".to_owned(),
                ..StageDraft::default()
            },
        ];
        StepDraft::Quench(QuenchDraft { stages })
    });
    (
        proptest::collection::vec(good_step(), 0..4),
        heat,
        quench,
        proptest::collection::vec(good_step(), 0..4),
    )
        .prop_map(|(mut before, heat, quench, after)| {
            before.extend([heat, quench]);
            before.extend(after);
            before
        })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn any_steps_are_a_plan_or_named_faults(steps in proptest::collection::vec(step(), 0..12)) {
        match Plan::parse(&steps) {
            Ok(plan) => {
                prop_assert!(plan.last_quench().is_some());
                let json = serde_json::to_string(&plan).unwrap();
                prop_assert_eq!(Plan::stored(serde_json::from_str(&json).unwrap()), plan);
            }
            Err(faults) => {
                prop_assert!(!faults.0.is_empty());
                prop_assert!(faults.0.iter().all(|f| f.field.starts_with("steps") && !f.message.is_empty()));
            }
        }
    }

    #[test]
    fn every_good_plan_on_every_steel_is_predicted_without_nan(
        steps in good_plan(),
        steel in 0..26_usize,
        spine in 0.5..25.0_f64,
        edge in 0.05..0.5_f64,
        low in 0.0..70.0_f64,
    ) {
        let plan = Plan::parse(&steps).unwrap();
        let blade = Blade::parse(&BladeDraft {
            length_mm: Some(200.0),
            width_mm: Some(30.0),
            spine_mm: Some(spine),
            edge_mm: Some(edge),
            ..BladeDraft::default()
        })
        .unwrap();
        let work = Workpiece::plain(&blade);
        let subject = Subject { plan: &plan, steel: &Steel::table()[steel], work: &work, tester: None, bar: None, operator: None };
        let got = predict(subject, &Model::default(), &StationNames::new(), Some((low, low)));
        for i in [got.hardness.as_quenched, got.hardness.tempered] {
            prop_assert!(i.low <= i.middle && i.middle <= i.high, "{i:?}");
            prop_assert!(i.low >= 0.0 && i.high <= 70.0, "{i:?}");
        }
        prop_assert!((0.0..=100.0).contains(&got.retained_austenite_percent));
        prop_assert!(got.through.critical_thickness_mm.is_finite());
        let json = serde_json::to_string(&got).unwrap();
        prop_assert!(!json.contains("null"), "a number was lost: {json}");
    }

    #[test]
    fn any_analysis_makes_a_steel_or_names_the_element(
        percents in proptest::collection::vec(prop_oneof![any::<f64>(), 0.0..4.0_f64], 8),
        named in proptest::collection::vec(any::<bool>(), 8),
    ) {
        let elements: BTreeMap<String, f64> = ELEMENTS
            .iter()
            .zip(percents.iter().zip(named))
            .filter(|(_, (_, named))| *named)
            .map(|(e, (percent, _))| (e.0.to_owned(), *percent))
            .collect();
        match Analysis::parse(&elements) {
            Ok(analysis) => {
                let steel = Steel::from_analysis("x", "x", &analysis);
                prop_assert!(steel.nominal_hrc(20.0).0.is_finite());
                prop_assert!(steel.austenitize.low <= steel.austenitize.nominal);
                prop_assert!(steel.austenitize.nominal <= steel.austenitize.high);
                prop_assert!(steel.ac1_c < steel.ac3_or_acm_c);
                prop_assert!(steel.dissolution.carbon <= analysis.carbon + 1e-9);
                prop_assert!(steel.spread_hrc() > 1.0);
            }
            Err(faults) => prop_assert!(faults.0.iter().all(|f| f.allowed.is_some())),
        }
    }

    #[test]
    fn any_events_are_a_state_or_a_refusal(
        kinds in proptest::collection::vec((0..10_u8, 0..14_usize), 0..40),
        every in 1..600_000_i64,
    ) {
        let steps = Plan::parse(&serde_json::from_str::<Vec<StepDraft>>(
            r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},{"kind":"quench","stages":[{"medium":"fast_oil"}]},
                {"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}]"#,
        ).unwrap()).unwrap().steps().to_vec();
        let events: Vec<Event> = kinds
            .iter()
            .enumerate()
            .map(|(i, (kind, at))| Event {
                id: uuid::Uuid::from_u128(i as u128),
                what: match kind {
                    0 => FiringEvent::Confirm { action: *at },
                    1 => FiringEvent::Undo { event: uuid::Uuid::from_u128(*at as u128) },
                    2 => FiringEvent::Say { step: *at, round: (at % 3).checked_sub(1), temperature_c: None, lasted_s: None, note: String::new(), by: None, medium: None, },
                    5 => FiringEvent::Deviate { how: Deviation::Again { from: *at / 2, to: *at } },
                    6 => FiringEvent::Deviate { how: Deviation::LeftOut { step: *at, round: (at % 3).checked_sub(1) } },
                    7 => FiringEvent::Deviate { how: Deviation::Earlier { step: *at } },
                    8 => FiringEvent::Deviate { how: Deviation::Extra { step: Step::Straighten {} } },
                    9 if *at < 2 => FiringEvent::Close { end: [End::Done, End::Abandoned][*at] },
                    3 => FiringEvent::Operator { name: vatten_core::process::operator::Operator::parse("Tove").unwrap() },
                    4 if *at == 3 => FiringEvent::Close { end: End::Mistake },
                    // Whatever comes next, below.
                    _ => FiringEvent::Confirm { action: usize::MAX },
                },
                at_ms: i as i64 * every,
            })
            .collect();
        // What is refused never happened; what is left is a state.
        let mut taken: Vec<Event> = Vec::new();
        for mut event in events {
            if event.what == (FiringEvent::Confirm { action: usize::MAX }) {
                let action = state(&steps, &taken).map_or(0, |s| s.position);
                event.what = FiringEvent::Confirm { action };
            }
            taken.push(event);
            if state(&steps, &taken).is_err() {
                taken.pop();
            }
        }
        let now = state(&steps, &taken);
        prop_assert!(now.is_ok());
        if let Ok(now) = now {
            prop_assert!(now.position <= now.course(&steps).actions().len());
            prop_assert_eq!(now.position, now.confirmed_ms.len());
            prop_assert!(now.quenched || now.untempered_since_ms.is_none());
            prop_assert!(!now.tempered || now.untempered_since_ms.is_none());
            let done = as_done(&steps, &now);
            prop_assert_eq!(done.planned.len(), done.steps.len());
            prop_assert!(now.end != End::Done || done.plan().last_quench().is_some());
        }
    }

    #[test]
    fn any_readings_are_kept_or_named(values in proptest::collection::vec(any::<f64>(), 0..30)) {
        match Values::parse(&values) {
            Ok(kept) => prop_assert!((0.0..=70.0).contains(&kept.mean())),
            Err(faults) => prop_assert!(faults.0.iter().all(|f| f.field.starts_with("values"))),
        }
    }
}
