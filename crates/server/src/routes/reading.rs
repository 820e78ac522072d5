//! Hardness readings of a blade.

use crate::answers;
use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::predictor::Predictor;
use crate::problem::Problem;
use rocket::http::Status;
use rocket::serde::json::Json;
use rocket::{State, delete, get, post, put};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use std::sync::Arc;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::process::calibration::Checks;
use vatten_core::process::station::StationKind;
use vatten_core::quantity::validation::Checker;
use vatten_core::record::reading::{Aside, NotCounted, Taken, Values, When};
use vatten_core::simulation::hamon::Line;
use vatten_store::reading::{NewReading, Reading};
use vatten_store::{Error, PgPool, WorkshopId, blade, calibration, reading, station, tester_value};

/// Readings to be kept.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct ReadingBody {
    /// Id made by the client (UUID version 7): the same readings sent twice are kept once.
    pub id: Option<Uuid>,
    /// `as_quenched` or `tempered`.
    pub stage: String,
    /// One to twenty values, 0 to 70 HRC.
    pub values: Vec<f64>,
    /// The tester used.
    pub tester_id: Option<Uuid>,
    /// Remark.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(max_length = 500))]
    pub note: String,
    /// When; now when left out.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub taken_at: Option<OffsetDateTime>,
    /// Where and in what state they were read.
    #[serde(default)]
    pub taken: Taken,
    /// Values of a connected tester that are taken into these readings: they no longer wait.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(max_items = 20))]
    pub from_tester: Vec<Uuid>,
}

/// Values to be set aside.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct AsideBody {
    /// All that are to be set aside, each with its reason; the others count.
    pub aside: Vec<Aside>,
    /// Version of the readings.
    pub version: i64,
}

/// Readings with what counts of them.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReadingView {
    /// As kept.
    #[serde(flatten)]
    pub reading: answers::reading::Reading,
    /// For each value why it does not count; null for one that does.
    pub not_counted: Vec<Option<NotCounted>>,
    /// Position of the odd one out among those that count.
    pub outlier: Option<usize>,
    /// Mean of those that count, HRC; none when none does.
    pub counted_hrc: Option<f64>,
    /// The same by the check of the tester that was in force, HRC.
    pub corrected_hrc: Option<f64>,
}

fn view(reading: Reading, lines: &HashMap<Uuid, Line>, checks: &Checks) -> ReadingView {
    let line = lines.get(&reading.firing_id);
    let counting = reading.taken.counting(&reading.values_hrc, line);
    let mean = counting.iter().sum::<f64>() / counting.len().max(1) as f64;
    let counted_hrc = (!counting.is_empty()).then_some(mean);
    let known = checks.at(reading.taken_at.unix_timestamp());
    ReadingView {
        not_counted: reading.taken.verdicts(reading.values_hrc.len(), line),
        outlier: reading.taken.outlier(&reading.values_hrc, line),
        counted_hrc,
        corrected_hrc: counted_hrc.map(|m| known.really(reading.tester_id, m)),
        reading: reading.into(),
    }
}

/// Readings of a blade with what counts of them.
async fn views(
    pool: &PgPool,
    predictor: &Predictor,
    me: &SignedIn,
    blade_id: Uuid,
) -> Result<Vec<ReadingView>, Problem> {
    let all = reading::of_blade(pool, me.workshop, blade_id).await?;
    let lines = lines(pool, predictor, me.workshop, &all).await?;
    let checks = calibration::checks(pool, me.workshop).await?;
    Ok(all.into_iter().map(|r| view(r, &lines, &checks)).collect())
}

/// Where the soft back began, by firing, as the engine says of what was done: for readings that have places.
///
/// # Errors
/// The database cannot be read.
pub async fn lines(
    pool: &PgPool,
    predictor: &Predictor,
    workshop: WorkshopId,
    readings: &[Reading],
) -> Result<HashMap<Uuid, Line>, Problem> {
    let placed = |r: &&Reading| r.taken.places.iter().any(Option::is_some);
    let mut firings: Vec<Uuid> = readings
        .iter()
        .filter(placed)
        .map(|r| r.firing_id)
        .collect();
    firings.sort_unstable();
    firings.dedup();
    let found = predictor.models.simulated(pool, workshop, &firings).await?;
    let lines = found
        .into_iter()
        .filter_map(|(id, s)| Some((id, s.line()?)));
    Ok(lines.collect())
}

