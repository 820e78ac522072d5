//! A whole shop in and out.

use crate::auth::SignedIn;
use crate::body::Body;
use crate::exchange::{self, ExchangeFile, ImportReport};
use crate::predictor::Predictor;
use crate::problem::{Problem, Problems};
use rocket::serde::json::Json;
use rocket::{State, get, post};
use std::sync::Arc;
use vatten_store::PgPool;

/// The whole shop as one file in the open exchange format.
#[utoipa::path(context_path = "/api/v1", tag = "shop", responses((status = 200, body = ExchangeFile), Problems))]
#[get("/export")]
pub async fn export(pool: &State<PgPool>, me: SignedIn) -> Result<Json<ExchangeFile>, Problem> {
    Ok(Json(exchange::export(pool, me.workshop).await?))
}

/// Brings a file in the open exchange format into the shop, at most 16 MiB.
#[utoipa::path(context_path = "/api/v1", tag = "shop", request_body = ExchangeFile,
    responses((status = 200, body = ImportReport), Problems))]
#[post("/import", data = "<body>")]
pub async fn import(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    body: Body<ExchangeFile>,
) -> Result<Json<ImportReport>, Problem> {
    Ok(Json(
        exchange::import(pool, predictor, me.workshop, &body.0, false).await?,
    ))
}
