//! Plans of a blade.

use crate::answers::one;
use crate::answers::plan::PlanView;
use crate::auth::SignedIn;
use crate::body::{Body, Id};
use crate::materials::{check_stations, made_of, metal};
use crate::predictor::Predictor;
use crate::prepared_blade::PreparedBlade;
use crate::problem::Problem;
use crate::routes::blade::parse_medium;
use rocket::serde::json::Json;
use rocket::{State, get, put};
use serde::Deserialize;
use std::sync::Arc;
use vatten_core::advice::method;
use vatten_core::process::plan::Plan;
use vatten_core::process::step::Step;
use vatten_core::process::step_draft::StepDraft;
use vatten_store::{Error, PgPool, blade, plan, station};

/// A plan to be saved.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct PlanBody {
    /// The steps in order, 1 to 40.
    pub steps: Vec<StepDraft>,
    /// Version of the draft it was read at; 0 to begin a new plan (none yet, or the last is frozen).
    #[serde(default)]
    pub version: i64,
}

/// The latest plan of a blade.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades", params(("id" = uuid::Uuid, Path)),
    responses((status = 200, body = PlanView), crate::openapi::Problems)))]
#[get("/blades/<id>/plan")]
pub async fn get(pool: &State<PgPool>, me: SignedIn, id: Id) -> Result<Json<PlanView>, Problem> {
    Ok(one(plan::latest(pool.inner(), me.workshop, id.0).await?))
}

/// Saves the draft plan of a blade.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades", params(("id" = uuid::Uuid, Path)), request_body = PlanBody,
    responses((status = 200, body = PlanView), crate::openapi::Problems)))]
#[put("/blades/<id>/plan", data = "<body>")]
pub async fn save(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<PlanBody>,
) -> Result<Json<PlanView>, Problem> {
    let row = blade::get(pool.inner(), me.workshop, id.0).await?;
    let mut checked = Plan::parse(&body.0.steps)?;
    let by_eye = |s: &Step| s.sighting().is_some() || s.temper_sighting().is_some();
    if checked.steps().iter().any(by_eye) {
        let of = metal(&made_of(pool, me.workshop, &row).await?)?;
        checked = checked.judged_on(&of.steel);
    }
    check_stations(&checked, &station::list(pool.inner(), me.workshop).await?)?;
    match plan::save(pool.inner(), me.workshop, id.0, &checked, body.0.version).await {
        Err(Error::Stale) => Err(Problem::stale(&PlanView::from(
            plan::latest(pool.inner(), me.workshop, id.0).await?,
        ))),
        other => Ok(one(other?)),
    }
}

/// The usual steps for the blade's steel and wanted hardness, to start again from. Nothing is stored.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades",
    params(("id" = uuid::Uuid, Path), ("medium" = Option<String>, Query)),
    responses((status = 200, body = Vec<Step>), crate::openapi::Problems)))]
#[get("/blades/<id>/usual-plan?<medium>")]
pub async fn usual(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
    medium: Option<&str>,
) -> Result<Json<Vec<Step>>, Problem> {
    let stored = PreparedBlade::read(pool, me.workshop, id.0).await?;
    let at = stored.usual_stations();
    let medium = parse_medium(medium)?;
    let usual = move || {
        method::usual(
            &stored.metal.steel,
            stored.work.blade(),
            medium,
            stored.target(),
            at,
        )
    };
    Ok(Json(predictor.compute.run(usual).await?.steps().to_vec()))
}
