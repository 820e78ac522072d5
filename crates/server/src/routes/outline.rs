//! Outlines: of a preset, and from drawing files.

use crate::auth::SignedIn;
use crate::body::Body;
use crate::predictor::Predictor;
use crate::problem::Problem;
use rocket::serde::json::Json;
use rocket::{State, post};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use vatten_core::geometry::blade::{Blade, BladeDraft};
use vatten_core::import::{self, DrawingUnit, Laying};

/// A drawing file, and how it is to be laid.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct OutlineFile {
    /// The file: SVG or DXF as text, up to 1 MB.
    #[cfg_attr(feature = "schema", schema(max_length = 1_000_000))]
    pub text: String,
    /// Its unit, where it does not say or says it wrongly.
    pub unit: Option<DrawingUnit>,
    /// The tip was drawn to the left.
    #[serde(default)]
    pub mirror: bool,
    /// The edge was drawn upwards.
    #[serde(default)]
    pub upside_down: bool,
    /// Which closed line, the largest first, from 0.
    #[serde(default)]
    pub which: usize,
    /// Where the heel is, mm from the end of the tang; found when left out.
    pub heel_mm: Option<f64>,
}

/// An outline read from a file.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OutlineRead {
    /// [x, y] in mm, heel at x = 0, edge down.
    pub outline: Vec<[f64; 2]>,
    /// Heel to tip, mm.
    pub length_mm: f64,
    /// Edge to spine at the widest, mm.
    pub width_mm: f64,
    /// The unit it was read in.
    pub unit: DrawingUnit,
    /// The file itself says its unit.
    pub unit_known: bool,
    /// Where the heel was taken to be, mm from the end of the tang.
    pub heel_mm: f64,
    /// Closed lines in the file.
    pub loops: usize,
}

/// The outline of a blade from its shape preset and size, mm. Nothing is stored.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "outlines", request_body = BladeDraft,
    responses((status = 200, body = Vec<[f64; 2]>), crate::openapi::Problems)))]
#[post("/outline", data = "<body>")]
pub async fn preset(_me: SignedIn, body: Body<BladeDraft>) -> Result<Json<Vec<[f64; 2]>>, Problem> {
    Ok(Json(Blade::parse(&body.0)?.outline()))
}

/// Reads the outline in a drawing file and lays it as a blade. Nothing is stored.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "outlines", request_body = OutlineFile,
    responses((status = 200, body = OutlineRead), crate::openapi::Problems)))]
#[post("/outline/file", data = "<body>")]
pub async fn file(
    predictor: &State<Arc<Predictor>>,
    _me: SignedIn,
    body: Body<OutlineFile>,
) -> Result<Json<OutlineRead>, Problem> {
    let file = body.0;
    let laid = predictor
        .compute
        .run(move || {
            let how = Laying {
                unit: file.unit,
                mirror: file.mirror,
                upside_down: file.upside_down,
                which: file.which,
                heel_mm: file.heel_mm,
            };
            import::lay(&import::read(&file.text)?, how)
        })
        .await??;
    Ok(Json(OutlineRead {
        length_mm: laid.outline.tip_mm(),
        width_mm: laid.outline.width_mm(),
        outline: laid.outline.points().to_vec(),
        unit: laid.unit,
        unit_known: laid.unit_known,
        heel_mm: laid.heel_mm,
        loops: laid.loops,
    }))
}
