//! Two hundred plans and every number predicted of them, in a kept file: work on the words, the names or the
//! rooms of the core must not move one of them. `WRITE_NUMBERS=1` writes the file anew, which is only right
//! when an issue changes the physics, and then the commit says by how much.
//!
//! Numbers are the same to the bit on one machine; a mathematical library may round its last digit
//! otherwise on another, so the test allows 1e-9 of the value unless `TO_THE_BIT=1`.

use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write as _;
use std::path::PathBuf;

use serde_json::{Value, json};
use uuid::Uuid;
use vatten_core::geometry::blade::{Blade, BladeDraft};
use vatten_core::geometry::clay::Clay;
use vatten_core::learning::bias_models::BiasModels;
use vatten_core::learning::{Model, Record};
use vatten_core::material::medium::Medium;
use vatten_core::material::steel::Steel;
use vatten_core::prediction::outcome::outcomes;
use vatten_core::prediction::subject::{Subject, features};
use vatten_core::prediction::{StationNames, predict};
use vatten_core::process::plan::Plan;
use vatten_core::process::workpiece::Workpiece;
use vatten_core::record::reading::When;
use vatten_core::simulation::physics::{Shift, of_section, section, sensitivity};
use vatten_core::simulation::straightening::straightening;

const PLANS: usize = 200;
/// Coarse cells: the file is held against itself, not against a converged grid.
const STEP_MM: f64 = 3.0;

/// Lehmer's generator (Park and Miller 1988): the same plans on every machine.
struct Draw(u64);

impl Draw {
    fn next(&mut self) -> f64 {
        self.0 = self.0 * 48_271 % 2_147_483_647;
        self.0 as f64 / 2_147_483_647.0
    }

    fn between(&mut self, low: f64, high: f64) -> f64 {
        ((low + self.next() * (high - low)) * 100.0).round() / 100.0
    }

    fn one_of<T: Copy>(&mut self, all: &[T]) -> T {
        all[(self.next() * all.len() as f64) as usize % all.len()]
    }

    fn chance(&mut self, share: f64) -> bool {
        self.next() < share
    }
}

fn blade(draw: &mut Draw) -> Blade {
    let spine = draw.between(2.0, 7.0);
    let shapes = [
        "plain",
        "reed_hook",
        "grafting",
        "bill",
        "drawing",
        "oyster",
        "net",
    ];
    let draft = BladeDraft {
        shape: Some(draw.one_of(&shapes).to_owned()),
        length_mm: Some(draw.between(80.0, 320.0).round()),
        width_mm: Some(draw.between(18.0, 50.0).round()),
        spine_mm: Some(spine),
        edge_mm: Some(draw.between(0.3, 0.4 * spine)),
        ..BladeDraft::default()
    };
    Blade::parse(&draft).unwrap()
}

fn plan(draw: &mut Draw, steel: &Steel, clayed: bool) -> Plan {
    let mut steps = Vec::new();
    if draw.chance(0.6) {
        let t = draw.between(820.0, 900.0);
        steps.push(
            json!({"kind": "normalize", "temperature_c": t, "times": draw.one_of(&[1, 2, 3])}),
        );
    }
    if clayed {
        steps.push(json!({"kind": "clay", "temperature_c": 200.0, "hold_s": 3600.0}));
    }
    let (low, high) = (
        steel.austenitize.low.value(),
        steel.austenitize.high.value(),
    );
    let heat = draw.between(low - 25.0, high + 25.0);
    steps.push(
        json!({"kind": "austenitize", "temperature_c": heat, "soak_s": draw.between(60.0, 1500.0)}),
    );
    let medium = draw.one_of(Medium::ALL);
    let mut stages = vec![json!({"medium": medium})];
    if draw.chance(0.2) {
        stages.insert(
            0,
            json!({"medium": "water", "for_s": draw.between(0.5, 4.0)}),
        );
    }
    steps.push(json!({"kind": "quench", "stages": stages}));
    if draw.chance(0.3) {
        let wait = draw.one_of(&[0.0, 1800.0, 43_200.0]);
        steps.push(
            json!({"kind": "sub_zero", "temperature_c": draw.one_of(&[-75.0, -196.0]),
            "hold_s": 7200.0, "wait_s": wait}),
        );
    }
    if draw.chance(0.9) {
        steps.push(
            json!({"kind": "temper", "temperature_c": draw.between(120.0, 560.0),
            "hold_s": draw.between(1800.0, 9000.0), "times": draw.one_of(&[1, 2, 3])}),
        );
    }
    let drafts: Vec<_> = serde_json::from_value(Value::Array(steps)).unwrap();
    Plan::parse(&drafts).unwrap()
}

struct Case {
    steel: &'static Steel,
    work: Workpiece,
    plan: Plan,
    target: Option<(f64, f64)>,
}

impl Case {
    fn draw(i: usize) -> Self {
        let mut draw = Draw(7_919 * (i as u64 + 1));
        let (_, _) = (draw.next(), draw.next());
        let steels = Steel::table();
        let steel = &steels[i % steels.len()];
        let mut work = Workpiece::plain(&blade(&mut draw));
        let clayed = draw.chance(0.35);
        if clayed {
            let width = work.blade().width_mm;
            work.clay = Clay::band(
                draw.between(0.25 * width, 0.7 * width),
                draw.between(0.5, 4.0),
            );
        }
        let plan = plan(&mut draw, steel, clayed);
        let middle = draw.between(54.0, 63.0);
        let target = draw.chance(0.7).then_some((middle - 1.0, middle + 1.0));
        Self {
            steel,
            work,
            plan,
            target,
        }
    }

