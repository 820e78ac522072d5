//! What a prediction costs: `cargo bench`. The figures stand in `docs/performance.md`.
#![allow(clippy::expect_used, reason = "benchmarks")]

use divan::{Bencher, black_box};
use uuid::Uuid;
use vatten_core::blade::{Blade, BladeDraft};
use vatten_core::learn::{Model, Record};
use vatten_core::physics::{Shift, physics, sensitivity};
use vatten_core::plan::Plan;
use vatten_core::prediction::{StationNames, Subject, features, predict};
use vatten_core::reading::When;
use vatten_core::steel::Steel;

fn main() {
    divan::main();
}

const PLAN: &str = r#"[{"kind":"normalize","temperature_c":870,"times":3},
    {"kind":"austenitize","temperature_c":815,"soak_s":300},
    {"kind":"quench","stages":[{"medium":"fast_oil","bath_c":50}]},
    {"kind":"sub_zero","temperature_c":-75,"hold_s":7200},
    {"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}]"#;

fn parts() -> (Plan, Blade) {
    let blade = BladeDraft {
        length_mm: Some(180.0),
        width_mm: Some(30.0),
        spine_mm: Some(4.0),
        edge_mm: Some(0.8),
        ..BladeDraft::default()
    };
    let drafts: Vec<_> = serde_json::from_str(PLAN).expect("plan");
    (
        Plan::parse(&drafts).expect("plan"),
        Blade::parse(&blade).expect("blade"),
    )
}

fn records(n: usize) -> Vec<Record> {
    let (plan, blade) = parts();
    let steels = Steel::table();
    (0..n)
        .map(|i| {
            let steel = &steels[1 + i % 8];
            let subject = Subject {
                plan: &plan,
                steel,
                blade: &blade,
                tester: None,
            };
            let p = physics(&plan, steel, &blade, Shift::default());
            let s = sensitivity(&plan, steel, &blade);
            let off = ((i * 7919) % 101) as f64 / 50.0 - 1.0;
            Record {
                features: features(
                    subject,
                    When::Tempered,
                    &p,
                    &s,
                    Some(Uuid::from_u128(i as u128)),
                ),
                physics_hrc: p.tempered_hrc,
                measured_hrc: p.tempered_hrc + off,
                readings: 3,
            }
        })
        .collect()
}

#[divan::bench]
fn physics_alone(bencher: Bencher) {
    let (plan, blade) = parts();
    let steel = Steel::built_in("1084").expect("steel");
    bencher.bench(|| physics(black_box(&plan), steel, &blade, Shift::default()));
}

#[divan::bench(args = [0, 60, 500, 2000])]
fn whole_prediction(bencher: Bencher, n: usize) {
    let (plan, blade) = parts();
    let steel = Steel::built_in("1084").expect("steel");
    let model = Model::fit(records(n));
    let names = StationNames::new();
    bencher.bench(|| {
        let subject = Subject {
            plan: &plan,
            steel,
            blade: &blade,
            tester: None,
        };
        predict(subject, &model, &names, Some((60.0, 62.0)))
    });
}

#[divan::bench(args = [60, 500, 2000], sample_count = 5)]
fn learning(bencher: Bencher, n: usize) {
    bencher.with_inputs(|| records(n)).bench_values(Model::fit);
}
