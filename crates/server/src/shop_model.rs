//! The model fitted to a shop's records, and what is needed to speak of it.

use crate::cache::{Cache, Content};
use crate::cache_key::{BiasesKey, OfEachKey, TreatmentKey, hash};
use crate::materials::{fire, names_of};
use sqlx::PgConnection;
use std::collections::{BTreeMap, HashMap};
use std::sync::{Arc, OnceLock};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::learning::belief::{Belief, BladeSeen, HardnessOfEach, Seen, hardness_of_each};
use vatten_core::learning::bias_model::Traits;
use vatten_core::learning::bias_models::BiasModels;
use vatten_core::learning::findings::Found;
use vatten_core::learning::{Model, Record};
use vatten_core::material::medium::Medium;
use vatten_core::material::steel::Steel;
use vatten_core::prediction::StationNames;
use vatten_core::prediction::made::{Metal, SteelMade};
use vatten_core::prediction::subject::{Subject, features};
use vatten_core::process::calibration::Checks;
use vatten_core::process::plan::Plan;
use vatten_core::process::tank::Tanks;
use vatten_core::process::workpiece::Workpiece;
use vatten_core::record::ladder::{Hardness, Rung};
use vatten_core::record::reading::{Values, When};
use vatten_core::record::trial::{Estimate, estimate};
use vatten_core::simulation::physics::{
    Physics, Sensitivity, Shift, of_section, section, sensitivity, stages,
};
use vatten_core::simulation::simulated::{ENGINE, Simulated, simulated};
use vatten_store::ladder::LadderRow;
use vatten_store::record::{KeptSimulation, LearnedFrom, RecordRow, Treated};
use vatten_store::station::Station;
use vatten_store::steel::HouseSteel;
use vatten_store::trial::Source;
use vatten_store::{Error, WorkshopId, calibration, ladder, record, station, steel, trial};

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
    /// Steels without a paper, with the trials they came of.
    sources: Vec<Source>,
    /// Ladders on steel that is known.
    ladders: Vec<LadderRow>,
    /// The shop's own steels.
    steels: Vec<HouseSteel>,
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
            sources: trial::sources(&mut *connection, id).await?,
            ladders: ladder::list(&mut *connection, id).await?,
            steels: steel::list(&mut *connection, id).await?,
            checks: calibration::checks(connection, id).await?,
        })
    }
}

/// A fitted model and what is needed to speak of it.
#[derive(Debug, Default)]
pub struct ShopModel {
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
    pub biases: BiasModels,
    /// Hash of what those were learned from.
    pub biases_key: Content,
    /// The checks of the shop's stations.
    pub checks: Checks,
    /// What the records say, as it is answered: physics out once, when asked for.
    pub lessons: OnceLock<String>,
}

/// A blade as it went through the fire, as the engine takes it.
#[derive(Debug, Clone)]
pub struct TreatedBlade {
    /// What was really done, knowing the checks of its time.
    pub plan: Plan,
    /// What it is made of.
    pub metal: Metal,
    /// The blade and what was around it.
    pub work: Workpiece,
}

/// The tanks that were kept with a firing, and those that were measured since what is in them now was put in: a blade is
/// learned from by the best that is known of its bath.
fn best_known(kept: &Tanks, stations: &[Station], at: OffsetDateTime) -> Tanks {
    let now = station::tanks(stations, at);
    let measured = now.iter().filter(|(_, tank)| tank.own.is_some());
    let all = kept.iter().chain(measured);
    all.map(|(id, tank)| (id, *tank)).collect()
}