    fn subject(&self) -> Subject<'_> {
        Subject {
            plan: &self.plan,
            steel: self.steel,
            work: &self.work,
            tester: None,
            bar: None,
            operator: None,
        }
    }

    /// What would be learned from it, had it been read `off` HRC away from physics.
    fn record(&self, off: f64, id: usize) -> Record {
        let section = section(&self.plan, self.steel, &self.work);
        let physics = of_section(&self.plan, self.steel, &section, Shift::default());
        let slopes = sensitivity(&self.plan, self.steel, &section, self.work.furnace);
        let blade = Some(Uuid::from_u128(id as u128));
        Record {
            features: features(self.subject(), When::Tempered, &physics, &slopes, blade),
            physics_hrc: physics.tempered_hrc,
            measured_hrc: physics.tempered_hrc + off,
            readings: 3,
            bracket_hrc: None,
        }
    }

    /// Every number of its prediction by where it stands.
    fn numbers(&self, model: &Model) -> BTreeMap<String, f64> {
        let mut found = predict(self.subject(), model, &StationNames::new(), self.target);
        let biases = BiasModels::default();
        let whole = outcomes(&self.work, &self.plan, self.steel, &biases, STEP_MM, None).unwrap();
        found.outcomes = Some(whole.0);
        found.straightening = straightening(&self.plan, self.steel, &self.work);
        let mut numbers = BTreeMap::new();
        flatten("", &serde_json::to_value(&found).unwrap(), &mut numbers);
        numbers
    }
}

/// The prose of old and the facts in its place are no part of the table.
const NOT_KEPT: [&str; 3] = ["fix", "none", "coming_right"];

fn flatten(at: &str, value: &Value, into: &mut BTreeMap<String, f64>) {
    match value {
        Value::Number(n) => {
            into.insert(at.to_owned(), n.as_f64().unwrap());
        }
        Value::Object(fields) => {
            for (name, value) in fields {
                if !NOT_KEPT.contains(&name.as_str()) {
                    let at = if at.is_empty() {
                        name.clone()
                    } else {
                        format!("{at}.{name}")
                    };
                    flatten(&at, value, into);
                }
            }
        }
        // Lists hold reasons and points of a line; what they amount to stands beside them as numbers.
        _ => {}
    }
}

fn file() -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/kept/numbers.csv")
}

fn all() -> Vec<BTreeMap<String, f64>> {
    let cases: Vec<Case> = (0..PLANS).map(Case::draw).collect();
    let records = cases.iter().enumerate().step_by(9);
    let records = records
        .map(|(i, c)| c.record((i % 7) as f64 / 2.0 - 1.5, i))
        .collect();
    let (alone, learned) = (Model::default(), Model::fit(records));
    let number = |i: usize| {
        cases[i].numbers(if i.is_multiple_of(2) {
            &alone
        } else {
            &learned
        })
    };
    (0..PLANS).map(number).collect()
}

fn write(all: &[BTreeMap<String, f64>]) {
    let names: BTreeSet<&String> = all.iter().flat_map(BTreeMap::keys).collect();
    let names: Vec<&String> = names.into_iter().collect();
    let mut text = names
        .iter()
        .map(|n| n.as_str())
        .collect::<Vec<_>>()
        .join(",")
        + "\n";
    for row in all {
        let cell = |name: &&String| row.get(*name).map_or(String::new(), |v| format!("{v:?}"));
        writeln!(
            text,
            "{}",
            names.iter().map(cell).collect::<Vec<_>>().join(",")
        )
        .unwrap();
    }
    std::fs::write(file(), text).unwrap();
}

fn kept() -> Vec<BTreeMap<String, f64>> {
    let text = std::fs::read_to_string(file()).unwrap();
    let mut lines = text.lines();
    let names: Vec<&str> = lines.next().unwrap().split(',').collect();
    let row = |line: &str| {
        let cells = names.iter().zip(line.split(','));
        let known = cells.filter(|(_, v)| !v.is_empty());
        known
            .map(|(n, v)| ((*n).to_owned(), v.parse().unwrap()))
            .collect()
    };
    lines.map(row).collect()
}

#[test]
fn two_hundred_plans_are_predicted_as_before() {
    let found = all();
    if std::env::var_os("WRITE_NUMBERS").is_some() {
        write(&found);
    }
    let to_the_bit = std::env::var_os("TO_THE_BIT").is_some();
    let kept = kept();
    assert_eq!(kept.len(), PLANS);
    let mut count = 0;
    for (i, (kept, found)) in kept.iter().zip(&found).enumerate() {
        for (name, was) in kept {
            let is = found.get(name);
            let is = *is.unwrap_or_else(|| panic!("plan {i} has no {name} any more"));
            let same = if to_the_bit {
                is.to_bits() == was.to_bits()
            } else {
                (is - was).abs() <= 1e-9 * was.abs().max(1e-3)
            };
            assert!(same, "plan {i}, {name}: {was:?} before, {is:?} now");
            count += 1;
        }
    }
    assert!(count > 50 * PLANS, "only {count} numbers are kept");
}
