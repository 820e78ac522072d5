//! Hardness readings of a blade.

use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::problem::{Problem, Problems};
use rocket::http::Status;
use rocket::serde::json::Json;
use rocket::{State, delete, get, post};
use serde::Deserialize;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::fault::Checker;
use vatten_core::reading::{Values, When};
use vatten_core::station::StationKind;
use vatten_store::reading::{NewReading, Reading};
use vatten_store::{PgPool, blade, reading, station};

/// Readings to be kept.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
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
    #[schema(max_length = 500)]
    pub note: String,
    /// When; now when left out.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub taken_at: Option<OffsetDateTime>,
}

/// Readings of a blade in time order.
#[utoipa::path(context_path = "/api/v1", tag = "readings", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<Reading>), Problems))]
#[get("/blades/<id>/readings")]
pub async fn list(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
) -> Result<Json<Vec<Reading>>, Problem> {
    Ok(Json(reading::of_blade(pool, me.workshop, id.0).await?))
}

/// Keeps readings.
#[utoipa::path(context_path = "/api/v1", tag = "readings", params(("id" = Uuid, Path)), request_body = ReadingBody,
    responses((status = 200, body = Reading), Problems))]
#[post("/blades/<id>/readings", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<ReadingBody>,
) -> Result<Json<Reading>, Problem> {
    let body = body.0;
    blade::get(pool, me.workshop, id.0).await?;
    let mut c = Checker::default();
    let stage = When::parse(&body.stage);
    if stage.is_none() {
        c.refuse_allowing("stage", "There is no such stage.", "as_quenched, tempered");
    }
    let values = c.take(Values::parse(&body.values));
    let note = c.take(text("note", &body.note, (0, 500)));
    if let Some(tester) = body.tester_id {
        let all = station::list(pool, me.workshop).await?;
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
    };
    Ok(Json(reading::create(pool, me.workshop, id.0, &new).await?))
}

/// Withdraws readings: kept and shown, but no longer learned from.
#[utoipa::path(context_path = "/api/v1", tag = "readings",
    params(("id" = Uuid, Path), ("reading" = Uuid, Path)), responses((status = 204), Problems))]
#[delete("/blades/<id>/readings/<reading>")]
pub async fn withdraw(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    reading: Id,
) -> Result<Status, Problem> {
    reading::withdraw(pool, me.workshop, id.0, reading.0).await?;
    Ok(Status::NoContent)
}