impl TreatedBlade {
    /// None when it can no longer be understood.
    #[must_use]
    pub fn from_row(row: &Treated, stations: &[Station]) -> Option<Self> {
        let made = &row.made;
        let metal = made.material.metal()?;
        // What no longer fits the rules is learned from as a plain blade.
        let mut work = made
            .work()
            .unwrap_or_else(|_| Workpiece::plain(&made.blade));
        let plan = row
            .done
            .clone()
            .plan()
            .judged_on(&metal.steel)
            .with_stations(made.stations)
            .with_corrections(Arc::new(made.checks.clone().with_tanks(best_known(
                made.checks.tanks(),
                stations,
                row.started_at,
            ))));
        work.furnace = fire(stations, &plan);
        Some(Self { plan, metal, work })
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
            operator: row.operator.as_ref(),
        }
    }

    /// Hash of all that the engine goes by.
    #[must_use]
    pub fn content(&self) -> Content {
        hash(&TreatmentKey {
            heat_spread_k: {
                let doubt = self.plan.heat_doubt(self.work.furnace);
                if doubt.once_c > 0.0 {
                    doubt.spread_c()
                } else {
                    0.0
                }
            },
            steps: self.plan.real_steps(),
            untempered_s: self.plan.untempered(),
            steel: &self.metal.steel,
            work: &self.work,
        })
    }
}

/// What physics says of a blade as it went through the fire.
#[derive(Debug)]
pub struct PhysicsResult {
    physics: Physics,
    slopes: Sensitivity,
    /// Of the whole blade: only where something was found of it, since it takes longest.
    simulated: OnceLock<Option<Simulated>>,
}

impl PhysicsResult {
    /// Physics is asked once for the same blade, steel and steps: after every reading all the others are learned from
    /// again.
    fn of(blade: &TreatedBlade, content: Content, cache: &Cache<Self>) -> Arc<Self> {
        if let Some(known) = cache.get(&content) {
            return known;
        }
        let (plan, steel) = (&blade.plan, &blade.metal.steel);
        let section = section(plan, steel, &blade.work);
        let physics = Arc::new(Self {
            physics: of_section(plan, steel, &section, Shift::default()),
            slopes: sensitivity(plan, steel, &section, blade.work.furnace),
            simulated: OnceLock::new(),
        });
        cache.put(content, Arc::clone(&physics));
        physics
    }

    /// The record that a result amounts to.
    fn record(
        &self,
        subject: Subject<'_>,
        blade: Uuid,
        when: When,
        (values, measured_hrc): (&Values, f64),
        bracket_hrc: Option<(f64, f64)>,
    ) -> Record {
        Record {
            physics_hrc: match when {
                When::AsQuenched => self.physics.as_quenched_hrc,
                When::Tempered => self.physics.tempered_hrc,
            },
            features: features(subject, when, &self.physics, &self.slopes, Some(blade)),
            measured_hrc,
            readings: values.count(),
            bracket_hrc,
        }
    }
}

/// What physics said before, over all shops: the same question is asked once.
#[derive(Debug)]
pub struct KnownPhysics {
    /// Of blades as they went through the fire.
    pub treated: Cache<PhysicsResult>,
    /// Of blades of steel without a paper, of each analysis that it may have.
    pub of_each: Cache<HardnessOfEach>,
}

/// A firing with what physics says of it.
struct Fired<'a> {
    row: &'a Treated,
    blade: TreatedBlade,
    content: Content,
    physics: Arc<PhysicsResult>,
}

impl<'a> Fired<'a> {
    fn from_row(
        row: &'a Treated,
        stations: &[Station],
        cache: &Cache<PhysicsResult>,
    ) -> Option<Self> {
        let blade = TreatedBlade::from_row(row, stations)?;
        let content = blade.content();
        let physics = PhysicsResult::of(&blade, content, cache);
        Some(Self {
            row,
            blade,
            content,
            physics,
        })
    }

    /// What the engine alone says of the whole blade: as it was kept, or asked anew.
    fn simulated(&self) -> Option<&Simulated> {
        let kept = || {
            let kept = self.row.simulated.as_ref()?;
            self.is_of_this(kept).then(|| kept.found.clone())
        };
        let ask = || {
            let TreatedBlade { plan, metal, work } = &self.blade;
            kept().or_else(|| simulated(work, plan, &metal.steel, None).ok())
        };
        self.physics.simulated.get_or_init(ask).as_ref()
    }

    fn is_of_this(&self, kept: &KeptSimulation) -> bool {
        kept.engine == ENGINE && kept.asked == self.content
    }