/// Readings of a blade in time order.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "readings", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<ReadingView>), crate::openapi::Problems)))]
#[get("/blades/<id>/readings")]
pub async fn list(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
) -> Result<Json<Vec<ReadingView>>, Problem> {
    Ok(Json(views(pool, predictor, &me, id.0).await?))
}

/// Keeps readings.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "readings", params(("id" = Uuid, Path)), request_body = ReadingBody,
    responses((status = 200, body = ReadingView), crate::openapi::Problems)))]
#[post("/blades/<id>/readings", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
    body: Body<ReadingBody>,
) -> Result<Json<ReadingView>, Problem> {
    let body = body.0;
    let of = blade::get(pool.inner(), me.workshop, id.0).await?;
    let mut c = Checker::default();
    let stage = When::parse(&body.stage);
    if stage.is_none() {
        c.refuse_allowing("stage", "There is no such stage.", "as_quenched, tempered");
    }
    let values = c.take(Values::parse(&body.values));
    c.take(
        body.taken
            .check(body.values.len(), of.length_mm)
            .map_err(|f| f.under("taken")),
    );
    let note = c.take(text("note", &body.note, (0, 500)));
    if let Some(tester) = body.tester_id {
        let all = station::list(pool.inner(), me.workshop).await?;
        if !all
            .iter()
            .any(|s| s.id == tester && s.kind == StationKind::Tester)
        {
            c.refuse("tester_id", "The shop has no such tester.");
        }
    }
    let (stage, values, note) = c.finish(match (stage, values, note) {
        (Some(stage), Some(values), Some(note)) => Some((stage, values, note)),
        _ => None,
    })?;
    let new = NewReading {
        id: body.id.unwrap_or_else(Uuid::now_v7),
        stage,
        values,
        tester_id: body.tester_id,
        note,
        taken_at: body.taken_at.unwrap_or_else(OffsetDateTime::now_utc),
        taken: body.taken,
    };
    let kept = reading::create(pool.inner(), me.workshop, id.0, &new).await?;
    tester_value::settle(pool.inner(), me.workshop, &body.from_tester, true).await?;
    one(pool, predictor, &me, id.0, kept.id).await
}

async fn one(
    pool: &PgPool,
    predictor: &Predictor,
    me: &SignedIn,
    blade_id: Uuid,
    reading: Uuid,
) -> Result<Json<ReadingView>, Problem> {
    let all = views(pool, predictor, me, blade_id).await?;
    let found = all.into_iter().find(|r| r.reading.id == reading);
    found.map(Json).ok_or_else(Problem::not_found)
}

/// Sets values aside with a reason, or takes them back.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "readings",
    params(("id" = Uuid, Path), ("reading" = Uuid, Path)), request_body = AsideBody,
    responses((status = 200, body = ReadingView), crate::openapi::Problems)))]
#[put("/blades/<id>/readings/<reading>/aside", data = "<body>")]
pub async fn set_aside(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
    reading: Id,
    body: Body<AsideBody>,
) -> Result<Json<ReadingView>, Problem> {
    let of = blade::get(pool.inner(), me.workshop, id.0).await?;
    let all = reading::of_blade(pool.inner(), me.workshop, id.0).await?;
    let known = all.into_iter().find(|r| r.id == reading.0);
    let known = known.ok_or_else(Problem::not_found)?;
    let taken = Taken {
        aside: body.0.aside,
        ..known.taken
    };
    taken.check(known.values_hrc.len(), of.length_mm)?;
    let version = body.0.version;
    match reading::set_aside(pool.inner(), me.workshop, id.0, reading.0, &taken, version).await {
        Err(Error::Stale) => {
            let now = one(pool, predictor, &me, id.0, reading.0).await?;
            Err(Problem::stale(&now.0))
        }
        other => {
            other?;
            one(pool, predictor, &me, id.0, reading.0).await
        }
    }
}

/// Withdraws readings: kept and shown, but no longer learned from.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "readings",
    params(("id" = Uuid, Path), ("reading" = Uuid, Path)), responses((status = 204), crate::openapi::Problems)))]
#[delete("/blades/<id>/readings/<reading>")]
pub async fn withdraw(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    reading: Id,
) -> Result<Status, Problem> {
    reading::withdraw(pool.inner(), me.workshop, id.0, reading.0).await?;
    Ok(Status::NoContent)
}
