//! Firings and what happens in them.

use crate::answers::firing::EventView;
use crate::answers::firing::Firing;
use crate::answers::{self, all, one};
use crate::auth::SignedIn;
use crate::body::{Body, Id};
use crate::day::mend;
use crate::event_body::EventBody;
use crate::predictor::{Depth, Predictor};
use crate::prepared_blade::{PreparedBlade, made_now};
use crate::problem::Problem;
use rocket::serde::json::Json;
use rocket::{State, get, post};
use serde::Deserialize;
use std::sync::Arc;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::advice::outlook::{Outlook, outlook};
use vatten_core::process::operator::Operator;
use vatten_core::process::plan::Plan;
use vatten_core::process::station::StationKind;
use vatten_core::quantity::validation::Faults;
use vatten_core::record::firing::FiringEvent;
use vatten_core::simulation::simulated::STEP_MM;
use vatten_store::firing::{Frozen, Past};
use vatten_store::{Error, PgPool, blade, clay, firing, plan, station};

/// A firing to be started.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct StartBody {
    /// Id made by the client (UUID version 7); made here when left out.
    pub id: Option<Uuid>,
    /// Version of the draft plan that is to be frozen.
    pub plan_version: i64,
    /// When; now when left out.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub at: Option<OffsetDateTime>,
}

/// Freezes the draft plan with its prediction and starts firing it.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)), request_body = StartBody,
    responses((status = 200, body = Firing), crate::openapi::Problems)))]
#[post("/blades/<id>/firings", data = "<body>")]
pub async fn start(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
    body: Body<StartBody>,
) -> Result<Json<Firing>, Problem> {
    let blade = blade::get(pool.inner(), me.workshop, id.0).await?;
    let draft = plan::latest(pool.inner(), me.workshop, id.0).await?;
    let firing_id = body.0.id.unwrap_or_else(Uuid::now_v7);
    if let Some(known) = firing::started(pool.inner(), me.workshop, id.0, firing_id).await? {
        return Ok(one(known));
    }
    if blade.firing_open {
        return Err(Error::not_now("plan_version", "This blade is already being fired.").into());
    }
    if draft.frozen_at.is_some() {
        let sentence = "This plan was fired before and is frozen. Save a new plan first.";
        return Err(Error::not_now("plan_version", sentence).into());
    }
    if draft.version != body.0.plan_version {
        return Err(Problem::stale(&answers::plan::PlanView::from(draft)));
    }
    predictor.models.narrow(pool, me.workshop).await?;
    let steps = Plan::stored(draft.steps.clone());
    // Clay that no step lays on stays on the drawing.
    let painted = clay::get(pool.inner(), me.workshop, id.0).await?;
    let laid = painted.painted().filter(|_| steps.lays_clay()).cloned();
    let made = made_now(pool, me.workshop, &blade, laid).await?;
    let stations = station::list(pool.inner(), me.workshop).await?;
    let asked = PreparedBlade::new(made.clone(), stations, true)?.asked(steps);
    let learned = predictor.models.current(pool, me.workshop).await?;
    let prediction = predictor
        .predict(asked, learned, Depth::Whole(STEP_MM))
        .await?;
    let frozen = Frozen {
        prediction: &prediction,
        made: &made,
    };
    let now = OffsetDateTime::now_utc();
    let at = body.0.at.unwrap_or(now).min(now);
    match firing::start(pool.inner(), me.workshop, firing_id, &draft, frozen, at).await {
        Err(Error::Stale) => Err(Problem::stale(&answers::plan::PlanView::from(
            plan::latest(pool.inner(), me.workshop, id.0).await?,
        ))),
        other => {
            follow_day(pool, predictor, &me);
            Ok(one(other?))
        }
    }
}

/// Firings of a blade, newest first.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<Firing>), crate::openapi::Problems)))]
#[get("/blades/<id>/firings")]
pub async fn of_blade(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
) -> Result<Json<Vec<Firing>>, Problem> {
    Ok(all(firing::of_blade(pool.inner(), me.workshop, id.0).await?))
}

/// The firings going on, oldest first.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "firings", responses((status = 200, body = Vec<Firing>), crate::openapi::Problems)))]
#[get("/firings")]
pub async fn open(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<Firing>>, Problem> {
    Ok(all(firing::open(pool.inner(), me.workshop).await?))
}

/// One firing.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)),
    responses((status = 200, body = Firing), crate::openapi::Problems)))]
#[get("/firings/<id>")]
pub async fn get(pool: &State<PgPool>, me: SignedIn, id: Id) -> Result<Json<Firing>, Problem> {
    Ok(one(firing::get(pool.inner(), me.workshop, id.0).await?))
}

/// Who quenched lately in this shop, the latest first, at most twelve.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "firings", responses((status = 200, body = Vec<Operator>), crate::openapi::Problems)))]
#[get("/operators")]
pub async fn operators(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<Operator>>, Problem> {
    Ok(Json(firing::operators(pool.inner(), me.workshop).await?))
}

/// What comes of a firing from here on: by what was done so far, and by the plan for what is left.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)),
    responses((status = 200, body = Outlook), crate::openapi::Problems)))]
#[get("/firings/<id>/outlook")]
pub async fn look_ahead(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
) -> Result<Json<Outlook>, Problem> {
    let firing = firing::get(pool.inner(), me.workshop, id.0).await?;
    let prepared = PreparedBlade::fired(pool, me.workshop, firing.made.clone()).await?;
    let asked = prepared.asked(firing.done.clone().plan());
    let learned = predictor.models.current(pool, me.workshop).await?;
    let now = predictor
        .predict(asked, learned, Depth::Whole(STEP_MM))
        .await?;
    Ok(Json(outlook(
        firing.frozen_steps(),
        &firing.state,
        &firing.done,
        (&firing.prediction, &now),
    )))
}

/// Everything that happened in a firing, in order.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<EventView>), crate::openapi::Problems)))]
#[get("/firings/<id>/events")]
pub async fn events(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
) -> Result<Json<Vec<EventView>>, Problem> {
    Ok(all(firing::events(pool.inner(), me.workshop, id.0).await?))
}

/// What follows on the day moves with a press; nobody waits for it.
fn follow_day(pool: &State<PgPool>, predictor: &State<Arc<Predictor>>, me: &SignedIn) {
    let (pool, predictor) = (pool.inner().clone(), Arc::clone(predictor));
    rocket::tokio::spawn(mend(pool, predictor, me.workshop));
}

/// Something happened.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)), request_body = EventBody,
    responses((status = 200, body = Firing), crate::openapi::Problems)))]
#[post("/firings/<id>/events", data = "<body>")]
pub async fn happen(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
    body: Body<EventBody>,
) -> Result<Json<Firing>, Problem> {
    let what = body.0.check()?;
    if let FiringEvent::Say { by: Some(by), .. } = &what
        && let Some(eye) = by.eye_id
    {
        let known = station::list(pool.inner(), me.workshop).await?;
        if !known
            .iter()
            .any(|s| s.id == eye && s.kind == StationKind::Eye)
        {
            return Err(Faults::one("by.eye_id", "The shop keeps no such eye.").into());
        }
    }
    let now = OffsetDateTime::now_utc();
    let (at, device_at) = body.0.times(now);
    let new = Past {
        id: body.0.id.unwrap_or_else(Uuid::now_v7),
        what,
        at,
        device_at,
    };
    let by = Some(me.person_id);
    let happened = firing::happen(pool.inner(), me.workshop, id.0, &new, by).await?;
    follow_day(pool, predictor, &me);
    Ok(one(happened))
}
