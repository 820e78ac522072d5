//! Photographs of a blade, and the hamon traced on them.

use crate::answers::finding::KeptFinding;
use crate::answers::photo::Photo;
use crate::answers::{all, one};
use crate::auth::SignedIn;
use crate::body::{Body, Id};
use crate::predictor::Predictor;
use crate::problem::Problem;
use rocket::data::{Data, ToByteUnit};
use rocket::http::{ContentType, Status};
use rocket::serde::json::Json;
use rocket::{State, delete, get, post};
use serde::Deserialize;
use std::sync::Arc;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_core::record::finding::Finding;
use vatten_core::record::picture::TwoPoints;
use vatten_store::finding::NewFinding;
use vatten_store::photo::NewPhoto;
use vatten_store::{PgPool, blade, finding, firing, photo};

/// Largest file that is taken.
const LIMIT_MIB: u64 = 20;

/// A hamon traced on a photograph.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct TraceBody {
    /// Id of the finding made by the client (UUID version 7).
    pub id: Option<Uuid>,
    /// Two points known in the picture and on the blade.
    pub scale: TwoPoints,
    /// The line, `[across, down]` in dots, 2 to 2000 places.
    pub line: Vec<[f64; 2]>,
    /// Width of its band, when measured, in dots.
    #[serde(default)]
    pub band_dots: Option<f64>,
    /// How clear it stands, 1 to 5.
    #[serde(default)]
    pub clarity: Option<u8>,
    /// How lively it runs, 1 to 5.
    #[serde(default)]
    pub liveliness: Option<u8>,
}

/// Photographs of a blade, oldest first.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "photos", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<Photo>), crate::openapi::Problems)))]
#[get("/blades/<id>/photos")]
pub async fn list(pool: &State<PgPool>, me: SignedIn, id: Id) -> Result<Json<Vec<Photo>>, Problem> {
    Ok(all(photo::of_blade(pool.inner(), me.workshop, id.0).await?))
}

/// Keeps a photograph, sent as it is: JPEG or PNG, up to 20 MB. Only the picture is kept.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "photos",
    params(("id" = Uuid, Path), ("photo_id" = Option<Uuid>, Query, description = "Id made by the client")),
    request_body(content = String, content_type = "application/octet-stream"),
    responses((status = 200, body = Photo), crate::openapi::Problems)))]
#[post("/blades/<id>/photos?<photo_id>", data = "<data>")]
pub async fn create(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
    photo_id: Option<&str>,
    data: Data<'_>,
) -> Result<Json<Photo>, Problem> {
    let of = blade::get(pool.inner(), me.workshop, id.0).await?;
    let new_id = match photo_id.map(Uuid::parse_str) {
        None => Uuid::now_v7(),
        Some(Ok(given)) => given,
        Some(Err(_)) => return Err(Faults::one("photo_id", "This is no id.").into()),
    };
    let limit = LIMIT_MIB.mebibytes();
    let broke = |_| Problem::new(Status::BadRequest, "The picture broke off on its way.");
    let bytes = data.open(limit).into_bytes().await.map_err(broke)?;
    if !bytes.is_complete() {
        let sentence = format!("This picture is larger than {limit}. Nothing was stored.");
        return Err(Problem::new(Status::PayloadTooLarge, sentence));
    }
    let bytes = bytes.into_inner();
    // Not before all of it has come: whoever sends slowly keeps nobody waiting.
    let turn = crate::picture::turn().await;
    let made = predictor
        .compute
        .run(move || crate::picture::read(&bytes))
        .await??;
    drop(turn);
    let side = |dots: u32| i32::try_from(dots).unwrap_or(i32::MAX);
    let new = NewPhoto {
        id: new_id,
        firing_id: of.firing_id,
        jpeg: &made.jpeg,
        size: (side(made.width), side(made.height)),
    };
    Ok(one(
        photo::create(pool.inner(), me.workshop, id.0, new).await?
    ))
}

/// The picture.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "photos",
    params(("id" = Uuid, Path), ("photo" = Uuid, Path)),
    responses((status = 200, content_type = "image/jpeg", body = String), crate::openapi::Problems)))]
#[get("/blades/<id>/photos/<photo>/picture")]
pub async fn picture(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    photo: Id,
) -> Result<(ContentType, Vec<u8>), Problem> {
    let jpeg = photo::jpeg(pool.inner(), me.workshop, id.0, photo.0).await?;
    Ok((ContentType::JPEG, jpeg))
}

/// Keeps the hamon traced on a photograph as a finding, turned into millimetres.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "photos",
    params(("id" = Uuid, Path), ("photo" = Uuid, Path)), request_body = TraceBody,
    responses((status = 200, body = KeptFinding), crate::openapi::Problems)))]
#[post("/blades/<id>/photos/<photo>/line", data = "<body>")]
pub async fn trace_line(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    photo: Id,
    body: Body<TraceBody>,
) -> Result<Json<KeptFinding>, Problem> {
    let body = body.0;
    let of = blade::get(pool.inner(), me.workshop, id.0).await?;
    // Heights are measured along the edge of the blade as it went into the fire.
    let outline = match of.firing_id {
        Some(fired) => {
            let made = firing::get(pool.inner(), me.workshop, fired).await?.made;
            made.work()?.form.outline().clone()
        }
        None => of.ready.form(&of.geometry()?)?.outline().clone(),
    };
    photo::jpeg(pool.inner(), me.workshop, id.0, photo.0).await?;
    let mut c = Checker::default();
    let laid = c.take(body.scale.lay().map_err(|f| f.under("scale")));
    let places = laid.and_then(|laid| c.take(laid.line(&body.line, &outline)));
    let (laid, places) = c.finish(laid.zip(places))?;
    let found = Finding::Line {
        second: false,
        places,
        band_mm: body.band_dots.map(|dots| dots * laid.mm_per_dot()),
        clarity: body.clarity,
        liveliness: body.liveliness,
        photo_id: Some(photo.0),
    };
    found.check()?;
    let new = NewFinding {
        id: body.id.unwrap_or_else(Uuid::now_v7),
        found,
        note: String::new(),
        found_at: OffsetDateTime::now_utc(),
    };
    let kept = finding::create(pool.inner(), me.workshop, id.0, &new).await?;
    photo::lay(pool.inner(), me.workshop, id.0, photo.0, &body.scale).await?;
    Ok(one(kept))
}

/// Withdraws a photograph.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "photos",
    params(("id" = Uuid, Path), ("photo" = Uuid, Path)), responses((status = 204), crate::openapi::Problems)))]
#[delete("/blades/<id>/photos/<photo>")]
pub async fn withdraw(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    photo: Id,
) -> Result<Status, Problem> {
    photo::withdraw(pool.inner(), me.workshop, id.0, photo.0).await?;
    Ok(Status::NoContent)
}
