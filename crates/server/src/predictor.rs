//! Predictions with the shop's records: resolves steels, keeps fitted models, and computes off the
//! async threads, as many at once as there are cores.

use crate::problem::Problem;
use rocket::http::Status;
use sha2::{Digest, Sha256};
use std::collections::{BTreeMap, HashMap, VecDeque};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, OnceLock};
use tokio::sync::Semaphore;
use uuid::Uuid;
use vatten_core::analysis::Analysis;
use vatten_core::bar::Condition;
use vatten_core::blade::{Blade, BladeDraft};
use vatten_core::calibration::{Checks, Corrections};
use vatten_core::fault::Faults;
use vatten_core::hamon::hamon;
use vatten_core::hand::Hand;
use vatten_core::hardness::retained_austenite_percent;
use vatten_core::heat::Heat;
use vatten_core::heating::Furnace;
use vatten_core::laminate::{self, Layer, Role};
use vatten_core::learn::findings::Found;
use vatten_core::learn::habit::Traits;
use vatten_core::learn::{Model, Record};
use vatten_core::map::Maps;
use vatten_core::medium::Medium;
use vatten_core::outcome::{Habits, Outcomes, hours_untempered, outcomes};
use vatten_core::physics::{Shift, hard_hrc, of_section, section, sensitivity, stages};
use vatten_core::plan::{Plan, Step};
use vatten_core::prediction::{Prediction, StationNames, Subject, features, predict, stations};
use vatten_core::quench::{Stopped, quench};
use vatten_core::reading::{Values, When};
use vatten_core::station::StationKind;
use vatten_core::steel::Steel;
use vatten_core::warning::Warning;
use vatten_core::window::straightening;
use vatten_core::work::Work;
use vatten_store::blade::Blade as Stored;
use vatten_store::record::{LearnedFrom, RecordRow, Treated};
use vatten_store::station::Station;
use vatten_store::{PgPool, WorkshopId, bar, calibration, record, station, steel, workshop};

/// Newest results that are learned from.
const MAX_RECORDS: i64 = 2000;
/// Fitted models kept.
const MAX_MODELS: usize = 64;

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

/// Shared by all requests.
pub struct Predictor {
    turns: Arc<Semaphore>,
    models: Mutex<HashMap<Uuid, (i64, Arc<Learned>)>>,
    quenches: Cache<Outcomes>,
    maps: Cache<String>,
}

impl Default for Predictor {
    fn default() -> Self {
        let cores = std::thread::available_parallelism().map_or(2, usize::from);
        Self {
            turns: Arc::new(Semaphore::new(cores)),
            models: Mutex::default(),
            quenches: Cache::holding(400),
            maps: Cache::holding(24),
        }
    }
}

/// What is told when a computation broke off.
#[must_use]
pub fn busy() -> Problem {
    Problem::new(
        Status::InternalServerError,
        "The computation broke off. Try again.",
    )
}

impl Predictor {
    /// Runs `work` off the async threads when it is its turn.
    ///
    /// # Errors
    /// The computation broke off.
    pub async fn run<T: Send + 'static>(
        &self,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, Problem> {
        let turn = Arc::clone(&self.turns).acquire_owned();
        let turn = turn.await.map_err(|_| busy())?;
        // The turn ends with the work, not with the request that may have gone meanwhile.
        let work = move || {
            let _turn = turn;
            work()
        };
        tokio::task::spawn_blocking(work).await.map_err(|_| busy())
    }

    /// What the shop's records teach, fitted anew only when they changed.
    ///
    /// # Errors
    /// The database cannot be read.
    pub async fn learned(&self, pool: &PgPool, id: WorkshopId) -> Result<Arc<Learned>, Problem> {
        let version = workshop::records_version(pool, id).await?;
        let known = self
            .models
            .lock()
            .ok()
            .and_then(|m| m.get(&id.uuid()).cloned());
        if let Some((at, learned)) = known
            && at == version
        {
            return Ok(learned);
        }
        let rows = record::list(pool, id, MAX_RECORDS).await?;
        let findings = record::findings(pool, id, MAX_RECORDS).await?;
        let stations = station::list(pool, id).await?;
        let checks = calibration::checks(pool, id).await?;
        let learned = self
            .run(move || learn(&rows, &findings, &stations, checks))
            .await?;
        let learned = Arc::new(learned);
        if let Ok(mut models) = self.models.lock() {
            if models.len() >= MAX_MODELS
                && let Some(any) = models.keys().next().copied()
            {
                models.remove(&any);
            }
            models.insert(id.uuid(), (version, Arc::clone(&learned)));
        }
        Ok(learned)
    }

