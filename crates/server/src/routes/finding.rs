//! What came of a blade besides tested hardness.

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
use vatten_core::finding::Finding;
use vatten_store::finding::{FindingRow, NewFinding};
use vatten_store::{PgPool, blade, finding};

/// A finding to be kept.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FindingBody {
    /// Id made by the client (UUID version 7): the same finding sent twice is kept once.
    pub id: Option<Uuid>,
    /// What was found.
    pub found: Finding,
    /// Remark.
    #[serde(default)]
    #[schema(max_length = 500)]
    pub note: String,
    /// When; now when left out.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub found_at: Option<OffsetDateTime>,
}

/// Findings of a blade in time order.
#[utoipa::path(context_path = "/api/v1", tag = "findings", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<FindingRow>), Problems))]
#[get("/blades/<id>/findings")]
pub async fn list(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
) -> Result<Json<Vec<FindingRow>>, Problem> {
    Ok(Json(finding::of_blade(pool, me.workshop, id.0).await?))
}

/// Keeps a finding.
#[utoipa::path(context_path = "/api/v1", tag = "findings", params(("id" = Uuid, Path)), request_body = FindingBody,
    responses((status = 200, body = FindingRow), Problems))]
#[post("/blades/<id>/findings", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<FindingBody>,
) -> Result<Json<FindingRow>, Problem> {
    let body = body.0;
    blade::get(pool, me.workshop, id.0).await?;
    let mut c = Checker::default();
    let good = c.take(body.found.check().map_err(|f| f.under("found")));
    let note = c.take(text("note", &body.note, (0, 500)));
    let note = c.finish(good.and(note))?;
    let new = NewFinding {
        id: body.id.unwrap_or_else(Uuid::now_v7),
        found: body.found,
        note,
        found_at: body.found_at.unwrap_or_else(OffsetDateTime::now_utc),
    };
    Ok(Json(finding::create(pool, me.workshop, id.0, &new).await?))
}

/// Withdraws a finding: kept and shown, but no longer learned from.
#[utoipa::path(context_path = "/api/v1", tag = "findings",
    params(("id" = Uuid, Path), ("finding" = Uuid, Path)), responses((status = 204), Problems))]
#[delete("/blades/<id>/findings/<finding>")]
pub async fn withdraw(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    finding: Id,
) -> Result<Status, Problem> {
    finding::withdraw(pool, me.workshop, id.0, finding.0).await?;
    Ok(Status::NoContent)
}