    /// What the engine was asked anew, to be kept.
    fn to_keep(&self) -> Option<(Uuid, KeptSimulation)> {
        let found = self.physics.simulated.get()?.as_ref()?;
        let known = self
            .row
            .simulated
            .as_ref()
            .is_some_and(|k| self.is_of_this(k));
        (!known).then(|| {
            let simulation = KeptSimulation {
                engine: ENGINE,
                asked: self.content.to_vec(),
                found: found.clone(),
            };
            (self.row.firing_id, simulation)
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
        let subject = self.blade.subject(self.row, tester);
        let said = (values, measured_hrc);
        let of = self.row.blade_id;
        self.physics.record(subject, of, when, said, bracket_hrc)
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
            steel: self.blade.metal.steel.key.clone(),
            medium: stages(&self.blade.plan).first()?.medium,
            clay: (!self.blade.work.clay.is_bare()).then(|| self.blade.work.clay.mix()),
            operator: self.row.operator.clone(),
        })
    }
}

/// What the engine alone says of quenches as they were done, by firing; with it, what it was asked anew.
#[must_use]
pub fn simulate_all(
    rows: &[Treated],
    stations: &[Station],
    known: &Cache<PhysicsResult>,
) -> (HashMap<Uuid, Simulated>, Vec<(Uuid, KeptSimulation)>) {
    let all: Vec<Fired<'_>> = rows
        .iter()
        .filter_map(|r| Fired::from_row(r, stations, known))
        .collect();
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

/// Newest blades of a steel without a paper that narrow what it may be.
const MAX_NARROWING: usize = 16;

/// A steel of the shop's own in a blade's material.
fn house_of(treated: &Treated) -> Option<Uuid> {
    match &treated.made.material.steel {
        SteelMade::House { id, .. } => Some(*id),
        SteelMade::BuiltIn { .. } => None,
    }
}

impl Records {
    /// What its trial and its blades say of a steel without a paper.
    fn estimate_of(&self, source: &Source, known: &Cache<HardnessOfEach>) -> Estimate {
        let was = source.trial.piece.was;
        let mut blades: HashMap<Uuid, BladeSeen> = HashMap::new();
        let of_it = |t: &Treated| house_of(t) == Some(source.steel.id);
        let mut add = |treated: &Treated, when: When, seen: Seen| {
            if blades.len() >= MAX_NARROWING && !blades.contains_key(&treated.firing_id) {
                return;
            }
            let Some(blade) = TreatedBlade::from_row(treated, &self.stations) else {
                return;
            };
            let of = blades.entry(treated.firing_id).or_insert_with(|| {
                let asked = hash(&OfEachKey {
                    was,
                    steps: blade.plan.real_steps(),
                    untempered_s: blade.plan.untempered(),
                    work: &blade.work,
                });
                let of_each = known.get(&asked).unwrap_or_else(|| {
                    let found = Arc::new(hardness_of_each(was, &blade.plan, &blade.work));
                    known.put(asked, Arc::clone(&found));
                    found
                });
                BladeSeen {
                    of_each,
                    seen: Vec::new(),
                }
            });
            of.seen.push((when, seen));
        };
        for row in self.rows.iter().rev().filter(|r| of_it(&r.treated)) {
            let counting = row.taken.counting(&row.values_hrc, None);
            let (Ok(values), Some(when)) = (Values::parse(&counting), When::parse(&row.stage))
            else {
                continue;
            };
            let known = self.checks.at(row.taken_at.unix_timestamp());
            let read = known.really(row.tester_id, values.mean());
            add(&row.treated, when, Seen::Read(read));
        }
        for row in self.findings.iter().rev().filter(|f| of_it(&f.treated)) {
            if let Some(b) = row.found.bracket().filter(|b| b.counts()) {
                add(&row.treated, b.stage, Seen::Between(b.low_hrc, b.high_hrc));
            }
        }
        let mut blades: Vec<(Uuid, BladeSeen)> = blades.into_iter().collect();
        blades.sort_by_key(|(firing, _)| *firing);
        let blades: Vec<BladeSeen> = blades.into_iter().map(|(_, blade)| blade).collect();
        let trial = &source.trial;
        let now = self
            .checks
            .at(time::OffsetDateTime::now_utc().unix_timestamp());
        let reclaimed = Belief::prior(trial.piece.was, &trial.piece.measured)
            .with_coupons(&trial.entries, trial.piece.thickness, &now)
            .with_blades(&blades)
            .reclaimed();
        estimate(&trial.entries, &reclaimed)
    }

    /// Narrows what steels without a paper may be, and learns from their blades as they are known now. Gives those that
    /// are known better than they were.
    fn narrow(&mut self, known: &Cache<HardnessOfEach>) -> Vec<(Uuid, Estimate)> {
        let mut narrowed = Vec::new();
        for source in std::mem::take(&mut self.sources) {
            let id = source.steel.id;
            let now = self.estimate_of(&source, known);
            let rows = self.rows.iter_mut().map(|r| &mut r.treated);
            let treated = rows.chain(self.findings.iter_mut().map(|f| &mut f.treated));
            for t in treated.filter(|t| house_of(t) == Some(id)) {
                t.made.material.steel = SteelMade::House {
                    id,
                    name: source.steel.name.clone(),
                    analysis: now.analysis(),
                    estimate: Some(Box::new(now.clone())),
                };
            }
            if source.steel.estimate.as_ref() != Some(&now) {
                narrowed.push((id, now));
            }
        }
        narrowed
    }
}

impl Records {
    /// The steel of a ladder as it is known now; None when the table no longer has it.
    fn steel_of(&self, row: &LadderRow, narrowed: &[(Uuid, Estimate)]) -> Option<Steel> {
        let key = &row.of.steel;
        let Some(house) = self.steels.iter().find(|s| s.id.to_string() == *key) else {
            return Steel::built_in(key).cloned();
        };
        let better = narrowed.iter().find(|(id, _)| *id == house.id);
        Some(better.map_or_else(|| house.steel(), |(_, e)| e.steel(key, &house.name)))
    }

    /// What the rungs of a ladder amount to that were read.
    fn rungs(
        &self,
        row: &LadderRow,
        narrowed: &[(Uuid, Estimate)],
        known: &Cache<PhysicsResult>,
    ) -> Vec<Record> {
        let ladder = &row.of.ladder;
        let (Some(steel), Some(coupon)) = (self.steel_of(row, narrowed), ladder.coupon()) else {
            return Vec::new();
        };
        let checks = self.checks.at(row.created_at.unix_timestamp());
        let tanks = station::tanks(&self.stations, row.created_at);
        let corrections = Arc::new(checks.clone().with_tanks(tanks));
        let tester = ladder.treatment.tester;
        let of = |(number, rung): (usize, &Rung)| {
            let hardness = rung.hardness()?;
            let plan = ladder.plan(rung).with_corrections(Arc::clone(&corrections));
            let mut work = coupon.clone();
            work.furnace = fire(&self.stations, &plan);
            let blade = TreatedBlade {
                plan,
                metal: Metal::plain(steel.clone()),
                work,
            };
            let physics = PhysicsResult::of(&blade, blade.content(), known);
            let subject = |tester| Subject {
                plan: &blade.plan,
                steel: &blade.metal.steel,
                work: &blade.work,
                tester,
                bar: None,
                operator: None,
            };
            let coupon = ladder.coupon_id(row.id, number);
            let when = ladder.when();
            Some(match hardness {
                Hardness::Read(values) => {
                    let measured = checks.really(tester, values.mean());
                    physics.record(subject(tester), coupon, when, (&values, measured), None)
                }
                Hardness::Between(low, high) => {
                    let middle = 0.5 * (low + high);
                    let values = Values::parse(&[middle]).ok()?;
                    let said = (&values, middle);
                    physics.record(subject(None), coupon, when, said, Some((low, high)))
                }
            })
        };
        ladder.rungs.iter().enumerate().filter_map(of).collect()
    }
}

/// What was learned, and what else came of learning it.
pub struct Learned {
    /// The model.
    pub model: ShopModel,
    /// What the engine was asked anew.
    pub simulated: Vec<(Uuid, KeptSimulation)>,
    /// Steels without a paper that are known better than they were.
    pub narrowed: Vec<(Uuid, Estimate)>,
}

/// The coupons of a ladder, by the name of the ladder.
fn coupons(row: &LadderRow) -> impl Iterator<Item = (Uuid, String)> {
    let ladder = &row.of.ladder;
    let of = |number| (ladder.coupon_id(row.id, number), row.of.name.clone());
    (0..ladder.rungs.len()).map(of)
}

/// Learns from a shop's records.
#[must_use]
pub fn fit(mut records: Records, known: &KnownPhysics) -> Learned {
    let narrowed = records.narrow(&known.of_each);
    let known = &known.treated;
    let rungs: Vec<(OffsetDateTime, Record)> = records
        .ladders
        .iter()
        .flat_map(|l| {
            let all = records.rungs(l, &narrowed, known).into_iter();
            all.map(|record| (l.created_at, record))
        })
        .collect();
    let Records {
        rows,
        findings,
        stations,
        checks,
        ladders,
        ..
    } = &records;
    let treated = || {
        let found = findings.iter().map(|f| &f.treated);
        rows.iter().map(|r| &r.treated).chain(found)
    };
    let mut firings: HashMap<Uuid, Option<Fired<'_>>> = HashMap::new();
    for row in treated() {
        firings
            .entry(row.firing_id)
            .or_insert_with(|| Fired::from_row(row, stations, known));
    }
    let fired = |row: &Treated| firings.get(&row.firing_id)?.as_ref();
    let read = rows.iter().filter_map(|row| {
        let record = fired(&row.treated)?.reading(row, checks)?;
        Some((row.treated.started_at, record))
    });
    let filed = findings
        .iter()
        .filter_map(|row| Some((row.treated.started_at, fired(&row.treated)?.bracket(row)?)));
    // In the order of the fires: what was known on a day is what came before it.
    let mut results: Vec<_> = read.chain(filed).chain(rungs).collect();
    results.sort_by_key(|(started_at, _)| *started_at);
    let model = Model::fit(results.into_iter().map(|(_, record)| record).collect());
    let steel = |t: &Treated| {
        let steel = t.made.material.steel.steel()?;
        Some((steel.key, steel.name))
    };
    // The next blade goes through the hand that quenched last.
    let operator = treated()
        .filter(|t| t.operator.is_some())
        .max_by_key(|t| t.started_at)
        .and_then(|t| t.operator.clone());
    let whole = findings.iter().filter(|f| f.found.is_of_the_whole_blade());
    let quenches = whole.filter_map(|row| {
        let firing = fired(&row.treated)?;
        Some(Found {
            blade: row.treated.blade_id,
            traits: firing.traits()?,
            simulated: firing.simulated()?,
            finding: &row.found,
        })
    });
    let biases = BiasModels::learn(quenches, operator.clone());
    let biases_key = hash(&BiasesKey {
        operator: operator.as_ref(),
        findings: findings
            .iter()
            .filter_map(|f| {
                Some((
                    fired(&f.treated)?.content,
                    f.treated.operator.as_ref(),
                    &f.found,
                ))
            })
            .collect(),
    });
    let fitted = ShopModel {
        model,
        names: names_of(stations),
        marks: treated()
            .map(|t| (t.blade_id, t.mark.clone()))
            .chain(ladders.iter().flat_map(coupons))
            .collect(),
        steels: treated().filter_map(steel).collect(),
        tanks: tanks(stations),
        biases_key,
        biases,
        checks: checks.clone(),
        lessons: OnceLock::new(),
    };
    let all = firings.values().flatten();
    let simulated = all.filter_map(Fired::to_keep).collect();
    Learned {
        model: fitted,
        simulated,
        narrowed,
    }
}