    /// Predicts; with `learned`, corrected by the records. The quench of the whole blade is computed
    /// once for the same blade, clay and steps, however often the temper is changed.
    ///
    /// # Errors
    /// The computation broke off.
    pub async fn predict(
        &self,
        asked: Asked,
        learned: Arc<Learned>,
        depth: Depth,
    ) -> Result<Prediction, Problem> {
        let (of, habits) = (asked.clone(), Arc::clone(&learned));
        let whole = async {
            match depth {
                Depth::Hardness => Ok(None),
                Depth::Whole(step_mm) => self.outcomes(of, habits, step_mm).await.map(Some),
            }
        };
        // Hardness needs nothing of the whole blade: it is computed beside it.
        let hardness = self.run(move || {
            let subject = Subject {
                plan: &asked.plan,
                steel: &asked.steel,
                work: &asked.work,
                tester: asked.tester,
                bar: asked.bar,
                hand: learned.habits.hand.as_ref(),
            };
            let mut found = predict(subject, &learned.model, &learned.names, asked.target);
            if depth != Depth::Hardness {
                found.straightening = straightening(&asked.plan, &asked.steel, &asked.work);
            }
            if !asked.layers.is_empty() {
                found.layers = laminate::layers(&asked.plan, &asked.layers, &asked.work);
                let met = laminate::meet(&asked.edge, &asked.layers);
                let warn = |text| Warning {
                    code: "layers_do_not_meet".to_owned(),
                    step: None,
                    text,
                    fix: None,
                };
                found.warnings.extend(met.conflicts.into_iter().map(warn));
            }
            found
        });
        let (whole, mut found) = tokio::try_join!(whole, hardness)?;
        found.outcomes = whole.map(|w| Outcomes::clone(&w));
        Ok(found)
    }

    async fn outcomes(
        &self,
        asked: Asked,
        learned: Arc<Learned>,
        step_mm: f64,
    ) -> Result<Arc<Outcomes>, Problem> {
        let key = asked.quench_key(step_mm);
        // Of what comes after the quench only the time it lies untempered tells.
        let waits = hours_untempered(&asked.plan).to_le_bytes();
        let key = Sha256::digest([&key[..], &learned.habits_of[..], &waits[..]].concat()).into();
        if let Some(known) = self.quenches.get(&key) {
            return Ok(known);
        }
        let found = self
            .stoppable(move |stop| {
                let Asked {
                    plan, steel, work, ..
                } = &asked;
                outcomes(work, plan, steel, &learned.habits, step_mm, Some(stop))
            })
            .await?;
        let found = Arc::new(found.0);
        self.quenches.put(key, Arc::clone(&found));
        Ok(found)
    }

    /// Simulates a quench with cells of `step_mm` and answers with its maps as JSON, the history of
    /// `points` (mm) among them.
    ///
    /// # Errors
    /// The computation broke off.
    pub async fn simulate(
        &self,
        asked: Asked,
        step_mm: f64,
        points: Vec<[f64; 2]>,
    ) -> Result<Arc<String>, Problem> {
        let mut key = asked.quench_key(step_mm);
        let places = format!("{points:?}");
        key = Sha256::digest([key.as_slice(), places.as_bytes()].concat()).into();
        if let Some(known) = self.maps.get(&key) {
            return Ok(known);
        }
        let text = self
            .stoppable(move |stop| {
                let Asked {
                    plan, steel, work, ..
                } = &asked;
                let heat = Heat::of(plan, steel, 0.0);
                let setup = heat.whole(&work.form, &work.clay, stages(plan), step_mm);
                let q = quench(setup, Some(stop))?;
                let line = hamon(&q, work.blade().length_mm);
                let left = retained_austenite_percent(heat.dissolved.martensite_start_c, 20.0);
                let hard = hard_hrc(steel, &heat.dissolved, left);
                Ok(serde_json::to_string(&Maps::of(&q, line, hard, &points)))
            })
            .await?
            .map_err(|_| busy())?;
        let text = Arc::new(text);
        self.maps.put(key, Arc::clone(&text));
        Ok(text)
    }

