//! Predictions, and whether the server is well.

use crate::auth::SignedIn;
use crate::body::{Body, wanted_hrc};
use crate::caller::Caller;
use crate::materials::{check_stations, fire, made_of, metal, names_of, read_steel, usual_tester};
use crate::predictor::{Depth, PredictionRequest, Predictor};
use crate::prepared_blade::corrections_now;
use crate::problem::Problem;
use crate::routes::blade::usual_stations;
use crate::shop_model::ShopModel;
use rocket::response::content::RawJson;
use rocket::serde::json::Json;
use rocket::{State, get, post};
use serde::Deserialize;
use std::sync::Arc;
use uuid::Uuid;
use vatten_core::geometry::blade::{Blade, BladeDraft};
use vatten_core::geometry::clay::ClayDraft;
use vatten_core::geometry::form::Bevel;
use vatten_core::geometry::form::Thickness;
use vatten_core::geometry::outline::{Outline, OutlineDraft};
use vatten_core::prediction::made::Metal;
use vatten_core::prediction::{Prediction, StationNames};
use vatten_core::process::furnace::Furnace;
use vatten_core::process::plan::Plan;
use vatten_core::process::protection::Protection;
use vatten_core::process::ready::{Order, Ready};
use vatten_core::process::step_draft::StepDraft;
use vatten_core::process::workpiece::Workpiece;
use vatten_core::quantity::validation::{Checker, Faults, Unit};
use vatten_core::simulation::simulated::STEP_MM;
use vatten_core::simulation::warp::place::PlaceHistory;
use vatten_store::blade::BladeRow;
use vatten_store::clay::BladeClay;
use vatten_store::{PgPool, WorkshopId, blade, clay, station};

/// A wanted hardness window, HRC.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct TargetBody {
    /// Lowest, 0 to 70 HRC.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 70))]
    pub low: f64,
    /// Highest, 0 to 70 HRC.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 70))]
    pub high: f64,
}

/// What to predict.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct PredictBody {
    /// A blade of the shop: everything that is left out below is as stored with it.
    pub blade_id: Option<Uuid>,
    /// Designation of a built-in steel, id of one of the shop's own, or `{"analysis": {"C": 0.84}}`.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(value_type = Object))]
    pub steel: serde_json::Value,
    /// The blade's sizes.
    pub blade: Option<BladeDraft>,
    /// The steps in order, 1 to 40.
    #[serde(default)]
    pub steps: Vec<StepDraft>,
    /// Correct physics by the shop's records and the checks of its stations; yes when left out. Otherwise it
    /// is physics alone, and nothing of the shop.
    pub use_records: Option<bool>,
    /// The tester it will be read with.
    pub tester_id: Option<Uuid>,
    /// Ask for the temper that reaches this.
    pub target_hrc: Option<TargetBody>,
    /// What is known of it beyond its sizes; the fields below take part of it.
    pub ready: Option<Ready>,
    /// Its own outline instead of the preset's.
    pub outline: Option<OutlineDraft>,
    /// Thickness along it, where it changes; at most 60 places.
    pub taper: Option<Vec<Thickness>>,
    /// Bevel heights along it; at most 60 places.
    pub bevels: Option<Vec<Bevel>>,
    /// Ground before or after hardening.
    pub order: Option<Order>,
    /// Clay.
    pub clay: Option<ClayDraft>,
    /// Fire of the hardening heat: `kiln`, `forge`, `pipe` or `oven`; as the plan's station when left out.
    pub furnace: Option<String>,
    /// What keeps the carbon in: `bare`, `reducing_forge`, `coating` or `foil`; bare when left out.
    pub protection: Option<String>,
    /// Blades heated together, 1 to 50.
    #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 50))]
    pub together: Option<u32>,
    /// Kinds of stress raiser left (scratches, sharp corners, undrilled holes, holes near the edge), 0 to 4.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 4))]
    pub raisers: Option<u8>,
    /// Width of a cell, 0.5 to 10 mm; 2 for a prediction and 1 for a simulation when left out.
    #[cfg_attr(feature = "schema", schema(minimum = 0.5, maximum = 10))]
    pub step_mm: Option<f64>,
    /// Places [x, y] to be followed through the quench, mm; at most 40.
    #[serde(default)]
    pub points: Vec<[f64; 2]>,
}

