//! Predictions corrected by a shop's records, and the simulations behind them, each computed once for the same
//! content.

use crate::cache::{Cache, Content};
use crate::cache_key::{BeliefKey, OutcomesKey, QuenchKey, hash};
use crate::compute_pool::{ComputePool, broken_off};
use crate::day::{DayLocks, GRID_S};
use crate::model_cache::ModelCache;
use crate::problem::Problem;
use crate::shop_model::ShopModel;
use std::collections::HashMap;
use std::sync::Arc;
use uuid::Uuid;
use vatten_core::learning::belief::Belief;
use vatten_core::material::reclaimed::Reclaimed;
use vatten_core::material::steel::Steel;
use vatten_core::planning::activities::{NoPlace, Places, PlannedBlade, Wanted};
use vatten_core::planning::floor::Rates;
use vatten_core::prediction::laminate::{self, EdgeLayer, Layer};
use vatten_core::prediction::outcome::{Outcomes, outcomes};
use vatten_core::prediction::subject::Subject;
use vatten_core::prediction::warning::{Risk, Warning};
use vatten_core::prediction::{Prediction, predict};
use vatten_core::process::calibration::Corrections;
use vatten_core::process::eye::Eye;
use vatten_core::process::plan::Plan;
use vatten_core::process::workpiece::Workpiece;
use vatten_core::quantity::units::{Kelvins, Quantity, Seconds};
use vatten_core::record::trial::Heated;
use vatten_core::simulation::crack::Causes;
use vatten_core::simulation::decarburization;
use vatten_core::simulation::heat::Heat;
use vatten_core::simulation::map::Maps;
use vatten_core::simulation::physics::stages;
use vatten_core::simulation::quench::quench;
use vatten_core::simulation::simulated::{STEP_MM, hours_untempered};
use vatten_core::simulation::straightening::{first_temper, planned_clamp, straightening};
use vatten_core::simulation::warp::place::{PlaceHistory, follow};
use vatten_store::trial::Trial;

/// Outcomes kept, over all shops.
const MAX_OUTCOMES: usize = 400;
/// Maps kept, over all shops.
const MAX_MAPS: usize = 24;
/// Beliefs of pieces without a paper kept, over all shops.
const MAX_BELIEFS: usize = 400;
/// Blades with their activities kept, over all shops; 4 kB each.
const MAX_PLANNED: usize = 2_000;
/// Shops whose rates are kept.
const MAX_RATES: usize = 200;

/// Shared by all requests.
#[derive(Debug)]
pub struct Predictor {
    /// Where everything is computed.
    pub compute: ComputePool,
    /// The fitted models.
    pub models: ModelCache,
    /// Held while the days of a shop are laid.
    pub days: DayLocks,
    outcomes: Cache<Treated>,
    maps: Cache<String>,
    beliefs: Cache<Reclaimed>,
    planned: Cache<Result<PlannedBlade, NoPlace>>,
    /// How fast the fires of shops heat and cool, by what was logged of them.
    pub rates: Cache<HashMap<Uuid, Rates>>,
}

/// What a quench gives, and how long it takes.
#[derive(Debug)]
struct Treated {
    outcomes: Outcomes,
    cold_after: Seconds,
}

impl Default for Predictor {
    fn default() -> Self {
        let compute = ComputePool::default();
        Self {
            models: ModelCache::new(compute.clone()),
            compute,
            days: DayLocks::default(),
            outcomes: Cache::holding(MAX_OUTCOMES),
            maps: Cache::holding(MAX_MAPS),
            beliefs: Cache::holding(MAX_BELIEFS),
            planned: Cache::holding(MAX_PLANNED),
            rates: Cache::holding(MAX_RATES),
        }
    }
}

