//! Bars in stock, and what their layers bear together.

use crate::answers::bar::Bar;
use crate::answers::{all, one};
use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::materials::find_steel;
use crate::problem::Problem;
use crate::routes::blade::steel_ref;
use rocket::serde::json::Json;
use rocket::{State, get, post, put};
use serde::Deserialize;
use std::collections::BTreeMap;
use uuid::Uuid;
use vatten_core::material::analysis::Analysis;
use vatten_core::material::steel::Steel;
use vatten_core::prediction::laminate::{Layer, LayerDraft, Meeting, edge_of, edge_share, meet};
use vatten_core::process::bar::{BarSize, Condition};
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_store::bar::NewBar;
use vatten_store::{Error, PgPool, WorkshopId, bar};

/// A bar as a caller writes it.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct BarBody {
    /// Id made by the client (UUID version 7); made here when left out.
    pub id: Option<Uuid>,
    /// What it is called in the shop.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 60))]
    pub name: String,
    /// Designation of a built-in steel, or id of one of the shop's own; that of the edge layer where
    /// there are layers.
    pub steel: Option<String>,
    /// Kinds of layer of a bar made of several steels, exactly one of them the edge.
    #[serde(default)]
    pub layers: Vec<LayerDraft>,
    /// Size.
    pub size: BarSize,
    /// How it came.
    #[serde(default)]
    pub condition: Condition,
    /// The mill's own analysis, weight percent by symbol.
    pub analysis: Option<BTreeMap<String, f64>>,
    /// Remark.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(max_length = 500))]
    pub note: String,
    /// Version it was read at, when changing one.
    #[serde(default)]
    pub version: i64,
}

/// Layers to be looked at together.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct MeetBody {
    /// Two to six kinds of layer, exactly one of them the edge.
    pub layers: Vec<LayerDraft>,
}

/// The steels of layers: the edge, and the others.
async fn steels_of(
    pool: &PgPool,
    id: WorkshopId,
    layers: &[LayerDraft],
) -> Result<Option<(Steel, Vec<Layer>)>, Problem> {
    let Some(edge) = edge_of(layers)? else {
        return Ok(None);
    };
    let mut c = Checker::default();
    let mut found = Vec::new();
    for (i, layer) in layers.iter().enumerate() {
        match find_steel(pool, id, &layer.steel).await {
            Ok(steel) => found.push(Layer {
                role: layer.role,
                steel,
            }),
            Err(problem) if problem.status == 422 => {
                c.take::<()>(Err(Faults(problem.fields).under(&format!("layers[{i}]"))));
            }
            Err(problem) => return Err(problem),
        }
    }
    let mut found = c.finish(Some(found))?;
    let edge = found.remove(edge).steel;
    Ok(Some((edge, found)))
}

impl BarBody {
    async fn check(&self, pool: &PgPool, id: WorkshopId) -> Result<NewBar, Problem> {
        let mut c = Checker::default();
        let name = c.take(text("name", &self.name, (1, 60)));
        let note = c.take(text("note", &self.note, (0, 500)));
        c.take(self.size.check().map_err(|f| f.under("size")));
        let analysis = self
            .analysis
            .as_ref()
            .and_then(|a| c.take(Analysis::parse(a).map_err(|f| f.under("analysis"))));
        c.take(edge_share(&self.layers, self.size.thickness_mm));
        let layered = match steels_of(pool, id, &self.layers).await {
            Ok(found) => found,
            Err(problem) if problem.status == 422 => c.take(Err(Faults(problem.fields))),
            Err(problem) => return Err(problem),
        };
        let steel = match (layered, self.steel.as_deref()) {
            (Some((edge, _)), _) => Some(edge),
            (None, Some(text)) => match find_steel(pool, id, text).await {
                Ok(steel) => Some(steel),
                Err(problem) if problem.status == 422 => c.take(Err(Faults(problem.fields))),
                Err(problem) => return Err(problem),
            },
            (None, None) => {
                if self.layers.is_empty() {
                    c.refuse("steel", "A steel is needed.");
                }
                None
            }
        };
        let parts = name.zip(note).zip(steel);
        let ((name, note), steel) = c.finish(parts)?;
        Ok(NewBar {
            name,
            steel: steel_ref(&steel),
            layers: self.layers.clone(),
            size: self.size,
            condition: self.condition,
            analysis,
            note,
        })
    }
}

/// Every bar in stock.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", responses((status = 200, body = Vec<Bar>), crate::openapi::Problems)))]
#[get("/bars")]
pub async fn list(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<Bar>>, Problem> {
    Ok(all(bar::list(pool.inner(), me.workshop).await?))
}

/// Brings a bar into stock.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", request_body = BarBody,
    responses((status = 200, body = Bar), crate::openapi::Problems)))]
#[post("/bars", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    me: SignedIn,
    body: Body<BarBody>,
) -> Result<Json<Bar>, Problem> {
    let new = body.0.check(pool, me.workshop).await?;
    let id = body.0.id.unwrap_or_else(Uuid::now_v7);
    Ok(one(bar::create(pool.inner(), me.workshop, id, &new).await?))
}

/// Changes a bar: what is left of it, above all.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", params(("id" = Uuid, Path)), request_body = BarBody,
    responses((status = 200, body = Bar), crate::openapi::Problems)))]
#[put("/bars/<id>", data = "<body>")]
pub async fn update(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<BarBody>,
) -> Result<Json<Bar>, Problem> {
    bar::get(pool.inner(), me.workshop, id.0).await?;
    let new = body.0.check(pool, me.workshop).await?;
    match bar::update(pool.inner(), me.workshop, id.0, &new, body.0.version).await {
        Err(Error::Stale) => Err(Problem::stale(&Bar::from(
            bar::get(pool.inner(), me.workshop, id.0).await?,
        ))),
        other => Ok(one(other?)),
    }
}

/// What the layers of a bar bear together. Nothing is stored.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", request_body = MeetBody,
    responses((status = 200, body = Meeting), crate::openapi::Problems)))]
#[post("/steels/meet", data = "<body>")]
pub async fn meeting(
    pool: &State<PgPool>,
    me: SignedIn,
    body: Body<MeetBody>,
) -> Result<Json<Meeting>, Problem> {
    match steels_of(pool, me.workshop, &body.0.layers).await? {
        Some((edge, others)) => Ok(Json(meet(&edge, &others))),
        None => {
            Err(Faults::with_allowed("layers", "There is nothing to look at.", "2 to 6").into())
        }
    }
}
