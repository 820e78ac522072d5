//! Forges, kilns, ovens and testers.

use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::problem::{Problem, Problems};
use rocket::serde::json::Json;
use rocket::{State, get, post, put};
use serde::Deserialize;
use uuid::Uuid;
use vatten_core::fault::Checker;
use vatten_store::station::{KINDS, Station};
use vatten_store::{Error, PgPool, station};

/// A station to add.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewStation {
    /// Id made by the client (UUID version 7); made here when left out.
    pub id: Option<Uuid>,
    /// `forge`, `kiln`, `oven` or `tester`.
    pub kind: String,
    /// Name.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
}

/// A new name for a station.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Rename {
    /// Name.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
    /// Version it was read at.
    pub version: i64,
}

/// All stations.
#[utoipa::path(context_path = "/api/v1", tag = "shop", responses((status = 200, body = Vec<Station>), Problems))]
#[get("/stations")]
pub async fn list(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<Station>>, Problem> {
    Ok(Json(station::list(pool, me.workshop).await?))
}

/// Adds a station.
#[utoipa::path(context_path = "/api/v1", tag = "shop", request_body = NewStation,
    responses((status = 200, body = Station), Problems))]
#[post("/stations", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    me: SignedIn,
    body: Body<NewStation>,
) -> Result<Json<Station>, Problem> {
    let mut c = Checker::default();
    let name = c.take(text("name", &body.0.name, (1, 80)));
    if !KINDS.contains(&body.0.kind.as_str()) {
        c.refuse_allowing(
            "kind",
            "There is no such kind of station.",
            KINDS.join(", "),
        );
    }
    let name = c.finish(name)?;
    let id = body.0.id.unwrap_or_else(Uuid::now_v7);
    Ok(Json(
        station::create(pool, me.workshop, id, &body.0.kind, &name).await?,
    ))
}

/// Renames a station.
#[utoipa::path(context_path = "/api/v1", tag = "shop", params(("id" = Uuid, Path)), request_body = Rename,
    responses((status = 200, body = Station), Problems))]
#[put("/stations/<id>", data = "<body>")]
pub async fn rename(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<Rename>,
) -> Result<Json<Station>, Problem> {
    let name = text("name", &body.0.name, (1, 80))?;
    match station::rename(pool, me.workshop, id.0, &name, body.0.version).await {
        Err(Error::Stale) => Err(Problem::stale(
            &station::get(pool, me.workshop, id.0).await?,
        )),
        other => Ok(Json(other?)),
    }
}