    /// Runs a simulation off the async threads; it is told to stop when nobody waits for it any more.
    ///
    /// # Errors
    /// The computation broke off.
    pub async fn stoppable<T: Send + 'static>(
        &self,
        work: impl FnOnce(&AtomicBool) -> Result<T, Stopped> + Send + 'static,
    ) -> Result<T, Problem> {
        let stop = StopOnDrop::default();
        let flag = Arc::clone(&stop.0);
        self.run(move || work(&flag)).await?.map_err(|_| busy())
    }
}

/// Sets its flag when dropped: with the request that waits for a result goes the computation.
#[derive(Default)]
struct StopOnDrop(Arc<AtomicBool>);

impl Drop for StopOnDrop {
    fn drop(&mut self) {
        self.0.store(true, Ordering::Relaxed);
    }
}

/// How much to compute.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Depth {
    /// Hardness only.
    Hardness,
    /// The whole blade, with cells of this many millimetres.
    Whole(f64),
}

/// Hash of everything that a result depends on.
type Content = [u8; 32];

/// Results by content, those made first given up first.
struct Cache<T> {
    most: usize,
    known: Mutex<Known<T>>,
}

struct Known<T> {
    results: HashMap<Content, Arc<T>>,
    order: VecDeque<Content>,
}

impl<T> Cache<T> {
    fn holding(most: usize) -> Self {
        Self {
            most,
            known: Mutex::new(Known {
                results: HashMap::new(),
                order: VecDeque::new(),
            }),
        }
    }

    fn get(&self, key: &Content) -> Option<Arc<T>> {
        self.known.lock().ok()?.results.get(key).cloned()
    }

    fn put(&self, key: Content, value: Arc<T>) {
        let Ok(mut known) = self.known.lock() else {
            return;
        };
        if known.results.insert(key, value).is_none() {
            known.order.push_back(key);
        }
        while known.order.len() > self.most {
            if let Some(oldest) = known.order.pop_front() {
                known.results.remove(&oldest);
            }
        }
    }
}

impl Asked {
    /// What the quench depends on, hashed: steel, blade, clay, fire, and the steps up to the quench.
    fn quench_key(&self, step_mm: f64) -> Content {
        let steps = self.plan.real_steps();
        let until = self.plan.last_quench().map_or(steps.len(), |i| i + 1);
        // A bar or its other layers change a steel under the same key: all of it counts.
        let text = format!(
            "{:?}{:?}{:?}{step_mm}",
            self.steel,
            self.work,
            &steps[..until]
        );
        Sha256::digest(text).into()
    }
}

/// What a prediction is asked of.
#[derive(Debug, Clone)]
pub struct Asked {
    /// The plan.
    pub plan: Plan,
    /// The steel, or that of the edge as the other layers let it be treated.
    pub steel: Steel,
    /// The edge by itself.
    pub edge: Steel,
    /// The blade and what is around it.
    pub work: Work,
    /// Layers beside the edge, for a bar of several steels.
    pub layers: Vec<Layer>,
    /// The bar it is made from.
    pub bar: Option<Uuid>,
    /// The tester it will be read with.
    pub tester: Option<Uuid>,
    /// Wanted hardness window, HRC.
    pub target: Option<(f64, f64)>,
}

/// Names of stations by id.
#[must_use]
pub fn names_of(all: &[Station]) -> StationNames {
    all.iter().map(|s| (s.id, s.name.clone())).collect()
}

/// Names of the shop's stations by id.
///
/// # Errors
/// The database cannot be read.
pub async fn station_names(pool: &PgPool, id: WorkshopId) -> Result<StationNames, Problem> {
    Ok(names_of(&station::list(pool, id).await?))
}

