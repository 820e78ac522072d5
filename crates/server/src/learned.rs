//! What a shop's records teach: the fitted model, and what is needed to speak of it.

use crate::cache::{Cache, Content};
use crate::predictor::names_of;
use sha2::{Digest, Sha256};
use sqlx::PgConnection;
use std::collections::{BTreeMap, HashMap};
use std::sync::{Arc, OnceLock};
use uuid::Uuid;
use vatten_core::learning::findings::Found;
use vatten_core::learning::habit::Traits;
use vatten_core::learning::habits::Habits;
use vatten_core::learning::{Model, Record};
use vatten_core::material::medium::Medium;
use vatten_core::prediction::StationNames;
use vatten_core::prediction::made::Metal;
use vatten_core::prediction::subject::{Subject, features};
use vatten_core::process::calibration::Checks;
use vatten_core::process::plan::Plan;
use vatten_core::process::workpiece::Work;
use vatten_core::record::reading::{Values, When};
use vatten_core::simulation::physics::{
    Physics, Sensitivity, Shift, of_section, section, sensitivity, stages,
};
use vatten_core::simulation::simulated::{ENGINE, Simulated, simulated};
use vatten_store::record::{Asked, LearnedFrom, RecordRow, Treated};
use vatten_store::station::Station;
use vatten_store::{Error, WorkshopId, calibration, record, station};

/// Newest results that are learned from.
const MAX_RECORDS: i64 = 2000;

/// Everything that is learned from.
pub struct Records {
    /// Readings, oldest first.
    rows: Vec<RecordRow>,
    /// Findings, oldest first.
    findings: Vec<LearnedFrom>,
    stations: Vec<Station>,
    checks: Checks,
}

impl Records {
    /// Reads the newest of a shop.
    ///
    /// # Errors
    /// The database cannot be read.
    pub async fn read(connection: &mut PgConnection, id: WorkshopId) -> Result<Self, Error> {
        Ok(Self {
            rows: record::list(&mut *connection, id, MAX_RECORDS).await?,
            findings: record::findings(&mut *connection, id, MAX_RECORDS).await?,
            stations: station::list(&mut *connection, id).await?,
            checks: calibration::checks(connection, id).await?,
        })
    }
}

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
    /// What it is made of.
    pub metal: Metal,
    /// The blade and what was around it.
    pub work: Work,
}

impl Gone {
    /// None when it can no longer be understood.
    #[must_use]
    pub fn of(row: &Treated) -> Option<Self> {
        let made = &row.made;
        // What no longer fits the rules is learned from as a plain blade.
        let work = made.work().unwrap_or_else(|_| Work::plain(&made.blade));
        Some(Self {
            plan: Plan::done(row.done.clone())
                .with_stations(made.stations)
                .knowing(Arc::new(made.checks.clone())),
            metal: made.of.metal()?,
            work,
        })
    }

    /// As the engine is asked of it, when it is read with `tester`.
    #[must_use]
    pub fn subject<'a>(&'a self, row: &'a Treated, tester: Option<Uuid>) -> Subject<'a> {
        Subject {
            plan: &self.plan,
            steel: &self.metal.steel,
            work: &self.work,
            tester,
            bar: self.metal.bar,
            hand: row.hand.as_ref(),
        }
    }

    /// All that the engine goes by, hashed.
    #[must_use]
    pub fn content(&self) -> Content {
        let (plan, steel) = (&self.plan, &self.metal.steel);
        let text = format!(
            "{:?}{:?}{steel:?}{:?}",
            plan.real_steps(),
            plan.untempered(),
            self.work
        );
        Sha256::digest(text).into()
    }
}

/// What physics says of a blade as it went through the fire.
#[derive(Debug)]
pub struct Worked {
    physics: Physics,
    slopes: Sensitivity,
    /// Of the whole blade: only where something was found of it, since it takes longest.
    simulated: OnceLock<Option<Simulated>>,
}

/// A firing with what physics says of it.
struct Fired<'a> {
    row: &'a Treated,
    gone: Gone,
    asked: Content,
    worked: Arc<Worked>,
}

impl<'a> Fired<'a> {
    /// Physics is asked once for the same blade, steel and steps: after every reading all the others are
    /// learned from again.
    fn of(row: &'a Treated, known: &Cache<Worked>) -> Option<Self> {
        let gone = Gone::of(row)?;
        let asked = gone.content();
        let worked = known.get(&asked).unwrap_or_else(|| {
            let (plan, steel, work) = (&gone.plan, &gone.metal.steel, &gone.work);
            let section = section(plan, steel, work);
            let worked = Arc::new(Worked {
                physics: of_section(plan, steel, &section, Shift::default()),
                slopes: sensitivity(plan, steel, &section),
                simulated: OnceLock::new(),
            });
            known.put(asked, Arc::clone(&worked));
            worked
        });
        Some(Self {
            row,
            gone,
            asked,
            worked,
        })
    }

    /// What the engine alone says of the whole blade: as it was kept, or asked anew.
    fn simulated(&self) -> Option<&Simulated> {
        let kept = || {
            let kept = self.row.simulated.as_ref()?;
            (kept.engine == ENGINE && kept.asked == self.asked).then(|| kept.found.clone())
        };
        let ask = || {
            let Gone { plan, metal, work } = &self.gone;
            kept().or_else(|| simulated(work, plan, &metal.steel, None).ok())
        };
        self.worked.simulated.get_or_init(ask).as_ref()
    }

    /// What the engine was asked anew, to be kept.
    fn to_keep(&self) -> Option<(Uuid, Asked)> {
        let found = self.worked.simulated.get()?.as_ref()?;
        let kept = self.row.simulated.as_ref();
        let known = kept.is_some_and(|k| k.engine == ENGINE && k.asked == self.asked);
        (!known).then(|| {
            let asked = Asked {
                engine: ENGINE,
                asked: self.asked.to_vec(),
                found: found.clone(),
            };
            (self.row.firing_id, asked)
        })
    }

