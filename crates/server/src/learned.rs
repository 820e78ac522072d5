//! What a shop's records teach: the fitted model, and what is needed to speak of it.

use crate::cache::{Cache, Content};
use crate::predictor::{names_of, steel_of_bar};
use sha2::{Digest, Sha256};
use std::collections::{BTreeMap, HashMap};
use std::sync::{Arc, OnceLock};
use uuid::Uuid;
use vatten_core::blade::{Blade, BladeDraft};
use vatten_core::calibration::{Checks, Corrections};
use vatten_core::hand::Hand;
use vatten_core::learn::findings::Found;
use vatten_core::learn::habit::Traits;
use vatten_core::learn::{Model, Record};
use vatten_core::medium::Medium;
use vatten_core::outcome::Habits;
use vatten_core::physics::{Physics, Sensitivity, Shift, of_section, section, sensitivity};
use vatten_core::plan::{Plan, Step};
use vatten_core::prediction::{StationNames, Subject, features};
use vatten_core::reading::{Values, When};
use vatten_core::steel::Steel;
use vatten_core::work::Work;
use vatten_store::record::{LearnedFrom, RecordRow, Treated};
use vatten_store::station::Station;

/// A fitted model and what is needed to speak of it.
#[derive(Debug, Default)]
pub struct Learned {
    /// The model.
    pub model: Model,
    /// Names of the shop's stations.
    pub names: StationNames,
    /// Marks of the blades that were learned from.
    pub marks: BTreeMap<Uuid, String>,
    /// Names of their steels by key.
    pub steels: BTreeMap<String, String>,
    /// Names of the shop's tanks by what is in them.
    pub tanks: HashMap<Medium, String>,
    /// What was learned of everything but hardness.
    pub habits: Habits,
    /// Hash of what those were learned from.
    pub habits_of: Content,
    /// The checks of the shop's stations.
    pub checks: Checks,
    /// What the records say, as it is answered: worked out once, when asked for.
    pub lessons: OnceLock<String>,
}

/// A blade as it went through the fire, as the engine takes it.
#[derive(Debug, Clone)]
pub struct Gone {
    /// What was really done, knowing the checks of its time.
    pub plan: Plan,
    /// Its steel, as its bar has it.
    pub steel: Steel,
    /// The blade and what was around it.
    pub work: Work,
    /// The checks of its time.
    pub checks: Arc<Corrections>,
}

impl Gone {
    /// None when it can no longer be understood.
    #[must_use]
    pub fn of(row: &Treated, checks: &Checks) -> Option<Self> {
        let mut steel = match (&row.steel_key, &row.house_steel) {
            (Some(key), _) => Steel::built_in(key)?.clone(),
            (None, Some(house)) => house.clone(),
            _ => return None,
        };
        if let Some(bar) = &row.bar {
            steel = steel_of_bar(&steel, bar.analysis.as_ref(), bar.condition);
        }
        let [length_mm, width_mm, spine_mm, edge_mm] = row.lengths_mm.map(Some);
        let blade = Blade::parse(&BladeDraft {
            shape: Some(row.shape.clone()),
            length_mm,
            width_mm,
            spine_mm,
            edge_mm,
            grind: Some(row.grind.clone()),
        })
        .ok()?;
        // Fires and testers as they were checked at the time.
        let checks = Arc::new(checks.at(row.started_at.unix_timestamp()));
        // What no longer fits the rules is learned from as a plain blade.
        let work = row
            .made
            .ready
            .work(&blade, row.made.clay.as_ref())
            .unwrap_or_else(|_| Work::plain(&blade));
        Some(Self {
            plan: Plan::stored(row.done.clone()).knowing(Arc::clone(&checks)),
            steel,
            work,
            checks,
        })
    }

    /// As the engine is asked of it, when it is read with `tester`.
    #[must_use]
    pub fn subject<'a>(&'a self, row: &'a Treated, tester: Option<Uuid>) -> Subject<'a> {
        Subject {
            plan: &self.plan,
            steel: &self.steel,
            work: &self.work,
            tester,
            bar: row.bar.map(|b| b.id),
            hand: row.hand.as_ref(),
        }
    }
}

/// What physics says of a blade as it went through the fire.
#[derive(Debug)]
pub struct Worked {
    physics: Physics,
    slopes: Sensitivity,
}

/// A firing with what physics says of it.
struct Fired<'a> {
    row: &'a Treated,
    gone: Gone,
    worked: Arc<Worked>,
}

impl<'a> Fired<'a> {
    /// Physics is asked once for the same blade, steel and steps: after every reading all the others are
    /// learned from again.
    fn of(row: &'a Treated, checks: &Checks, known: &Cache<Worked>) -> Option<Self> {
        let gone = Gone::of(row, checks)?;
        let Gone {
            plan, steel, work, ..
        } = &gone;
        let key: Content =
            Sha256::digest(format!("{:?}{steel:?}{work:?}", plan.real_steps())).into();
        let worked = known.get(&key).unwrap_or_else(|| {
            let section = section(plan, steel, work);
            let worked = Arc::new(Worked {
                physics: of_section(plan, steel, &section, Shift::default()),
                slopes: sensitivity(plan, steel, &section),
            });
            known.put(key, Arc::clone(&worked));
            worked
        });
        Some(Self { row, gone, worked })
    }