/// Refuses a plan that names a station the shop does not have.
///
/// # Errors
/// A fault at each such `steps[i].station_id`.
pub fn check_stations(plan: &Plan, names: &StationNames) -> Result<(), Faults> {
    let mut faults = Vec::new();
    for (i, step) in plan.steps().iter().enumerate() {
        let (Step::Austenitize { station_id, .. } | Step::Temper { station_id, .. }) = step else {
            continue;
        };
        if station_id.is_some_and(|id| !names.contains_key(&id)) {
            faults.extend(
                Faults::one(
                    format!("steps[{i}].station_id"),
                    "The shop has no such station.",
                )
                .0,
            );
        }
    }
    if faults.is_empty() {
        Ok(())
    } else {
        Err(Faults(faults))
    }
}

/// Finds a steel by its key or by the id of one of the shop's own.
///
/// # Errors
/// A fault at `steel` when there is none.
pub async fn find_steel(pool: &PgPool, id: WorkshopId, text: &str) -> Result<Steel, Problem> {
    if let Some(known) = Steel::built_in(text) {
        return Ok(known.clone());
    }
    if let Ok(house) = Uuid::parse_str(text.trim())
        && let Ok(row) = steel::get(pool, id, house).await
    {
        return Ok(row.steel());
    }
    Err(Faults::with_allowed(
        "steel",
        format!("{text} is not a steel of the table nor of this shop."),
        "a designation of the table, the id of a house steel, or {\"analysis\": {…}}",
    )
    .into())
}

/// A steel as this bar has it.
fn of_bar(steel: &Steel, analysis: Option<&Analysis>, condition: Condition) -> Steel {
    let mut own = analysis.map_or_else(|| steel.clone(), |a| steel.with_analysis(a));
    own.comes_as = condition.structure();
    own
}

/// What a blade is made of.
#[derive(Debug, Clone)]
pub struct Metal {
    /// Its steel, or that of its edge as the other layers let it be treated.
    pub steel: Steel,
    /// The edge by itself.
    pub edge: Steel,
    /// Layers beside the edge.
    pub layers: Vec<Layer>,
    /// The bar.
    pub bar: Option<Uuid>,
}

impl Metal {
    /// Of one steel, from no known bar.
    #[must_use]
    pub fn of(steel: Steel) -> Self {
        Self {
            edge: steel.clone(),
            steel,
            layers: Vec::new(),
            bar: None,
        }
    }

    /// From a bar of the shop.
    ///
    /// # Errors
    /// The shop has no such bar, or one of its steels is gone.
    pub async fn of_bar(pool: &PgPool, id: WorkshopId, bar_id: Uuid) -> Result<Self, Problem> {
        let bar = bar::get(pool, id, bar_id).await?;
        let named = find_steel(pool, id, &bar.steel).await?;
        let edge = of_bar(&named, bar.analysis.as_ref(), bar.condition);
        let mut layers = Vec::new();
        for layer in bar.layers.iter().filter(|l| l.role != Role::Edge) {
            layers.push(Layer {
                role: layer.role,
                steel: find_steel(pool, id, &layer.steel).await?,
            });
        }
        Ok(Self {
            steel: laminate::narrowed(&edge, &layers),
            edge,
            layers,
            bar: Some(bar_id),
        })
    }

    /// What a stored blade is made of.
    ///
    /// # Errors
    /// As [`Metal::of_bar`] and [`find_steel`].
    pub async fn of_blade(pool: &PgPool, id: WorkshopId, blade: &Stored) -> Result<Self, Problem> {
        match blade.bar_id {
            Some(bar) => Self::of_bar(pool, id, bar).await,
            None => Ok(Self::of(find_steel(pool, id, &blade.steel).await?)),
        }
    }
}

/// A steel as a caller wrote it: a designation, the id of a house steel, or `{"analysis": {…}}`.
///
/// # Errors
/// Faults at `steel` or `steel.analysis.Mn` and the like.
pub async fn read_steel(
    pool: &PgPool,
    id: WorkshopId,
    value: &serde_json::Value,
) -> Result<Steel, Problem> {
    match value {
        serde_json::Value::String(text) => find_steel(pool, id, text).await,
        serde_json::Value::Object(map) if map.contains_key("analysis") => {
            let elements: std::collections::BTreeMap<String, f64> =
                serde_json::from_value(map["analysis"].clone()).map_err(|_| {
                    Problem::from(Faults::one(
                        "steel.analysis",
                        "An analysis is a number in percent for each element.",
                    ))
                })?;
            let analysis =
                Analysis::parse(&elements).map_err(|f| Problem::from(f.under("steel.analysis")))?;
            Ok(Steel::from_analysis("analysis", "this analysis", &analysis))
        }
        serde_json::Value::Null => Err(Faults::one("steel", "A steel is needed.").into()),
        _ => Err(Faults::with_allowed(
            "steel",
            "This names no steel.",
            "a designation, or {\"analysis\": {\"C\": 0.84, …}}",
        )
        .into()),
    }
}