    /// The record that a result amounts to.
    fn record(
        &self,
        when: When,
        values: &Values,
        (tester, measured_hrc): (Option<Uuid>, f64),
        bracket_hrc: Option<(f64, f64)>,
    ) -> Record {
        let subject = self.gone.subject(self.row, tester);
        let Worked {
            physics, slopes, ..
        } = &*self.worked;
        Record {
            physics_hrc: match when {
                When::AsQuenched => physics.as_quenched_hrc,
                When::Tempered => physics.tempered_hrc,
            },
            features: features(subject, when, physics, slopes, Some(self.row.blade_id)),
            measured_hrc,
            readings: values.count(),
            bracket_hrc,
        }
    }

    /// Readings by the check of their tester that was in force when they were taken.
    fn reading(&self, row: &RecordRow, checks: &Checks) -> Option<Record> {
        let placed = row.taken.places.iter().any(Option::is_some);
        let line = placed.then(|| self.simulated()?.line()).flatten();
        let counting = row.taken.counting(&row.values_hrc, line.as_ref());
        let values = Values::parse(&counting).ok()?;
        let known = checks.at(row.taken_at.unix_timestamp());
        let measured = known.really(row.tester_id, values.mean());
        let when = When::parse(&row.stage)?;
        Some(self.record(when, &values, (row.tester_id, measured), None))
    }

    /// A file bracket: as a reading would be, but only known to lie between two files.
    fn bracket(&self, row: &LearnedFrom) -> Option<Record> {
        let found = row.found.bracket().filter(|b| b.counts())?;
        let between = (found.low_hrc, found.high_hrc);
        let middle = 0.5 * (found.low_hrc + found.high_hrc);
        let values = Values::parse(&[middle]).ok()?;
        Some(self.record(found.stage, &values, (None, middle), Some(between)))
    }

    /// What its quench shares with others.
    fn traits(&self) -> Option<Traits> {
        Some(Traits {
            steel: self.gone.metal.steel.key.clone(),
            medium: stages(&self.gone.plan).first()?.medium,
            hand: self.row.hand.clone(),
        })
    }
}

/// What the engine alone says of quenches as they were done, by firing; with it, what it was asked anew.
#[must_use]
pub fn simulate_all(
    rows: &[Treated],
    known: &Cache<Worked>,
) -> (HashMap<Uuid, Simulated>, Vec<(Uuid, Asked)>) {
    let all: Vec<Fired<'_>> = rows.iter().filter_map(|r| Fired::of(r, known)).collect();
    let found = all
        .iter()
        .filter_map(|f| Some((f.row.firing_id, f.simulated()?.clone())));
    (
        found.collect(),
        all.iter().filter_map(Fired::to_keep).collect(),
    )
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

/// Learns from a shop's records; with it, what the engine was asked anew.
#[must_use]
pub fn learn(records: &Records, known: &Cache<Worked>) -> (Learned, Vec<(Uuid, Asked)>) {
    let Records {
        rows,
        findings,
        stations,
        checks,
    } = records;
    let treated = || {
        let found = findings.iter().map(|f| &f.treated);
        rows.iter().map(|r| &r.treated).chain(found)
    };
    let mut firings: HashMap<Uuid, Option<Fired<'_>>> = HashMap::new();
    for row in treated() {
        firings
            .entry(row.firing_id)
            .or_insert_with(|| Fired::of(row, known));
    }
    let of = |row: &Treated| firings.get(&row.firing_id)?.as_ref();
    let read = rows.iter().filter_map(|row| {
        let record = of(&row.treated)?.reading(row, checks)?;
        Some((row.treated.started_at, record))
    });
    let filed = findings
        .iter()
        .filter_map(|row| Some((row.treated.started_at, of(&row.treated)?.bracket(row)?)));
    // In the order of the fires: what was known on a day is what came before it.
    let mut results: Vec<_> = read.chain(filed).collect();
    results.sort_by_key(|(started_at, _)| *started_at);
    let model = Model::fit(results.into_iter().map(|(_, record)| record).collect());
    let steel = |t: &Treated| {
        let steel = t.made.of.steel.steel()?;
        Some((steel.key, steel.name))
    };
    // The next blade goes through the hand that quenched last.
    let hand = treated()
        .filter(|t| t.hand.is_some())
        .max_by_key(|t| t.started_at)
        .and_then(|t| t.hand.clone());
    let whole = findings.iter().filter(|f| f.found.is_of_the_whole_blade());
    let quenches = whole.filter_map(|row| {
        let fired = of(&row.treated)?;
        Some(Found {
            blade: row.treated.blade_id,
            traits: fired.traits()?,
            simulated: fired.simulated()?,
            finding: &row.found,
        })
    });
    let habits = Habits::learn(quenches, hand.clone());
    let found: Vec<_> = findings
        .iter()
        .filter_map(|f| Some((of(&f.treated)?.asked, &f.treated.hand, &f.found)))
        .collect();
    let learned = Learned {
        model,
        names: names_of(stations),
        marks: treated().map(|t| (t.blade_id, t.mark.clone())).collect(),
        steels: treated().filter_map(steel).collect(),
        tanks: tanks(stations),
        habits_of: Sha256::digest(format!("{hand:?}{found:?}")).into(),
        habits,
        checks: checks.clone(),
        lessons: OnceLock::new(),
    };
    let fired = firings.values().flatten();
    let to_keep = fired.filter_map(Fired::to_keep).collect();
    (learned, to_keep)
}
