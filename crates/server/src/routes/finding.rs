//! What came of a blade besides tested hardness.

use crate::answers::finding::KeptFinding;
use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::problem::Problem;
use rocket::http::Status;
use rocket::serde::json::Json;
use rocket::{State, delete, get, post};
use serde::{Deserialize, Serialize};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::material::temper::{self, Burn};
use vatten_core::process::step::Step;
use vatten_core::quantity::units::{Celsius, Quantity};
use vatten_core::quantity::validation::Checker;
use vatten_core::record::finding::Finding;
use vatten_core::record::firing::{End, FiringEvent};
use vatten_store::finding::{FindingRow, NewFinding};
use vatten_store::firing::Past;
use vatten_store::{PgPool, blade, finding, firing};

/// A finding to be kept.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct FindingBody {
    /// Id made by the client (UUID version 7): the same finding sent twice is kept once.
    pub id: Option<Uuid>,
    /// What was found.
    pub found: Finding,
    /// Remark.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(max_length = 500))]
    pub note: String,
    /// When; now when left out.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub found_at: Option<OffsetDateTime>,
}

/// A finding with what it means.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FindingView {
    /// As kept.
    #[serde(flatten)]
    pub finding: KeptFinding,
    /// What a burn did to this steel after its last temper.
    pub burn: Option<Burn>,
}

/// What each burn among them did.
async fn views(
    pool: &PgPool,
    me: &SignedIn,
    blade_id: Uuid,
    all: Vec<FindingRow>,
) -> Result<Vec<FindingView>, Problem> {
    let burned = all.iter().any(|f| matches!(f.found, Finding::Burn { .. }));
    let firings = if burned {
        Some(firing::of_blade(pool, me.workshop, blade_id).await?)
    } else {
        None
    };
    let burn = |row: &FindingRow| {
        let Finding::Burn { colour, hot_s, .. } = &row.found else {
            return None;
        };
        let fired = firings.as_ref()?.iter().find(|f| f.id == row.firing_id)?;
        let steel = fired.made.material.metal()?.edge;
        let before = tempered_to(&fired.done.steps);
        temper::burn(
            colour,
            *hot_s,
            |p| steel.softened_hrc(p),
            before,
            steel.analysis.chromium,
        )
    };
    let views = all.into_iter().map(|finding| FindingView {
        burn: burn(&finding),
        finding: finding.into(),
    });
    Ok(views.collect())
}

/// Parameter of the tempers of a plan; that of an hour at 150 °C, which does next to nothing, when there
/// is none.
fn tempered_to(steps: &[Step]) -> f64 {
    let tempers = steps.iter().filter_map(|s| match s {
        Step::Temper {
            temperature_c,
            hold_s,
            times,
            ..
        } => Some(vec![(*temperature_c, *hold_s); *times as usize]),
        _ => None,
    });
    let all: Vec<_> = tempers.flatten().collect();
    let next_to_none = || temper::parameter(Celsius::clamped(150.0), 1.0);
    temper::combined(&all).unwrap_or_else(next_to_none)
}

/// Findings of a blade in time order.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "findings", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<FindingView>), crate::openapi::Problems)))]
#[get("/blades/<id>/findings")]
pub async fn list(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
) -> Result<Json<Vec<FindingView>>, Problem> {
    let all = finding::of_blade(pool.inner(), me.workshop, id.0).await?;
    Ok(Json(views(pool, &me, id.0, all).await?))
}

/// Keeps a finding.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "findings", params(("id" = Uuid, Path)), request_body = FindingBody,
    responses((status = 200, body = FindingView), crate::openapi::Problems)))]
#[post("/blades/<id>/findings", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<FindingBody>,
) -> Result<Json<FindingView>, Problem> {
    let body = body.0;
    let of = blade::get(pool.inner(), me.workshop, id.0).await?;
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
    let kept = finding::create(pool.inner(), me.workshop, id.0, &new).await?;
    if let (Finding::Scrap { .. }, true, Some(firing_id)) =
        (&new.found, of.firing_open, of.firing_id)
    {
        let by = Some(me.person_id);
        let close = Past {
            id: Uuid::now_v7(),
            what: FiringEvent::Close { end: End::Done },
            at: OffsetDateTime::now_utc(),
            device_at: None,
        };
        firing::happen(pool.inner(), me.workshop, firing_id, &close, by).await?;
    }
    let view = views(pool, &me, id.0, vec![kept]).await?.pop();
    view.map(Json).ok_or_else(Problem::not_found)
}

/// Withdraws a finding: kept and shown, but no longer learned from.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "findings",
    params(("id" = Uuid, Path), ("finding" = Uuid, Path)), responses((status = 204), crate::openapi::Problems)))]
#[delete("/blades/<id>/findings/<finding>")]
pub async fn withdraw(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    finding: Id,
) -> Result<Status, Problem> {
    finding::withdraw(pool.inner(), me.workshop, id.0, finding.0).await?;
    Ok(Status::NoContent)
}
