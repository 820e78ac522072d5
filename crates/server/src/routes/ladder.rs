//! Ladders of heats and of tempers on steel that is known.

use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::materials::{check_stations, find_steel, fire};
use crate::predictor::Predictor;
use crate::prepared_blade::corrections_now;
use crate::problem::Problem;
use rocket::response::status::NoContent;
use rocket::serde::json::Json;
use rocket::{State, delete, get, post, put};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::prediction::rung::{Shop, expected};
use vatten_core::process::calibration::Corrections;
use vatten_core::process::furnace::Furnace;
use vatten_core::process::station::StationKind;
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_core::record::ladder::{Along, Expected, Found, Ladder, NextRung, Rung, Treatment};
use vatten_store::ladder::{LadderRow, NewLadder};
use vatten_store::station::Station;
use vatten_store::{Error, PgPool, WorkshopId, ladder, station};

/// A ladder with what is to be expected of it, and what it says.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LadderView {
    /// Id.
    pub id: Uuid,
    /// What it is called.
    pub name: String,
    /// Key of its steel.
    pub steel: String,
    /// Name of its steel.
    pub steel_name: String,
    /// What differs from rung to rung.
    pub along: Along,
    /// What does not.
    pub treatment: Treatment,
    /// The coupons, from cool to hot.
    pub rungs: Vec<Rung>,
    /// What is to be expected of each rung.
    pub expected: Vec<Expected>,
    /// What it says; none before three coupons were tried.
    pub found: Option<Found>,
    /// A coupon that would tell where it ends.
    pub next: Option<NextRung>,
    /// Goes up with every change.
    pub version: i64,
    /// When it began.
    #[serde(with = "time::serde::rfc3339")]
    pub created_at: OffsetDateTime,
}

/// What a shop's ladders are told by.
struct Known {
    stations: Vec<Station>,
    corrections: Arc<Corrections>,
}

impl Known {
    async fn read(pool: &PgPool, id: WorkshopId) -> Result<Self, Problem> {
        Ok(Self {
            stations: station::list(pool, id).await?,
            corrections: corrections_now(pool, id).await?,
        })
    }

    fn fire(&self, of: &Ladder) -> Furnace {
        let rung = of.rungs.first();
        rung.map_or(Furnace::Kiln, |r| fire(&self.stations, &of.plan(r)))
    }
}

async fn view(
    pool: &PgPool,
    predictor: &Predictor,
    workshop: WorkshopId,
    row: LadderRow,
) -> Result<LadderView, Problem> {
    let steel = find_steel(pool, workshop, &row.of.steel).await?;
    let known = Known::read(pool, workshop).await?;
    let learned = predictor.models.current(pool, workshop).await?;
    let LadderRow {
        id,
        of: NewLadder { name, ladder, .. },
        version,
        created_at,
    } = row;
    let told = predictor.compute.run(move || {
        let shop = Shop {
            model: &learned.model,
            corrections: &known.corrections,
            fire: known.fire(&ladder),
            operator: learned.biases.operator.as_ref(),
        };
        let expected = expected(&ladder, &steel, shop);
        (expected, ladder, steel)
    });
    let (expected, ladder, steel) = told.await?;
    Ok(LadderView {
        id,
        name,
        steel_name: steel.name.clone(),
        found: ladder.found(&expected),
        next: ladder.next(&steel),
        steel: steel.key,
        along: ladder.along,
        treatment: ladder.treatment,
        rungs: ladder.rungs,
        expected,
        version,
        created_at,
    })
}

/// A ladder in a list.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LadderLine {
    /// Id.
    pub id: Uuid,
    /// What it is called.
    pub name: String,
    /// Key of its steel.
    pub steel: String,
    /// What differs from rung to rung.
    pub along: Along,
    /// How many coupons it has.
    pub coupons: usize,
    /// How many of them were read.
    pub read: usize,
}

impl From<LadderRow> for LadderLine {
    fn from(row: LadderRow) -> Self {
        let rungs = &row.of.ladder.rungs;
        let tried = |r: &&Rung| r.hardness().is_some() || r.file.is_some();
        Self {
            id: row.id,
            along: row.of.ladder.along,
            coupons: rungs.len(),
            read: rungs.iter().filter(tried).count(),
            name: row.of.name,
            steel: row.of.steel,
        }
    }
}

/// A ladder to be begun.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct BeginLadder {
    /// Id made by the client (UUID version 7); made here when left out.
    pub id: Option<Uuid>,
    /// What it is called.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 60))]
    pub name: String,
    /// Key of the table, or id of a steel of the shop.
    pub steel: String,
    /// What differs from rung to rung.
    pub along: Along,
    /// What does not; as is usual for the steel when left out.
    #[serde(default)]
    pub treatment: Option<Treatment>,
    /// The coupons; five about what is usual for the steel when left out.
    #[serde(default)]
    pub rungs: Option<Vec<Rung>>,
}

