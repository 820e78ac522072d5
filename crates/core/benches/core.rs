//! What a prediction costs: `cargo bench`. The figures stand in `docs/performance.md`.
#![allow(clippy::expect_used, reason = "benchmarks")]

use divan::{Bencher, black_box};
use std::sync::Arc;
use uuid::Uuid;
use vatten_core::advice::improvement::{Known, help};
use vatten_core::geometry::blade::{Blade, BladeDraft};
use vatten_core::geometry::clay::Clay;
use vatten_core::import::{Laying, lay, read};
use vatten_core::learning::belief::{Belief, BladeSeen, Seen, hardness_of_each};
use vatten_core::learning::bias_models::BiasModels;
use vatten_core::learning::{Model, Record};
use vatten_core::material::reclaimed::Measured;
use vatten_core::material::salvage::Salvage;
use vatten_core::material::steel::Steel;
use vatten_core::planning::day::Day;
use vatten_core::planning::genome::Genome;
use vatten_core::planning::plan::Plan as DayPlan;
use vatten_core::planning::problem::Problem;
use vatten_core::planning::search::{Budget, search};
use vatten_core::prediction::outcome::outcomes;
use vatten_core::prediction::rung::{Shop, expected};
use vatten_core::prediction::subject::{Subject, features};
use vatten_core::prediction::{StationNames, predict};
use vatten_core::process::furnace::Furnace;
use vatten_core::process::plan::Plan;
use vatten_core::process::workpiece::Workpiece;
use vatten_core::quantity::units::Kelvins;
use vatten_core::record::ladder::{Along, Ladder};
use vatten_core::record::reading::When;
use vatten_core::simulation::heat::Heat;
use vatten_core::simulation::physics::{Shift, of_section, physics, section, sensitivity, stages};
use vatten_core::simulation::quench::{Setup, quench};

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
    let work = Workpiece::plain(&blade);
    let steels = Steel::table();
    (0..n)
        .map(|i| {
            let steel = &steels[1 + i % 8];
            let subject = Subject {
                plan: &plan,
                steel,
                work: &work,
                tester: None,
                bar: None,
                operator: None,
            };
            let section = section(&plan, steel, &work);
            let p = of_section(&plan, steel, &section, Shift::default());
            let s = sensitivity(&plan, steel, &section, work.furnace);
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
                bracket_hrc: None,
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
    let work = Workpiece::plain(&blade);
    bencher.bench(|| {
        let subject = Subject {
            plan: &plan,
            steel,
            work: &work,
            tester: None,
            bar: None,
            operator: None,
        };
        predict(subject, &model, &names, Some((60.0, 62.0)))
    });
}

#[divan::bench(args = [60, 500, 2000], sample_count = 5)]
fn learning(bencher: Bencher, n: usize) {
    bencher.with_inputs(|| records(n)).bench_values(Model::fit);
}

/// A blade of 240 mm in W2, clayed, as the engine's target has it.
fn long() -> (Plan, Workpiece, &'static Steel) {
    let (_, blade) = parts();
    let blade = Blade {
        length_mm: 240.0,
        spine_mm: 5.0,
        ..blade
    };
    let mut work = Workpiece::plain(&blade);
    work.clay = Clay::band(14.0, 2.0);
    let drafts: Vec<_> = serde_json::from_str(
        r#"[{"kind":"austenitize","temperature_c":795,"soak_s":480},
            {"kind":"quench","stages":[{"medium":"fast_oil"}]}]"#,
    )
    .expect("plan");
    let plan = Plan::parse(&drafts).expect("plan");
    (plan, work, Steel::built_in("w2").expect("steel"))
}

/// One quench, one core, by width of a cell: 2 mm is the preview, 1 mm the full resolution.
#[divan::bench(args = [4, 2, 1], sample_count = 20)]
fn whole_quench(bencher: Bencher, step_mm: u32) {
    let (plan, work, steel) = long();
    let heat = Heat::new(&work, &plan, steel, Kelvins::ZERO);
    let baths = stages(&plan);
    bencher.bench(|| {
        let setup = Setup {
            ..heat.whole(&work.form, &work.clay, &baths, f64::from(step_mm))
        };
        quench(setup, None)
    });
}

/// The same with steps half, a quarter as long: how the cost grows with time steps.
#[divan::bench(args = [1, 2, 4], sample_count = 10)]
fn finer_steps(bencher: Bencher, refine: u32) {
    let (plan, work, steel) = long();
    let heat = Heat::new(&work, &plan, steel, Kelvins::ZERO);
    let baths = stages(&plan);
    bencher.bench(|| {
        let setup = Setup {
            refine: f64::from(refine),
            ..heat.whole(&work.form, &work.clay, &baths, 2.0)
        };
        quench(setup, None)
    });
}