impl Predictor {
    /// What a piece without a paper may be made of after its coupons, computed once for the same ones.
    ///
    /// # Errors
    /// The computation broke off.
    pub async fn believe(
        &self,
        of: &Trial,
        eyes: &Arc<Corrections>,
    ) -> Result<Arc<Reclaimed>, Problem> {
        let judged = of.entries.iter().map(|e| match e.heated() {
            Heated::By(by) => eyes.eye(by.eye_id),
            Heated::To(_) => Eye::default(),
        });
        let key = hash(&BeliefKey {
            was: of.piece.was,
            measured: &of.piece.measured,
            thickness_mm: of.piece.thickness.value(),
            entries: &of.entries,
            eyes: judged.collect(),
        });
        if let Some(known) = self.beliefs.get(&key) {
            return Ok(known);
        }
        let (piece, entries, eyes) = (of.piece.clone(), of.entries.clone(), Arc::clone(eyes));
        let believe = move || {
            Belief::prior(piece.was, &piece.measured)
                .with_coupons(&entries, piece.thickness, &eyes)
                .reclaimed()
        };
        let found = Arc::new(self.compute.run(believe).await?);
        self.beliefs.put(key, Arc::clone(&found));
        Ok(found)
    }

    /// Predicts; with `learned`, corrected by the records. The quench of the whole blade is computed
    /// once for the same blade, clay and steps, however often the temper is changed.
    ///
    /// # Errors
    /// The computation broke off.
    pub async fn predict(
        &self,
        asked: PredictionRequest,
        learned: Arc<ShopModel>,
        depth: Depth,
    ) -> Result<Prediction, Problem> {
        let (of, biases) = (asked.clone(), Arc::clone(&learned));
        let whole = async {
            match depth {
                Depth::Hardness => Ok(None),
                Depth::Whole(step_mm) => self.outcomes(of, biases, step_mm).await.map(Some),
            }
        };
        // Hardness needs nothing of the whole blade: it is computed beside it.
        let hardness = self.compute.run(move || {
            let subject = Subject {
                plan: &asked.plan,
                steel: &asked.steel,
                work: &asked.work,
                tester: asked.tester,
                bar: asked.bar,
                operator: learned.biases.operator.as_ref(),
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
                let share = asked.edge_share;
                found.edge_layer = share.map(|share| EdgeLayer::of(share, &asked.work));
            }
            found
        });
        let (whole, mut found) = tokio::try_join!(whole, hardness)?;
        found.outcomes = whole.map(|w| w.outcomes.clone());
        Ok(found)
    }

    async fn outcomes(
        &self,
        asked: PredictionRequest,
        learned: Arc<ShopModel>,
        step_mm: f64,
    ) -> Result<Arc<Treated>, Problem> {
        // Of what comes after the quench only the time it lies untempered tells.
        let key = hash(&OutcomesKey {
            quench: asked.quench_key(step_mm, &learned.biases_key),
            untempered_h: hours_untempered(&asked.plan),
            first_temper: first_temper(&asked.plan),
            clamp: planned_clamp(&asked.plan),
            heat_spread_k: asked.plan.heat_doubt(asked.work.furnace).spread_c(),
        });
        if let Some(known) = self.outcomes.get(&key) {
            return Ok(known);
        }
        let found = self
            .compute
            .run_stoppable(move |stop| {
                let PredictionRequest {
                    plan, steel, work, ..
                } = &asked;
                outcomes(work, plan, steel, &learned.biases, step_mm, Some(stop))
            })
            .await?;
        let (outcomes, quenched) = found;
        let found = Arc::new(Treated {
            outcomes,
            cold_after: Seconds::clamped(quenched.seconds),
        });
        self.outcomes.put(key, Arc::clone(&found));
        Ok(found)
    }

    /// Simulates a quench with cells of `step_mm` and answers with its maps as JSON, the history of
    /// `points` (mm) among them.
    ///
    /// # Errors
    /// The computation broke off.
    pub async fn simulate(
        &self,
        asked: PredictionRequest,
        learned: Arc<ShopModel>,
        step_mm: f64,
    ) -> Result<Arc<String>, Problem> {
        let key = hash(&asked.quench_key(step_mm, &learned.biases_key));
        if let Some(known) = self.maps.get(&key) {
            return Ok(known);
        }
        // However fine the maps are, the line is the one of the prediction beside them.
        let whole = self.outcomes(asked.clone(), learned, STEP_MM).await?;
        let text = self
            .compute
            .run_stoppable(move |stop| {
                let PredictionRequest {
                    plan, steel, work, ..
                } = &asked;
                let heat = Heat::new(work, plan, steel, Kelvins::ZERO);
                let baths = stages(plan);
                let setup = heat.whole(&work.form, &work.clay, &baths, step_mm);
                let q = quench(setup, Some(stop))?;
                let skin_mm =
                    decarburization::depth_mm(plan.steps(), work.protection, Kelvins::ZERO);
                let hard = |mm: f64| decarburization::hard_hrc(steel, &heat.dissolved, skin_mm, mm);
                let whole = &whole.outcomes;
                let line = whole.hamon.clone();
                let maps = Maps::new(&q, line, (&whole.bend.stations, &whole.bend.moments), hard);
                Ok(serde_json::to_string(&Maps {
                    crack_at_mm: whole.crack_at_mm,
                    ..maps
                }))
            })
            .await?
            .map_err(|_| broken_off())?;
        let text = Arc::new(text);
        self.maps.put(key, Arc::clone(&text));
        Ok(text)
    }