impl PredictBody {
    /// The blade and what is around it; faults at `blade.…`, `outline`, `taper[i].…`, `clay.…` and so on.
    fn work(&self, c: &mut Checker, known: Option<&Known>) -> Option<Workpiece> {
        let stored = known.map(|k| k.blade.ready.clone());
        let mut ready = self.ready.clone().or(stored).unwrap_or_default();
        if let Some(taper) = &self.taper {
            ready.taper.clone_from(taper);
        }
        if let Some(bevels) = &self.bevels {
            ready.bevels.clone_from(bevels);
        }
        if let Some(order) = self.order {
            ready.order = order;
        }
        let in_ready = self.ready.as_ref().and_then(|r| r.outline.as_ref());
        let given = self.outline.as_ref().or(in_ready);
        let given = given.map(|o| c.take(Outline::read(o)));
        if given == Some(None) {
            return None;
        }
        let given = given.flatten();
        if let Some(outline) = &given {
            ready.outline = Some(OutlineDraft::Points(outline.points().to_vec()));
        }
        let blade = match (&self.blade, known) {
            (Some(draft), _) => {
                // Other sizes than the stored ones: the stored outline does not fit them.
                if given.is_none() {
                    ready.outline = None;
                }
                let mut draft = draft.clone();
                if let Some(outline) = &given {
                    // An outline says how long and wide the blade is.
                    draft.length_mm = draft.length_mm.or(Some(outline.tip_mm()));
                    draft.width_mm = draft.width_mm.or(Some(outline.width_mm()));
                }
                c.take(Blade::parse(&draft).map_err(|f| f.under("blade")))
            }
            (None, Some(known)) => c.take(known.blade.geometry()),
            (None, None) => {
                c.take(Blade::parse(&BladeDraft::default()).map_err(|f| f.under("blade")))
            }
        };
        let furnace = self.furnace.as_deref();
        let furnace = furnace.map_or(Some(Furnace::default()), |f| {
            c.take(Furnace::parse("furnace", f))
        });
        if let Some(p) = &self.protection {
            ready.protection = c
                .take(Protection::parse("protection", p))
                .unwrap_or_default();
        }
        if let Some(together) = self.together {
            if !(1..=50).contains(&together) {
                c.refuse_allowing(
                    "together",
                    format!("{together} blades in one fire is not possible."),
                    "1 to 50",
                );
            }
            ready.beside = together.clamp(1, 50) - 1;
        }
        if let Some(raisers) = self.raisers.filter(|r| *r > 4) {
            c.refuse_allowing("raisers", format!("{raisers} is not possible."), "0 to 4");
        }
        // Clay that is painted counts where a step lays it on; clay that is asked about counts as it is.
        let painted = known.and_then(|k| k.clay.painted());
        let lays = self.steps.iter().any(|s| matches!(s, StepDraft::Clay(_)));
        let clay = self.clay.as_ref().or(painted.filter(|_| lays));
        let mut work = c.take(ready.work(&blade?, clay))?;
        work.unlaid = clay.is_none() && painted.is_some();
        work.furnace = furnace?;
        work.raisers = self.raisers.unwrap_or(work.raisers);
        Some(work)
    }

    /// Width of a cell, mm: as asked, or `usual`.
    fn step_mm(&self, c: &mut Checker, usual: f64) -> f64 {
        let step = self.step_mm.unwrap_or(usual);
        if !(0.5..=10.0).contains(&step) {
            let message = "Cells of this width are not possible.";
            c.refuse_outside("step_mm", message, (0.5, 10.0), Unit::Millimetre);
        }
        step
    }

    /// What it is made of: the bar and the steel of the stored blade, unless another steel is asked for.
    async fn metal(
        &self,
        pool: &PgPool,
        workshop: WorkshopId,
        stored: Option<&Known>,
    ) -> Result<Metal, Problem> {
        let same = |k: &&Known| {
            self.steel.is_null() || self.steel.as_str() == Some(k.blade.steel.as_str())
        };
        match stored.filter(same) {
            Some(known) => metal(&made_of(pool, workshop, &known.blade).await?),
            None => read_steel(pool, workshop, &self.steel)
                .await
                .map(Metal::plain),
        }
    }