    /// The record that a result amounts to.
    fn record(
        &self,
        when: When,
        values: &Values,
        tester: Option<Uuid>,
        bracket_hrc: Option<(f64, f64)>,
    ) -> Record {
        let subject = self.gone.subject(self.row, tester);
        let Worked { physics, slopes } = &*self.worked;
        Record {
            physics_hrc: match when {
                When::AsQuenched => physics.as_quenched_hrc,
                When::Tempered => physics.tempered_hrc,
            },
            features: features(subject, when, physics, slopes, Some(self.row.blade_id)),
            measured_hrc: self.gone.checks.really(tester, values.mean()),
            readings: values.count(),
            bracket_hrc,
        }
    }

    fn reading(&self, row: &RecordRow) -> Option<Record> {
        let line = row.hamon.as_ref().and_then(|h| h.line());
        let counting = row.taken.counting(&row.values_hrc, line);
        let values = Values::parse(&counting).ok()?;
        Some(self.record(When::parse(&row.stage)?, &values, row.tester_id, None))
    }

    /// A file bracket: as a reading would be, but only known to lie between two files.
    fn bracket(&self, row: &LearnedFrom) -> Option<Record> {
        let (stage, low, high) = row.found.bracket_hrc()?;
        let values = Values::parse(&[0.5 * (low + high)]).ok()?;
        Some(self.record(stage, &values, None, Some((low, high))))
    }
}

/// Key of the steel of a finding, as predictions have it.
fn steel_key(row: &LearnedFrom) -> Option<String> {
    let house = row.treated.house_steel.as_ref().map(|h| h.key.clone());
    row.treated.steel_key.clone().or(house)
}

fn habits(findings: &[LearnedFrom], hand: Option<Hand>) -> Habits {
    let quenches = findings.iter().filter_map(|row| {
        let first = row.treated.done.iter().rev().find_map(|step| match step {
            Step::Quench { stages } => stages.first().map(|s| s.medium),
            _ => None,
        })?;
        let traits = Traits {
            steel: steel_key(row)?,
            medium: first,
            hand: row.treated.hand.clone(),
        };
        Some(Found {
            blade: row.treated.blade_id,
            traits,
            predicted: row.prediction.outcomes.as_ref()?,
            finding: &row.found,
        })
    });
    Habits::learn(quenches, hand)
}

/// Tanks in use by what is in them; those with the same in them are told together.
fn tanks(all: &[Station]) -> HashMap<Medium, String> {
    let mut names: HashMap<Medium, String> = HashMap::new();
    for s in all.iter().filter(|s| s.retired_at.is_none()) {
        let medium = s.medium.as_deref().and_then(Medium::parse);
        let Some(medium) = medium else { continue };
        names
            .entry(medium)
            .and_modify(|known| *known = format!("{known} and {}", s.name))
            .or_insert_with(|| s.name.clone());
    }
    names
}

/// Learns from readings and findings, oldest first.
#[must_use]
pub fn learn(
    rows: &[RecordRow],
    findings: &[LearnedFrom],
    stations: &[Station],
    checks: Checks,
    known: &Cache<Worked>,
) -> Learned {
    let treated = || {
        let found = findings.iter().map(|f| &f.treated);
        rows.iter().map(|r| &r.treated).chain(found)
    };
    let mut firings: HashMap<Uuid, Option<Fired<'_>>> = HashMap::new();
    for row in treated() {
        firings
            .entry(row.firing_id)
            .or_insert_with(|| Fired::of(row, &checks, known));
    }
    let of = |row: &Treated| firings.get(&row.firing_id)?.as_ref();
    let read = rows
        .iter()
        .filter_map(|row| Some((row.treated.started_at, of(&row.treated)?.reading(row)?)));
    let filed = findings
        .iter()
        .filter_map(|row| Some((row.treated.started_at, of(&row.treated)?.bracket(row)?)));
    // In the order of the fires: what was known on a day is what came before it.
    let mut records: Vec<_> = read.chain(filed).collect();
    records.sort_by_key(|(started_at, _)| *started_at);
    let model = Model::fit(records.into_iter().map(|(_, record)| record).collect());
    let steel = |t: &Treated| match (&t.steel_key, &t.house_steel) {
        (Some(key), _) => Steel::built_in(key).map(|s| (key.clone(), s.name.clone())),
        (None, house) => house.as_ref().map(|s| (s.key.clone(), s.name.clone())),
    };
    // The next blade goes through the hand that quenched last.
    let hand = treated()
        .filter(|t| t.hand.is_some())
        .max_by_key(|t| t.started_at)
        .and_then(|t| t.hand.clone());
    let found: Vec<_> = findings
        .iter()
        .map(|f| (f.treated.blade_id, &f.treated.hand, &f.found))
        .collect();
    Learned {
        model,
        names: names_of(stations),
        marks: treated().map(|t| (t.blade_id, t.mark.clone())).collect(),
        steels: treated().filter_map(steel).collect(),
        tanks: tanks(stations),
        habits_of: Sha256::digest(format!("{hand:?}{found:?}")).into(),
        habits: habits(findings, hand),
        checks,
        lessons: OnceLock::new(),
    }
}