/// Everything that is shown of a quench, on both cores: hamon, bend and its sensitivity, crack, grain.
#[divan::bench(args = [2, 1], sample_count = 10)]
fn all_outcomes(bencher: Bencher, step_mm: u32) {
    let (plan, work, steel) = long();
    let biases = BiasModels::default();
    bencher.bench(|| outcomes(&work, &plan, steel, &biases, f64::from(step_mm), None));
}

/// The changes that would help a plan in the wrong bath.
#[divan::bench]
fn what_helps(bencher: Bencher) {
    let (plan, blade) = parts();
    let work = Workpiece::plain(&blade);
    let steel = Steel::built_in("1084").expect("steel");
    let (model, biases) = (Model::default(), BiasModels::default());
    bencher.bench(|| {
        let subject = Subject {
            plan: &plan,
            steel,
            work: &work,
            tester: None,
            bar: None,
            operator: None,
        };
        let known = Known {
            model: &model,
            biases: &biases,
            target: (64.0, 66.0),
            line_mm: None,
        };
        help(black_box(subject), known, None).expect("not stopped")
    });
}

/// An outline of 4,000 short lines read and laid.
#[divan::bench]
fn outline_from_a_drawing(bencher: Bencher) {
    let side: String = (0..4000)
        .map(|i| {
            let a = f64::from(i) / 4000.0 * std::f64::consts::TAU;
            format!(
                "L{:.3} {:.3}",
                100.0 + 90.0 * a.cos(),
                20.0 + 15.0 * a.sin()
            )
        })
        .collect();
    let text = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"200mm\" viewBox=\"0 0 200 40\"><path d=\"M190 20{side}Z\"/></svg>"
    );
    bencher.bench(|| lay(&read(black_box(&text)).expect("drawing"), Laying::default()));
}

/// What a bar that nobody knows may be, after so many of its blades: asked again after every reading of the shop.
#[divan::bench(args = [1, 16])]
fn narrowing_a_steel(bencher: Bencher, blades: usize) {
    let (plan, blade) = parts();
    let work = Workpiece::plain(&blade);
    let seen = BladeSeen {
        of_each: Arc::new(hardness_of_each(Salvage::UnknownBar, &plan, &work)),
        seen: vec![(When::Tempered, Seen::Read(61.0))],
    };
    let all = vec![seen; blades];
    let belief = Belief::prior(Salvage::UnknownBar, &Measured::default());
    bencher.bench(|| black_box(belief.clone()).with_blades(black_box(&all)));
}

/// How hard one new blade would be of each analysis that a bar nobody knows may have: asked once for each blade.
#[divan::bench]
fn a_blade_of_each(bencher: Bencher) {
    let (plan, blade) = parts();
    let work = Workpiece::plain(&blade);
    bencher.bench(|| hardness_of_each(Salvage::UnknownBar, black_box(&plan), &work));
}

/// What is expected of the five rungs of a ladder.
#[divan::bench]
fn a_ladder(bencher: Bencher) {
    let steel = Steel::built_in("1084").expect("steel");
    let ladder = Ladder::usual(Along::Tempers, steel);
    let model = Model::fit(records(60));
    let corrections = Arc::default();
    let shop = Shop {
        model: &model,
        corrections: &corrections,
        fire: Furnace::Kiln,
        operator: None,
    };
    bencher.bench(|| expected(black_box(&ladder), steel, shop));
}

/// A day of fourteen blades, and its like of four.
fn day(name: &str) -> Day {
    let path = format!("{}/tests/days/{name}.json", env!("CARGO_MANIFEST_DIR"));
    let text = std::fs::read_to_string(path).expect("a day");
    serde_json::from_str(&text).expect("a day")
}

fn budget(passes: u64, known: Vec<Genome>) -> Budget {
    Budget {
        passes,
        seed: 1,
        known,
    }
}

/// The first plan of a day.
#[divan::bench(args = ["large-01", "large-05", "small-03"])]
fn first_day(bencher: Bencher, name: &str) {
    let day = day(name);
    bencher.bench_local(|| {
        let problem = Problem::new(black_box(&day)).expect("layable");
        search(&problem, &budget(1, Vec::new()), || false)
    });
}

/// After a press: what people go by laid again.
#[divan::bench(args = ["large-01", "large-05", "small-03"])]
fn known_day(bencher: Bencher, name: &str) {
    let day = day(name);
    let problem = Problem::new(&day).expect("layable");
    let found = search(&problem, &budget(300, Vec::new()), || false);
    let plan = DayPlan::of(&day, &problem, &found.genome);
    bencher.bench_local(|| {
        let problem = Problem::new(black_box(&day)).expect("layable");
        let known = Genome::known(&day, &problem, &plan);
        DayPlan::of(&day, &problem, &known)
    });
}

/// A search with 1,000 passes.
#[divan::bench(args = ["large-01", "large-05", "small-03"], sample_count = 3)]
fn good_day(bencher: Bencher, name: &str) {
    let day = day(name);
    let problem = Problem::new(&day).expect("layable");
    bencher.bench_local(|| search(&problem, &budget(1000, Vec::new()), || false));
}
