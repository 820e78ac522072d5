//! Coupon trials: from unknown steel to a house steel, step by step.

use crate::answers::trial::Trial;
use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::predictor::Predictor;
use crate::prepared_blade::corrections_now;
use crate::problem::Problem;
use crate::routes::steel::SteelView;
use rocket::serde::json::Json;
use rocket::{State, get, post, put};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::Arc;
use uuid::Uuid;
use vatten_core::material::reclaimed::{Measured, Reclaimed};
use vatten_core::material::salvage::Salvage;
use vatten_core::material::steel::Steel;
use vatten_core::quantity::units::{Millimetres, Quantity};
use vatten_core::quantity::validation::{Checker, Faults, Unit};
use vatten_core::record::trial::{Entry, Guide, MAX_ENTRIES, TrialEnd, guide};
use vatten_store::trial::Piece;
use vatten_store::{Error, PgPool, WorkshopId, steel, trial};

/// A trial with what is known of the piece and what is to be done next.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TrialView {
    /// The trial.
    #[serde(flatten)]
    pub trial: Trial,
    /// What it may be made of: after its coupons, and after its blades once it is a steel of the shop.
    pub reclaimed: Reclaimed,
    /// What is to be done next.
    pub guide: Guide,
}

/// Trials with what is known of each: as their steels have it, else by their coupons, which is computed once for the
/// same ones.
async fn views(
    pool: &PgPool,
    predictor: &Predictor,
    workshop: WorkshopId,
    trials: Vec<trial::Trial>,
) -> Result<Vec<TrialView>, Problem> {
    let steels = steel::list(pool, workshop).await?;
    let eyes = corrections_now(pool, workshop).await?;
    let mut all = Vec::with_capacity(trials.len());
    for trial in trials {
        let became = steels.iter().find(|s| Some(s.id) == trial.steel_id);
        let known = became.and_then(|s| s.estimate.as_ref()?.reclaimed.clone());
        let reclaimed = match known {
            Some(known) => known,
            None => Reclaimed::clone(&*predictor.believe(&trial, &eyes).await?),
        };
        all.push(TrialView {
            guide: guide(&trial.entries, &reclaimed),
            trial: trial.into(),
            reclaimed,
        });
    }
    Ok(all)
}

async fn view(
    pool: &PgPool,
    predictor: &Predictor,
    workshop: WorkshopId,
    trial: trial::Trial,
) -> Result<TrialView, Problem> {
    let one = views(pool, predictor, workshop, vec![trial]).await?.pop();
    one.ok_or_else(Problem::not_found)
}

/// Thinnest and thickest coupon, mm.
const THICKNESS_MM: (f64, f64) = (1.0, 20.0);
/// Usual thickness of a coupon, mm.
const USUAL_MM: f64 = 5.0;

/// What is to be tried.
///
/// # Errors
/// Faults at `was`, `measured.Cr` and the like, `thickness_mm`.
pub fn piece(
    was: Option<&str>,
    measured: BTreeMap<String, f64>,
    thickness_mm: Option<f64>,
) -> Result<Piece, Faults> {
    let mut c = Checker::default();
    let was = c.take(was.map_or(Ok(Salvage::UnknownBar), Salvage::parse));
    let of = was.unwrap_or(Salvage::UnknownBar);
    let measured = c.take(Measured::parse(of, measured).map_err(|f| f.under("measured")));
    let mm = thickness_mm.unwrap_or(USUAL_MM);
    if !(THICKNESS_MM.0..=THICKNESS_MM.1).contains(&mm) {
        let message = "A coupon of this thickness is not possible.";
        c.refuse_outside("thickness_mm", message, THICKNESS_MM, Unit::Millimetre);
    }
    c.finish(was.zip(measured).map(|(was, measured)| Piece {
        was,
        measured,
        thickness: Millimetres::clamped(mm),
    }))
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
    /// What it was; an unknown bar when left out.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(value_type = Option<Salvage>))]
    pub was: Option<String>,
    /// What was measured of it, percent by weight by symbol.
    #[serde(default)]
    pub measured: BTreeMap<String, f64>,
    /// How thick its coupons are, 1 to 20 mm; 5 when left out.
    #[serde(default)]
    pub thickness_mm: Option<f64>,
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
pub async fn list(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
) -> Result<Json<Vec<TrialView>>, Problem> {
    predictor.models.narrow(pool, me.workshop).await?;
    let all = trial::list(pool.inner(), me.workshop).await?;
    Ok(Json(views(pool, predictor, me.workshop, all).await?))
}

/// One trial.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", params(("id" = Uuid, Path)),
    responses((status = 200, body = TrialView), crate::openapi::Problems)))]
#[get("/trials/<id>")]
pub async fn get(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
) -> Result<Json<TrialView>, Problem> {
    predictor.models.narrow(pool, me.workshop).await?;
    let found = trial::get(pool.inner(), me.workshop, id.0).await?;
    Ok(Json(view(pool, predictor, me.workshop, found).await?))
}

/// Begins a trial.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", request_body = TrialBody,
    responses((status = 200, body = TrialView), crate::openapi::Problems)))]
#[post("/trials", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    body: Body<TrialBody>,
) -> Result<Json<TrialView>, Problem> {
    let body = body.0;
    let mut c = Checker::default();
    let name = c.take(text("name", &body.name, (1, 60)));
    let piece = c.take(piece(body.was.as_deref(), body.measured, body.thickness_mm));
    let (name, piece) = c.finish(name.zip(piece))?;
    let id = body.id.unwrap_or_else(Uuid::now_v7);
    let made = trial::create(pool.inner(), me.workshop, id, &name, &piece).await?;
    Ok(Json(view(pool, predictor, me.workshop, made).await?))
}

/// Keeps what was done and seen, and answers with what is to be done next.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", params(("id" = Uuid, Path)), request_body = EntriesBody,
    responses((status = 200, body = TrialView), crate::openapi::Problems)))]
#[put("/trials/<id>", data = "<body>")]
pub async fn save(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
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
            let now = trial::get(pool.inner(), me.workshop, id.0).await?;
            let now = view(pool, predictor, me.workshop, now).await?;
            Err(Problem::stale(&now))
        }
        other => {
            let saved = other?;
            predictor.models.narrow(pool, me.workshop).await?;
            Ok(Json(view(pool, predictor, me.workshop, saved).await?))
        }
    }
}

/// Makes a house steel of what a trial found out.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", params(("id" = Uuid, Path)), request_body = BecomeBody,
    responses((status = 200, body = SteelView), crate::openapi::Problems)))]
#[post("/trials/<id>/steel", data = "<body>")]
pub async fn become_steel(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
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
    let eyes = corrections_now(pool, me.workshop).await?;
    let reclaimed = predictor.believe(&known, &eyes).await?;
    let Some(TrialEnd::HouseSteel { estimate }) = guide(&known.entries, &reclaimed).verdict else {
        let message = "It stayed soft from oil and from water: it is no blade steel.";
        return Err(Error::not_now("entries", message).into());
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
