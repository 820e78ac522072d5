//! Coupon trials: from unknown steel to a house steel, step by step.

use crate::answers::trial::Trial;
use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::problem::Problem;
use crate::routes::steel::SteelView;
use rocket::serde::json::Json;
use rocket::{State, get, post, put};
use serde::{Deserialize, Serialize};
use uuid::Uuid;
use vatten_core::material::steel::Steel;
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_core::record::trial::{Entry, Guide, MAX_ENTRIES, TrialEnd, guide};
use vatten_store::{Error, PgPool, steel, trial};

/// A trial with what is to be done next.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TrialView {
    /// The trial.
    #[serde(flatten)]
    pub trial: Trial,
    /// What is to be done next.
    pub guide: Guide,
}

impl From<trial::Trial> for TrialView {
    fn from(trial: trial::Trial) -> Self {
        Self {
            guide: guide(&trial.entries),
            trial: trial.into(),
        }
    }
}

/// A trial to be begun.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct TrialBody {
    /// Id made by the client (UUID version 7); made here when left out.
    pub id: Option<Uuid>,
    /// What the steel is called until more is known.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 60))]
    pub name: String,
}

/// What was done and seen.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct EntriesBody {
    /// Everything so far, in order, at most 20.
    pub entries: Vec<Entry>,
    /// Version it was read at.
    pub version: i64,
}

/// The steel a trial is to become.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct BecomeBody {
    /// Id of the steel, made by the client (UUID version 7); made here when left out.
    pub id: Option<Uuid>,
    /// Its name.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 60))]
    pub name: String,
}

/// Every trial, newest first.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", responses((status = 200, body = Vec<TrialView>), crate::openapi::Problems)))]
#[get("/trials")]
pub async fn list(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<TrialView>>, Problem> {
    let all = trial::list(pool.inner(), me.workshop).await?;
    Ok(Json(all.into_iter().map(TrialView::from).collect()))
}

/// One trial.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", params(("id" = Uuid, Path)),
    responses((status = 200, body = TrialView), crate::openapi::Problems)))]
#[get("/trials/<id>")]
pub async fn get(pool: &State<PgPool>, me: SignedIn, id: Id) -> Result<Json<TrialView>, Problem> {
    Ok(Json(
        trial::get(pool.inner(), me.workshop, id.0).await?.into(),
    ))
}

/// Begins a trial.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", request_body = TrialBody,
    responses((status = 200, body = TrialView), crate::openapi::Problems)))]
#[post("/trials", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    me: SignedIn,
    body: Body<TrialBody>,
) -> Result<Json<TrialView>, Problem> {
    let name = text("name", &body.0.name, (1, 60))?;
    let id = body.0.id.unwrap_or_else(Uuid::now_v7);
    Ok(Json(
        trial::create(pool.inner(), me.workshop, id, &name)
            .await?
            .into(),
    ))
}

/// Keeps what was done and seen, and answers with what is to be done next.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", params(("id" = Uuid, Path)), request_body = EntriesBody,
    responses((status = 200, body = TrialView), crate::openapi::Problems)))]
#[put("/trials/<id>", data = "<body>")]
pub async fn save(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<EntriesBody>,
) -> Result<Json<TrialView>, Problem> {
    trial::get(pool.inner(), me.workshop, id.0).await?;
    let EntriesBody { entries, version } = body.0;
    let mut c = Checker::default();
    if entries.len() > MAX_ENTRIES {
        c.refuse_allowing(
            "entries",
            "These are more coupons than a trial can hold.",
            format!("0 to {MAX_ENTRIES}"),
        );
    }
    for (i, entry) in entries.iter().enumerate().take(MAX_ENTRIES) {
        c.take(entry.check().map_err(|f| f.under(&format!("entries[{i}]"))));
    }
    c.finish(Some(()))?;
    match trial::save(pool.inner(), me.workshop, id.0, &entries, version).await {
        Err(Error::Stale) => {
            let now = TrialView::from(trial::get(pool.inner(), me.workshop, id.0).await?);
            Err(Problem::stale(&now))
        }
        other => Ok(Json(other?.into())),
    }
}

/// Makes a house steel of what a trial found out.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", params(("id" = Uuid, Path)), request_body = BecomeBody,
    responses((status = 200, body = SteelView), crate::openapi::Problems)))]
#[post("/trials/<id>/steel", data = "<body>")]
pub async fn become_steel(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<BecomeBody>,
) -> Result<Json<SteelView>, Problem> {
    let known = trial::get(pool.inner(), me.workshop, id.0).await?;
    if let Some(steel_id) = known.steel_id {
        let kept = steel::get(pool.inner(), me.workshop, steel_id).await?;
        return Ok(Json(SteelView::house(&kept)));
    }
    let name = text("name", &body.0.name, (1, 60))?;
    if Steel::built_in(&name).is_some() {
        let message = "The table has a steel of this name; call yours something else.";
        return Err(Faults::one("name", message).into());
    }
    let estimate = match guide(&known.entries).verdict {
        Some(TrialEnd::HouseSteel { estimate, .. }) => estimate,
        Some(TrialEnd::NotABladeSteel { .. }) => {
            let message = "It stayed soft from oil and from water: it is no blade steel.";
            return Err(Error::not_now("entries", message).into());
        }
        None => {
            let message =
                "There is not enough to go by yet: three rungs of the ladder, one of them hard.";
            return Err(Error::not_now("entries", message).into());
        }
    };
    let steel_id = body.0.id.unwrap_or_else(Uuid::now_v7);
    let analysis = estimate.analysis();
    let made = steel::create(
        pool.inner(),
        me.workshop,
        steel_id,
        &name,
        &analysis,
        Some(&estimate),
    )
    .await?;
    trial::became(pool.inner(), me.workshop, id.0, made.id).await?;
    Ok(Json(SteelView::house(&made)))
}
