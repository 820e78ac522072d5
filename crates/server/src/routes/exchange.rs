//! A whole shop in and out.

use crate::auth::SignedIn;
use crate::exchange::{self, ImportReport};
use crate::predictor::Predictor;
use crate::problem::Problem;
use rocket::data::{Data, ToByteUnit};
use rocket::http::{ContentType, Status};
use rocket::response::stream::ByteStream;
use rocket::serde::json::Json;
use rocket::{State, get, post};
use std::path::PathBuf;
use std::sync::Arc;
use uuid::Uuid;
use vatten_store::PgPool;

/// Largest file that is brought in: a large shop of twenty years, without its pictures.
const LIMIT_GIB: u64 = 8;

/// The whole shop as one file in the open exchange format.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", responses((status = 200, body = exchange::ExchangeFile), crate::openapi::Problems)))]
#[get("/export")]
pub async fn export(
    pool: &State<PgPool>,
    me: SignedIn,
) -> Result<(ContentType, ByteStream![Vec<u8>]), Problem> {
    let mut pieces = exchange::export(pool, me.workshop).await?;
    let stream = ByteStream! {
        while let Some(piece) = pieces.recv().await {
            yield piece;
        }
    };
    Ok((ContentType::JSON, stream))
}

/// A file on its way in, gone when this is.
struct Scratch(PathBuf);

impl Drop for Scratch {
    fn drop(&mut self) {
        let _ = std::fs::remove_file(&self.0);
    }
}

/// Brings a file in the open exchange format into the shop, at most 8 GiB: all of it or nothing.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", request_body = exchange::ExchangeFile,
    responses((status = 200, body = ImportReport), crate::openapi::Problems)))]
#[post("/import", data = "<data>", format = "json")]
pub async fn import(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    data: Data<'_>,
) -> Result<Json<ImportReport>, Problem> {
    let limit = LIMIT_GIB.gibibytes();
    let scratch = Scratch(std::env::temp_dir().join(format!("vatten-import-{}", Uuid::now_v7())));
    let kept = data.open(limit).into_file(&scratch.0).await;
    let kept = kept.map_err(|_| {
        let sentence = "The file broke off on its way. Nothing was stored.";
        Problem::new(Status::BadRequest, sentence)
    })?;
    if !kept.is_complete() {
        let sentence = format!("This file is larger than {limit}. Nothing was stored.");
        return Err(Problem::new(Status::PayloadTooLarge, sentence));
    }
    let report = exchange::import(pool, predictor, me.workshop, &scratch.0, false).await?;
    Ok(Json(report))
}
