//! Checks of stations against something that can be trusted.

use crate::answers::calibration::KeptCalibration;
use crate::answers::{all, one};
use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::problem::Problem;
use rocket::http::Status;
use rocket::serde::json::Json;
use rocket::{State, delete, get, post};
use serde::Deserialize;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::process::calibration::{Against, Calibration};
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_store::calibration::NewCalibration;
use vatten_store::{PgPool, calibration, station};

/// A check as it was read.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct CalibrationBody {
    /// Id made by the client (UUID version 7): the same check sent twice is kept once.
    pub id: Option<Uuid>,
    /// What it was checked against.
    pub against: Against,
    /// What it showed and what really was, `[shown, really]`, °C or HRC, 1 to 12 points. For
    /// `ice_and_boiling_water`: what it showed in each; what really was is computed.
    pub points: Vec<[f64; 2]>,
    /// For `ice_and_boiling_water`: height above the sea, −430 to 9000 m.
    #[serde(default)]
    pub altitude_m: f64,
    /// Remark.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(max_length = 500))]
    pub note: String,
    /// When; now when left out.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub done_at: Option<OffsetDateTime>,
}

impl CalibrationBody {
    fn points(&self) -> Result<Calibration, Faults> {
        match (self.against, self.points.as_slice()) {
            (Against::IceAndBoilingWater, [[ice, _], [boil, _]]) => {
                Calibration::ice_and_boiling(*ice, *boil, self.altitude_m)
            }
            (Against::IceAndBoilingWater, _) => Err(Faults::with_allowed(
                "points",
                "What it showed in melting ice, then in boiling water.",
                "2 points",
            )),
            (against, points) => Calibration::parse(points, against.scale()),
        }
    }
}

/// All checks of the shop's stations, oldest first.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", responses((status = 200, body = Vec<KeptCalibration>), crate::openapi::Problems)))]
#[get("/calibrations")]
pub async fn list(
    pool: &State<PgPool>,
    me: SignedIn,
) -> Result<Json<Vec<KeptCalibration>>, Problem> {
    Ok(all(calibration::list(pool.inner(), me.workshop).await?))
}

/// Keeps a check.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", params(("id" = Uuid, Path)), request_body = CalibrationBody,
    responses((status = 200, body = KeptCalibration), crate::openapi::Problems)))]
#[post("/stations/<id>/calibrations", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<CalibrationBody>,
) -> Result<Json<KeptCalibration>, Problem> {
    let body = body.0;
    let of = station::get(pool.inner(), me.workshop, id.0).await?;
    let mut c = Checker::default();
    if of.kind.scale() != Some(body.against.scale()) {
        c.refuse(
            "against",
            "A station of this kind cannot be checked against that.",
        );
    }
    let points = c.take(body.points());
    let note = c.take(text("note", &body.note, (0, 500)));
    let (points, note) = c.finish(points.zip(note))?;
    let new = NewCalibration {
        id: body.id.unwrap_or_else(Uuid::now_v7),
        against: body.against,
        points,
        note,
        done_at: body.done_at.unwrap_or_else(OffsetDateTime::now_utc),
    };
    Ok(one(calibration::create(
        pool.inner(),
        me.workshop,
        id.0,
        &new,
    )
    .await?))
}

/// Withdraws a check: kept and shown, no longer used.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop",
    params(("id" = Uuid, Path), ("calibration" = Uuid, Path)), responses((status = 204), crate::openapi::Problems)))]
#[delete("/stations/<id>/calibrations/<calibration>")]
pub async fn withdraw(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    calibration: Id,
) -> Result<Status, Problem> {
    calibration::withdraw(pool.inner(), me.workshop, id.0, calibration.0).await?;
    Ok(Status::NoContent)
}
