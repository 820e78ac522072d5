//! Predictions with the shop's records: resolves steels, keeps fitted models, and computes off the
//! async threads, as many at once as there are cores.

use crate::cache::{Cache, Content};
use crate::learned::{Learned, Records, Worked, learn, simulate_all};
use crate::problem::Problem;
use rocket::http::Status;
use sha2::{Digest, Sha256};
use std::collections::HashMap;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use tokio::sync::Semaphore;
use uuid::Uuid;
use vatten_core::material::analysis::Analysis;
use vatten_core::material::hardness::retained_austenite_percent;
use vatten_core::material::steel::Steel;
use vatten_core::prediction::laminate::{self, Layer, Role};
use vatten_core::prediction::made::{BarMade, LayerMade, MadeOf, Metal, SteelMade};
use vatten_core::prediction::outcome::{Outcomes, outcomes};
use vatten_core::prediction::subject::{Subject, stations};
use vatten_core::prediction::warning::{Risk, Warning};
use vatten_core::prediction::{Prediction, StationNames, predict};
use vatten_core::process::furnace::Furnace;
use vatten_core::process::plan::Plan;
use vatten_core::process::station::StationKind;
use vatten_core::process::step::Step;
use vatten_core::process::workpiece::Work;
use vatten_core::quantity::validation::Faults;
use vatten_core::simulation::heat::Heat;
use vatten_core::simulation::map::Maps;
use vatten_core::simulation::physics::{hard_hrc, stages};
use vatten_core::simulation::quench::{Stopped, quench};
use vatten_core::simulation::simulated::hours_untempered;
use vatten_core::simulation::simulated::{STEP_MM, Simulated};
use vatten_core::simulation::straightening::straightening;
use vatten_store::blade::Blade as Stored;
use vatten_store::station::Station;
use vatten_store::{PgPool, WorkshopId, bar, record, station, steel, workshop};

/// Fitted models kept. One of a shop with thousands of results of every kind takes some 150 MB.
const MAX_MODELS: usize = 16;

/// One at a time for each shop: what takes long is done once, however many ask for it.
#[derive(Debug, Default)]
pub struct Alone(Mutex<HashMap<Uuid, Arc<tokio::sync::Mutex<()>>>>);

impl Alone {
    /// What is held by whoever does it for this shop.
    #[must_use]
    pub fn of(&self, id: WorkshopId) -> Arc<tokio::sync::Mutex<()>> {
        // A lock that somebody dropped while it was broken is as good as any.
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        Arc::clone(all.entry(id.uuid()).or_default())
    }
}

/// Shared by all requests.
pub struct Predictor {
    turns: Arc<Semaphore>,
    models: Mutex<HashMap<Uuid, (i64, Arc<Learned>)>>,
    learning: Alone,
    /// For counting what a shop's records say.
    pub counting: Alone,
    /// What physics says of blades as they went through the fire, by content.
    pub worked: Arc<Cache<Worked>>,
    quenches: Cache<Outcomes>,
    maps: Cache<String>,
}

