//! The shop's own settings.

use crate::answers::one;
use crate::answers::workshop::Workshop;
use crate::auth::SignedIn;
use crate::body::{Body, text};
use crate::problem::Problem;
use rocket::serde::json::Json;
use rocket::{State, get, put};
use serde::Deserialize;
use vatten_core::quantity::validation::Checker;
use vatten_store::{Error, PgPool, workshop};

/// New settings.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Settings {
    /// Name of the shop.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 80))]
    pub name: String,
    /// `c` or `f`.
    #[cfg_attr(feature = "schema", schema(pattern = "^[cf]$"))]
    pub temperature_unit: String,
    /// `mm` or `in`.
    #[cfg_attr(feature = "schema", schema(pattern = "^(mm|in)$"))]
    pub length_unit: String,
    /// Time zone, for example `Europe/Stockholm`.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 64))]
    pub time_zone: String,
    /// Version these settings were read at.
    pub version: i64,
}

/// The shop.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", responses((status = 200, body = Workshop), crate::openapi::Problems)))]
#[get("/workshop")]
pub async fn get(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Workshop>, Problem> {
    Ok(one(workshop::get(pool.inner(), me.workshop).await?))
}

/// Saves the shop's settings.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", request_body = Settings,
    responses((status = 200, body = Workshop), crate::openapi::Problems)))]
#[put("/workshop", data = "<body>")]
pub async fn update(
    pool: &State<PgPool>,
    me: SignedIn,
    body: Body<Settings>,
) -> Result<Json<Workshop>, Problem> {
    let mut c = Checker::default();
    let name = c.take(text("name", &body.0.name, (1, 80)));
    let time_zone = c.take(text("time_zone", &body.0.time_zone, (1, 64)));
    if let Some(zone) = &time_zone
        && !workshop::knows_zone(pool.inner(), zone).await?
    {
        c.refuse_allowing(
            "time_zone",
            "There is no time zone of this name.",
            "a name like Europe/Stockholm",
        );
    }
    if !["c", "f"].contains(&body.0.temperature_unit.as_str()) {
        c.refuse_allowing("temperature_unit", "This is not a unit.", "c or f");
    }
    if !["mm", "in"].contains(&body.0.length_unit.as_str()) {
        c.refuse_allowing("length_unit", "This is not a unit.", "mm or in");
    }
    let (name, time_zone) = c.finish(name.zip(time_zone))?;
    let new = workshop::Workshop {
        id: me.workshop.uuid(),
        name,
        temperature_unit: body.0.temperature_unit,
        length_unit: body.0.length_unit,
        time_zone,
        version: body.0.version,
    };
    match workshop::update(pool.inner(), me.workshop, &new).await {
        Err(Error::Stale) => Err(Problem::stale(&Workshop::from(
            workshop::get(pool.inner(), me.workshop).await?,
        ))),
        other => Ok(one(other?)),
    }
}
