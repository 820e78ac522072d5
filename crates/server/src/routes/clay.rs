//! The clay of a blade.

use crate::answers::clay::BladeClay;
use crate::answers::one;
use crate::auth::SignedIn;
use crate::body::{Body, Id};
use crate::clay_sheet::clay_sheet;
use crate::predictor::Predictor;
use crate::problem::Problem;
use crate::words::LengthUnit;
use rocket::http::ContentType;
use rocket::serde::json::Json;
use rocket::{Responder, State, get, put};
use serde::Deserialize;
use std::sync::Arc;
use vatten_core::geometry::clay::{Clay, ClayDraft};
use vatten_core::quantity::validation::{Checker, Faults, Unit};
use vatten_store::{Error, PgPool, blade, clay};

/// Clay to be saved.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct ClayBody {
    /// As painted.
    #[serde(default)]
    pub clay: ClayDraft,
    /// The line that is wanted: [x, height above the edge], mm, from heel to tip, at most 200 points.
    #[serde(default)]
    pub wanted: Vec<[f64; 2]>,
    /// Version it was read at; 0 before the first.
    #[serde(default)]
    pub version: i64,
}

/// Most points of a wanted line.
pub const MAX_WANTED: usize = 200;

/// Checks a wanted line; faults at `wanted` and `wanted[i][1]`.
pub fn check_wanted(c: &mut Checker, wanted: &[[f64; 2]]) {
    if wanted.len() > MAX_WANTED {
        c.refuse_allowing(
            "wanted",
            "The line has more points than can be held.",
            format!("0 to {MAX_WANTED} points"),
        );
    }
    let mut within = |field: String, value: f64, (low, high): (f64, f64)| {
        if !(low..=high).contains(&value) {
            c.refuse_outside(
                field,
                "This is not possible.",
                (low, high),
                Unit::Millimetre,
            );
        }
    };
    for (i, [x, height]) in wanted.iter().enumerate().take(MAX_WANTED) {
        within(format!("wanted[{i}][0]"), *x, (-1500.0, 1500.0));
        within(format!("wanted[{i}][1]"), *height, (0.5, 300.0));
    }
    if wanted.windows(2).any(|w| w[1][0] <= w[0][0]) {
        c.refuse("wanted", "The points must run from heel to tip.");
    }
}

/// The clay of a blade; bare with version 0 before any was painted.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades", params(("id" = uuid::Uuid, Path)),
    responses((status = 200, body = BladeClay), crate::openapi::Problems)))]
#[get("/blades/<id>/clay")]
pub async fn get(pool: &State<PgPool>, me: SignedIn, id: Id) -> Result<Json<BladeClay>, Problem> {
    Ok(one(clay::get(pool.inner(), me.workshop, id.0).await?))
}

/// Saves the clay of a blade.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades", params(("id" = uuid::Uuid, Path)), request_body = ClayBody,
    responses((status = 200, body = BladeClay), crate::openapi::Problems)))]
#[put("/blades/<id>/clay", data = "<body>")]
pub async fn save(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<ClayBody>,
) -> Result<Json<BladeClay>, Problem> {
    let ClayBody {
        clay: draft,
        wanted,
        version,
    } = body.0;
    let mut c = Checker::default();
    c.take(Clay::parse(&draft).map_err(|f| f.under("clay")));
    check_wanted(&mut c, &wanted);
    c.finish(Some(()))?;
    match clay::save(
        pool.inner(),
        me.workshop,
        id.0,
        &draft,
        &wanted,
        version,
        Some(me.person_id),
    )
    .await
    {
        Err(Error::Stale) => Err(Problem::stale(&BladeClay::from(
            clay::get(pool.inner(), me.workshop, id.0).await?,
        ))),
        other => Ok(one(other?)),
    }
}

/// A drawing to print.
#[derive(Responder)]
pub enum Drawing {
    /// As SVG.
    Svg(String, ContentType),
    /// As PDF.
    Pdf(Vec<u8>, ContentType),
}

/// The clay of a blade at 1:1, with a ruler to check the printer: `sheet.svg` or `sheet.pdf` (A4 lying).
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades",
    params(("id" = uuid::Uuid, Path), ("file" = String, Path, description = "`sheet.svg` or `sheet.pdf`"),
        ("units" = Option<String>, Query, description = "What lengths are written in: `mm`, unless `in`")),
    responses((status = 200, body = String, content_type = "image/svg+xml"), crate::openapi::Problems)))]
#[get("/blades/<id>/clay/<file>?<units>")]
pub async fn sheet(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
    file: &str,
    units: Option<&str>,
) -> Result<Drawing, Problem> {
    let unit = match units.map(LengthUnit::parse) {
        None => LengthUnit::Millimetre,
        Some(Some(unit)) => unit,
        Some(None) => {
            return Err(Faults::with_allowed("units", "This is not a unit.", "mm or in").into());
        }
    };
    let blade = blade::get(pool.inner(), me.workshop, id.0).await?;
    let stored = clay::get(pool.inner(), me.workshop, id.0).await?;
    let form = blade.ready.form(&blade.geometry()?)?;
    let painted = Clay::parse(&stored.clay)?;
    let title = format!("{} {} · clay at 1:1", blade.mark, blade.name);
    let draw = move || clay_sheet(&title, &form, &painted, &stored.wanted, unit);
    match file {
        "sheet.svg" => {
            let text = predictor.compute.run(move || draw().svg()).await?;
            Ok(Drawing::Svg(text, ContentType::SVG))
        }
        "sheet.pdf" => {
            let bytes = predictor.compute.run(move || draw().pdf()).await?;
            Ok(Drawing::Pdf(bytes, ContentType::PDF))
        }
        _ => Err(Problem::not_found()),
    }
}