impl Default for Predictor {
    fn default() -> Self {
        let cores = std::thread::available_parallelism().map_or(2, usize::from);
        Self {
            turns: Arc::new(Semaphore::new(cores)),
            models: Mutex::default(),
            learning: Alone::default(),
            counting: Alone::default(),
            worked: Arc::new(Cache::holding(20_000)),
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
        if let Some(known) = self.model(id, workshop::records_version(pool, id).await?) {
            return Ok(known);
        }
        let _alone = self.learning.of(id).lock_owned().await;
        // Somebody may have learned it while this one waited.
        let version = workshop::records_version(pool, id).await?;
        if let Some(known) = self.model(id, version) {
            return Ok(known);
        }
        let mut connection = pool.acquire().await.map_err(vatten_store::Error::from)?;
        let records = Records::read(&mut connection, id).await?;
        drop(connection);
        let worked = Arc::clone(&self.worked);
        let (learned, asked) = self.run(move || learn(&records, &worked)).await?;
        // What the engine was asked anew is kept, so that it is asked once.
        record::keep_simulated(pool, id, &asked).await?;
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

    /// What the engine alone says of quenches as they were done, by firing: asked once and kept.
    ///
    /// # Errors
    /// The database cannot be read.
    pub async fn simulated(
        &self,
        pool: &PgPool,
        id: WorkshopId,
        firings: &[Uuid],
    ) -> Result<HashMap<Uuid, Simulated>, Problem> {
        if firings.is_empty() {
            return Ok(HashMap::new());
        }
        let rows = record::treated(pool, id, firings).await?;
        let worked = Arc::clone(&self.worked);
        let (found, asked) = self.run(move || simulate_all(&rows, &worked)).await?;
        record::keep_simulated(pool, id, &asked).await?;
        Ok(found)
    }

    /// What the records of this version teach, when that was learned already.
    #[must_use]
    pub fn model(&self, id: WorkshopId, version: i64) -> Option<Arc<Learned>> {
        let models = self.models.lock().ok()?;
        let (at, learned) = models.get(&id.uuid())?;
        (*at == version).then(|| Arc::clone(learned))
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
                let warn = |conflict| Warning {
                    risk: Risk::LayersDoNotMeet { conflict },
                    step: None,
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
        learned: Arc<Learned>,
        step_mm: f64,
        points: Vec<[f64; 2]>,
    ) -> Result<Arc<String>, Problem> {
        let places = format!("{points:?}");
        let parts = [
            &asked.quench_key(step_mm)[..],
            &learned.habits_of[..],
            places.as_bytes(),
        ];
        let key: Content = Sha256::digest(parts.concat()).into();
        if let Some(known) = self.maps.get(&key) {
            return Ok(known);
        }
        // However fine the maps are, the line is the one of the prediction beside them.
        let line = self.outcomes(asked.clone(), learned, STEP_MM).await?;
        let text = self
            .stoppable(move |stop| {
                let Asked {
                    plan, steel, work, ..
                } = &asked;
                let heat = Heat::of(plan, steel, 0.0);
                let baths = stages(plan);
                let setup = heat.whole(&work.form, &work.clay, &baths, step_mm);
                let q = quench(setup, Some(stop))?;
                let left = retained_austenite_percent(heat.dissolved.martensite_start_c, 20.0);
                let hard = hard_hrc(steel, &heat.dissolved, left);
                let line = line.hamon.clone();
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

/// All that makes a steel known, by its key or by the id of one of the shop's own.
///
/// # Errors
/// A fault at `steel` when there is none.
async fn steel_made(pool: &PgPool, id: WorkshopId, text: &str) -> Result<SteelMade, Problem> {
    let steel = find_steel(pool, id, text).await?;
    match Uuid::parse_str(&steel.key) {
        Ok(house) => Ok(steel::get(pool, id, house).await?.made()),
        Err(_) => Ok(SteelMade::BuiltIn { key: steel.key }),
    }
}

/// What is made from a bar of the shop.
///
/// # Errors
/// The shop has no such bar, or one of its steels is gone.
pub async fn made_of_bar(pool: &PgPool, id: WorkshopId, bar_id: Uuid) -> Result<MadeOf, Problem> {
    let bar = bar::get(pool, id, bar_id).await?;
    let mut layers = Vec::new();
    for layer in bar.layers.iter().filter(|l| l.role != Role::Edge) {
        layers.push(LayerMade {
            role: layer.role,
            steel: steel_made(pool, id, &layer.steel).await?,
        });
    }
    Ok(MadeOf {
        steel: steel_made(pool, id, &bar.steel).await?,
        bar: Some(BarMade {
            id: bar.id,
            name: bar.name,
            analysis: bar.analysis,
            condition: bar.condition,
            layers,
        }),
    })
}

/// What a stored blade is made of.
///
/// # Errors
/// As [`made_of_bar`] and [`find_steel`].
pub async fn made_of(pool: &PgPool, id: WorkshopId, blade: &Stored) -> Result<MadeOf, Problem> {
    match blade.bar_id {
        Some(bar) => made_of_bar(pool, id, bar).await,
        None => Ok(MadeOf {
            steel: steel_made(pool, id, &blade.steel).await?,
            bar: None,
        }),
    }
}

/// As the engine takes it.
///
/// # Errors
/// A fault at `steel`: the table no longer has one of its steels.
pub fn metal(of: &MadeOf) -> Result<Metal, Problem> {
    of.metal().ok_or_else(|| {
        Faults::one("steel", "The table no longer has the steel of this blade.").into()
    })
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