/// A ladder as it is changed, or with what was read of it.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct LadderBody {
    /// What it is called.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 60))]
    pub name: String,
    /// What all coupons go through.
    pub treatment: Treatment,
    /// The coupons, 1 to 12.
    pub rungs: Vec<Rung>,
    /// Version it was read at.
    pub version: i64,
}

/// Checks a ladder with the stations that it names.
///
/// # Errors
/// Faults at `name`, `treatment.…`, `rungs[…].…`.
pub fn check(name: &str, ladder: Ladder, stations: &[Station]) -> Result<(String, Ladder), Faults> {
    let mut c = Checker::default();
    let name = c.take(text("name", name, (1, 60)));
    let tester = ladder.treatment.tester;
    let is_tester = |s: &Station| Some(s.id) == tester && s.kind == StationKind::Tester;
    if tester.is_some() && !stations.iter().any(is_tester) {
        c.refuse("treatment.tester", "The shop has no such tester.");
    }
    if let Some(rung) = ladder.rungs.first() {
        let named = check_stations(&ladder.plan(rung), stations);
        if named.is_err() {
            c.refuse("treatment.stations", "The shop has no such station.");
        }
    }
    let ladder = c.take(ladder.checked());
    c.finish(name.zip(ladder))
}

/// Every ladder, newest first.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", responses((status = 200, body = Vec<LadderLine>), crate::openapi::Problems)))]
#[get("/ladders")]
pub async fn list(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<LadderLine>>, Problem> {
    let all = ladder::list(pool.inner(), me.workshop).await?;
    Ok(Json(all.into_iter().map(LadderLine::from).collect()))
}

/// One ladder, with what is to be expected of each rung and what it says.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", params(("id" = Uuid, Path)),
    responses((status = 200, body = LadderView), crate::openapi::Problems)))]
#[get("/ladders/<id>")]
pub async fn get(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
) -> Result<Json<LadderView>, Problem> {
    let found = ladder::get(pool.inner(), me.workshop, id.0).await?;
    Ok(Json(view(pool, predictor, me.workshop, found).await?))
}

/// Begins a ladder.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", request_body = BeginLadder,
    responses((status = 200, body = LadderView), crate::openapi::Problems)))]
#[post("/ladders", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    body: Body<BeginLadder>,
) -> Result<Json<LadderView>, Problem> {
    let body = body.0;
    let steel = find_steel(pool, me.workshop, &body.steel).await?;
    let usual = Ladder::usual(body.along, &steel);
    let ladder = Ladder {
        along: body.along,
        treatment: body.treatment.unwrap_or(usual.treatment),
        rungs: body.rungs.unwrap_or(usual.rungs),
    };
    let stations = station::list(pool.inner(), me.workshop).await?;
    let (name, ladder) = check(&body.name, ladder, &stations)?;
    let id = body.id.unwrap_or_else(Uuid::now_v7);
    let new = NewLadder {
        name,
        steel: steel.key,
        ladder,
    };
    let made = ladder::create(pool.inner(), me.workshop, id, &new).await?;
    Ok(Json(view(pool, predictor, me.workshop, made).await?))
}

/// Changes a ladder, or keeps what was read of it.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", params(("id" = Uuid, Path)), request_body = LadderBody,
    responses((status = 200, body = LadderView), crate::openapi::Problems)))]
#[put("/ladders/<id>", data = "<body>")]
pub async fn save(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
    body: Body<LadderBody>,
) -> Result<Json<LadderView>, Problem> {
    let known = ladder::get(pool.inner(), me.workshop, id.0).await?;
    let LadderBody {
        name,
        treatment,
        rungs,
        version,
    } = body.0;
    let ladder = Ladder {
        along: known.of.ladder.along,
        treatment,
        rungs,
    };
    let stations = station::list(pool.inner(), me.workshop).await?;
    let (name, ladder) = check(&name, ladder, &stations)?;
    let new = NewLadder {
        name,
        steel: known.of.steel,
        ladder,
    };
    match ladder::update(pool.inner(), me.workshop, id.0, &new, version).await {
        Err(Error::Stale) => {
            let now = ladder::get(pool.inner(), me.workshop, id.0).await?;
            let now = view(pool, predictor, me.workshop, now).await?;
            Err(Problem::stale(&now))
        }
        saved => Ok(Json(view(pool, predictor, me.workshop, saved?).await?)),
    }
}

/// Takes a ladder away, with all that was read of it.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", params(("id" = Uuid, Path)),
    responses((status = 204), crate::openapi::Problems)))]
#[delete("/ladders/<id>")]
pub async fn remove(pool: &State<PgPool>, me: SignedIn, id: Id) -> Result<NoContent, Problem> {
    ladder::delete(pool.inner(), me.workshop, id.0).await?;
    Ok(NoContent)
}