    /// Checks everything and looks up what the shop has.
    pub async fn check(
        &self,
        pool: &PgPool,
        workshop: WorkshopId,
        usual_step_mm: f64,
    ) -> Result<(PredictionRequest, StationNames, f64), Problem> {
        let mut c = Checker::default();
        let stored = match self.blade_id {
            Some(id) => Some(Known {
                blade: blade::get(pool, workshop, id).await?,
                clay: clay::get(pool, workshop, id).await?,
            }),
            None => None,
        };
        let steel = match self.metal(pool, workshop, stored.as_ref()).await {
            Ok(metal) => Some(metal),
            Err(problem) if problem.status == 422 => c.take(Err(Faults(problem.fields))),
            Err(problem) => return Err(problem),
        };
        let work = self.work(&mut c, stored.as_ref());
        let step_mm = self.step_mm(&mut c, usual_step_mm);
        let plan = c.take(Plan::parse(&self.steps));
        let target = self.target_hrc.as_ref().and_then(|t| {
            let (low, high) = (("target_hrc.low", t.low), ("target_hrc.high", t.high));
            wanted_hrc(&mut c, low, high)
        });
        let known = station::list(pool, workshop).await?;
        let names = names_of(&known);
        if let Some(plan) = &plan {
            c.take(check_stations(plan, &known));
        }
        if self.tester_id.is_some_and(|id| !names.contains_key(&id)) {
            c.refuse("tester_id", "The shop has no such tester.");
        }
        if self.points.len() > MAX_POINTS {
            c.refuse_allowing(
                "points",
                "There are more places than can be followed.",
                format!("0 to {MAX_POINTS}"),
            );
        }
        let parts = match (steel, work, plan) {
            (Some(steel), Some(work), Some(plan)) => Some((steel, work, plan)),
            _ => None,
        };
        let (metal, mut work, plan) = c.finish(parts)?;
        // Physics alone knows nothing of the shop: neither its usual stations nor their checks.
        let plan = plan.judged_on(&metal.steel);
        let plan = if self.use_records.unwrap_or(true) {
            plan.with_stations(usual_stations(&known, None)?)
                .with_corrections(corrections_now(pool, workshop).await?)
        } else {
            plan
        };
        if self.furnace.is_none() {
            work.furnace = fire(&known, &plan);
        }
        let tester = self.tester_id.or(usual_tester(&known));
        let asked = PredictionRequest {
            plan,
            steel: metal.steel,
            edge: metal.edge,
            layers: metal.layers,
            edge_share: metal.edge_share,
            bar: metal.bar,
            work,
            tester,
            target,
        };
        Ok((asked, names, step_mm))
    }
}

/// A blade of the shop with its clay.
struct Known {
    blade: BladeRow,
    clay: BladeClay,
}

/// Most places whose history can be asked for.
const MAX_POINTS: usize = 40;
/// Width of a cell of the maps of a full simulation, mm.
const MAP_STEP_MM: f64 = 1.0;

/// What the shop's records teach, or nothing where physics alone is asked for.
pub async fn learned_for(
    pool: &PgPool,
    predictor: &Predictor,
    me: &SignedIn,
    body: &PredictBody,
    names: StationNames,
) -> Result<Arc<ShopModel>, Problem> {
    if body.use_records.unwrap_or(true) {
        return predictor.models.current(pool, me.workshop).await;
    }
    Ok(Arc::new(ShopModel {
        names,
        ..ShopModel::default()
    }))
}

/// Predicts a plan. Nothing is stored.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "predict", request_body = PredictBody,
    responses((status = 200, body = Prediction), crate::openapi::Problems)))]
#[post("/predict", data = "<body>")]
pub async fn predict(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    caller: Caller,
    body: Body<PredictBody>,
) -> Result<Json<Prediction>, Problem> {
    predictor.models.narrow(pool, me.workshop).await?;
    let (asked, names, step_mm) = body.0.check(pool, me.workshop, STEP_MM).await?;
    let learned = learned_for(pool, predictor, &me, &body.0, names).await?;
    let work = predictor.predict(asked, learned, Depth::Whole(step_mm));
    Ok(Json(caller.wait(work).await?))
}

/// Simulates the last quench of a plan: maps and history for drawing. Nothing is stored.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "predict", request_body = PredictBody,
    responses((status = 200, body = vatten_core::simulation::map::Maps), crate::openapi::Problems)))]
#[post("/simulate", data = "<body>")]
pub async fn simulate(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    caller: Caller,
    body: Body<PredictBody>,
) -> Result<RawJson<String>, Problem> {
    let (asked, names, step_mm) = body.0.check(pool, me.workshop, MAP_STEP_MM).await?;
    let learned = learned_for(pool, predictor, &me, &body.0, names).await?;
    let work = predictor.simulate(asked, learned, step_mm);
    Ok(RawJson(caller.wait(work).await?.to_string()))
}

/// Follows the `points` of a blade through the last quench of a plan: temperature, phases and stress, beside the start
/// lines of the steel. One answer for each point, none for those beside the blade. Nothing is stored.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "predict", request_body = PredictBody,
    responses((status = 200, body = Vec<Option<PlaceHistory>>), crate::openapi::Problems)))]
#[post("/simulate/place", data = "<body>")]
pub async fn simulate_place(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    caller: Caller,
    body: Body<PredictBody>,
) -> Result<Json<Vec<Option<PlaceHistory>>>, Problem> {
    let (asked, ..) = body.0.check(pool, me.workshop, MAP_STEP_MM).await?;
    let work = predictor.follow(asked, body.0.points);
    Ok(Json(caller.wait(work).await?))
}

/// Answers `ok` when the server and its database are well.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "health", responses((status = 200, body = String), crate::openapi::Problems)))]
#[get("/health")]
pub async fn health(pool: &State<PgPool>) -> Result<&'static str, Problem> {
    sqlx::query("select 1")
        .execute(pool.inner())
        .await
        .map_err(vatten_store::Error::from)?;
    Ok("ok")
}