/// A result as it was told: read by a tester, or between two files.
struct Told<'a> {
    checks: &'a Checks,
    treated: &'a Treated,
    stage: When,
    values: Values,
    tester: Option<Uuid>,
    bracket_hrc: Option<(f64, f64)>,
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
            steel = of_bar(&steel, bar.analysis.as_ref(), bar.condition);
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

/// The record a result amounts to, or none when it can no longer be understood.
fn record_of(result: Told<'_>) -> Option<Record> {
    let row = result.treated;
    let gone = Gone::of(row, result.checks)?;
    let subject = gone.subject(row, result.tester);
    let when = result.stage;
    let section = section(&gone.plan, &gone.steel, &gone.work);
    let p = of_section(&gone.plan, &gone.steel, &section, Shift::default());
    let slopes = sensitivity(&gone.plan, &gone.steel, &section);
    Some(Record {
        physics_hrc: match when {
            When::AsQuenched => p.as_quenched_hrc,
            When::Tempered => p.tempered_hrc,
        },
        features: features(subject, when, &p, &slopes, Some(row.blade_id)),
        measured_hrc: gone.checks.really(result.tester, result.values.mean()),
        readings: result.values.count(),
        bracket_hrc: result.bracket_hrc,
    })
}

fn reading_of(row: &RecordRow, checks: &Checks) -> Option<Record> {
    let line = row.outcomes.as_ref().and_then(|o| o.hamon.line());
    let counting = row.taken.counting(&row.values_hrc, line);
    record_of(Told {
        checks,
        treated: &row.treated,
        stage: When::parse(&row.stage)?,
        values: Values::parse(&counting).ok()?,
        tester: row.tester_id,
        bracket_hrc: None,
    })
}

/// A file bracket as a record: as a reading would be, but only known to lie between two files.
fn bracket_of(row: &LearnedFrom, checks: &Checks) -> Option<Record> {
    let (stage, low_hrc, high_hrc) = row.found.bracket_hrc()?;
    record_of(Told {
        checks,
        treated: &row.treated,
        stage,
        values: Values::parse(&[0.5 * (low_hrc + high_hrc)]).ok()?,
        tester: None,
        bracket_hrc: Some((low_hrc, high_hrc)),
    })
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

fn learn(
    rows: &[RecordRow],
    findings: &[LearnedFrom],
    stations: &[Station],
    checks: Checks,
) -> Learned {
    let read = rows.iter().filter_map(|row| reading_of(row, &checks));
    let filed = findings.iter().filter_map(|row| bracket_of(row, &checks));
    let model = Model::fit(read.chain(filed).collect());
    let treated = || {
        let found = findings.iter().map(|f| &f.treated);
        rows.iter().map(|r| &r.treated).chain(found)
    };
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

/// The fire that a plan names, as far as the shop has said what it is; a kiln otherwise.
#[must_use]
pub fn fire(all: &[Station], plan: &Plan) -> Furnace {
    let named = stations(plan).0;
    let forge = all
        .iter()
        .any(|s| Some(s.id) == named && s.kind == StationKind::Forge);
    if forge { Furnace::Forge } else { Furnace::Kiln }
}

/// The tester readings will come from when none was said: the shop's only one.
#[must_use]
pub fn usual_tester(all: &[Station]) -> Option<Uuid> {
    let used = |s: &&Station| s.kind == StationKind::Tester && s.retired_at.is_none();
    let mut testers = all.iter().filter(used);
    let first = testers.next().map(|s| s.id);
    if testers.next().is_none() {
        first
    } else {
        None
    }
}