    /// A blade on a day that was planned before for the same content.
    #[must_use]
    pub fn planned_before(&self, key: &Content) -> Option<Arc<Result<PlannedBlade, NoPlace>>> {
        self.planned.get(key)
    }

    /// A blade's plan as activities of a day, with lengths and prices from the engine and the shop's records; kept under `key`.
    ///
    /// # Errors
    /// The computation broke off.
    pub async fn plan_blade(
        &self,
        key: Content,
        asked: PredictionRequest,
        learned: Arc<ShopModel>,
        places: Places,
        temper_within: Seconds,
    ) -> Result<Arc<Result<PlannedBlade, NoPlace>>, Problem> {
        let quenched = asked.plan.last_quench().is_some();
        let whole = if quenched {
            let of = self.outcomes(asked.clone(), Arc::clone(&learned), STEP_MM);
            Some(of.await?)
        } else {
            None
        };
        let plan = move || {
            let causes = match &whole {
                Some(whole) => whole.outcomes.crack_causes,
                None => Causes::default(),
            };
            let wanted = Wanted {
                id: "",
                plan: &asked.plan,
                steel: &asked.steel,
                work: &asked.work,
                target: asked.target,
                model: &learned.model,
                crack: &learned.biases.crack,
                causes: &causes,
                cold_after: whole.map_or(Seconds::clamped(60.0), |w| w.cold_after),
                temper_within,
                release_s: 0,
                due_s: None,
            };
            PlannedBlade::of(&wanted, &places, GRID_S)
        };
        let planned = Arc::new(self.compute.run(plan).await?);
        self.planned.put(key, Arc::clone(&planned));
        Ok(planned)
    }

    /// What places (mm) of the blade go through in the last quench; none for those beside it.
    ///
    /// # Errors
    /// As [`Self::simulate`].
    pub async fn follow(
        &self,
        asked: PredictionRequest,
        points: Vec<[f64; 2]>,
    ) -> Result<Vec<Option<PlaceHistory>>, Problem> {
        self.compute
            .run_stoppable(move |stop| {
                let PredictionRequest {
                    plan, steel, work, ..
                } = &asked;
                let heat = Heat::new(work, plan, steel, Kelvins::ZERO);
                let baths = stages(plan);
                let place = |at: &[f64; 2]| follow(work, &heat, &baths, *at, Some(stop));
                points.iter().map(place).collect()
            })
            .await
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

impl PredictionRequest {
    /// What its quench depends on: steel, blade, clay, fire, and the steps up to the quench.
    fn quench_key<'a>(&'a self, step_mm: f64, biases: &'a Content) -> QuenchKey<'a> {
        let steps = self.plan.real_steps();
        let until = self.plan.last_quench().map_or(steps.len(), |i| i + 1);
        QuenchKey {
            steps: &steps[..until],
            steel: &self.steel,
            work: &self.work,
            step_mm,
            biases,
        }
    }
}

/// What a prediction is asked of.
#[derive(Debug, Clone)]
pub struct PredictionRequest {
    /// The plan.
    pub plan: Plan,
    /// The steel, or that of the edge as the other layers let it be treated.
    pub steel: Steel,
    /// The edge by itself.
    pub edge: Steel,
    /// The blade and what is around it.
    pub work: Workpiece,
    /// Layers beside the edge, for a bar of several steels.
    pub layers: Vec<Layer>,
    /// Share of the thickness that is the edge layer, 0 to 1, where that was said.
    pub edge_share: Option<f64>,
    /// The bar it is made from.
    pub bar: Option<Uuid>,
    /// The tester it will be read with.
    pub tester: Option<Uuid>,
    /// Wanted hardness window, HRC.
    pub target: Option<(f64, f64)>,
}
