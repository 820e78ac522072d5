//! Predictions, and whether the server is well.

use crate::auth::SignedIn;
use crate::body::Body;
use crate::predictor::{
    Asked, Learned, Predictor, check_stations, read_steel, station_names, usual_tester,
};
use crate::problem::{Problem, Problems};
use crate::routes::blade::usual_stations;
use rocket::serde::json::Json;
use rocket::{State, get, post};
use serde::Deserialize;
use std::sync::Arc;
use uuid::Uuid;
use vatten_core::blade::{Blade, BladeDraft};
use vatten_core::fault::{Checker, Faults};
use vatten_core::plan::{Plan, StepDraft};
use vatten_core::prediction::Prediction;
use vatten_core::units::{Hrc, Quantity};
use vatten_store::PgPool;

/// A wanted hardness window, HRC.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TargetBody {
    /// Lowest, 0 to 70 HRC.
    #[schema(minimum = 0, maximum = 70)]
    pub low: f64,
    /// Highest, 0 to 70 HRC.
    #[schema(minimum = 0, maximum = 70)]
    pub high: f64,
}

/// What to predict.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PredictBody {
    /// Designation of a built-in steel, id of one of the shop's own, or `{"analysis": {"C": 0.84}}`.
    #[serde(default)]
    #[schema(value_type = Object)]
    pub steel: serde_json::Value,
    /// The blade.
    #[serde(default)]
    pub blade: BladeDraft,
    /// The steps in order, 1 to 40.
    #[serde(default)]
    pub steps: Vec<StepDraft>,
    /// Correct physics by the shop's records; yes when left out.
    pub use_records: Option<bool>,
    /// The tester it will be read with.
    pub tester_id: Option<Uuid>,
    /// Ask for the temper that reaches this.
    pub target_hrc: Option<TargetBody>,
}

/// Predicts a plan. Nothing is stored.
#[utoipa::path(context_path = "/api/v1", tag = "predict", request_body = PredictBody,
    responses((status = 200, body = Prediction), Problems))]
#[post("/predict", data = "<body>")]
pub async fn predict(
    pool: &State<PgPool>,
    predictor: &State<Predictor>,
    me: SignedIn,
    body: Body<PredictBody>,
) -> Result<Json<Prediction>, Problem> {
    let body = body.0;
    let mut c = Checker::default();
    let steel = match read_steel(pool, me.workshop, &body.steel).await {
        Ok(steel) => Some(steel),
        Err(problem) if problem.status == 422 => c.take(Err(Faults(problem.fields))),
        Err(problem) => return Err(problem),
    };
    let blade = c.take(Blade::parse(&body.blade).map_err(|f| f.under("blade")));
    let plan = c.take(Plan::parse(&body.steps));
    let target = body.target_hrc.map(|t| {
        let low = c.take(Hrc::check("target_hrc.low", t.low));
        let high = c.take(Hrc::check("target_hrc.high", t.high));
        if t.low > t.high {
            c.refuse(
                "target_hrc.low",
                "The lowest wanted hardness is above the highest.",
            );
        }
        low.zip(high)
            .map_or((0.0, 0.0), |(low, high)| (low.value(), high.value()))
    });
    let names = station_names(pool, me.workshop).await?;
    if let Some(plan) = &plan {
        c.take(check_stations(plan, &names));
    }
    if body.tester_id.is_some_and(|id| !names.contains_key(&id)) {
        c.refuse("tester_id", "The shop has no such tester.");
    }
    let parts = match (steel, blade, plan) {
        (Some(steel), Some(blade), Some(plan)) => Some((steel, blade, plan)),
        _ => None,
    };
    let (steel, blade, plan) = c.finish(parts)?;
    let learned = if body.use_records.unwrap_or(true) {
        predictor.learned(pool, me.workshop).await?
    } else {
        Arc::new(Learned {
            names,
            ..Learned::default()
        })
    };
    let at = usual_stations(pool, me.workshop, None).await?;
    let tester = body.tester_id.or(usual_tester(pool, me.workshop).await?);
    let asked = Asked {
        plan: plan.with_stations(at),
        steel,
        blade,
        tester,
        target,
    };
    Ok(Json(predictor.predict(asked, learned).await?))
}

/// The outline of a blade from its shape preset and size, mm. Nothing is stored.
#[utoipa::path(context_path = "/api/v1", tag = "predict", request_body = BladeDraft,
    responses((status = 200, body = Vec<[f64; 2]>), Problems))]
#[post("/outline", data = "<body>")]
pub async fn outline(
    _me: SignedIn,
    body: Body<BladeDraft>,
) -> Result<Json<Vec<[f64; 2]>>, Problem> {
    Ok(Json(Blade::parse(&body.0)?.outline()))
}

/// Answers `ok` when the server and its database are well.
#[utoipa::path(context_path = "/api/v1", tag = "health", responses((status = 200, body = String), Problems))]
#[get("/health")]
pub async fn health(pool: &State<PgPool>) -> Result<&'static str, Problem> {
    sqlx::query("select 1")
        .execute(pool.inner())
        .await
        .map_err(vatten_store::Error::from)?;
    Ok("ok")
}
