//! Steels: the built-in table and the shop's own.

use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::materials::find_steel;
use crate::predictor::Predictor;
use crate::problem::Problem;
use rocket::serde::json::Json;
use rocket::{State, get, post, put};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::Arc;
use uuid::Uuid;
use vatten_core::material::analysis::Analysis;
use vatten_core::material::designation::{self, Designation, designations_of};
use vatten_core::material::purpose::{Purpose, Suits, suits};
use vatten_core::material::steel::{Hardening, Origin, Steel, SubZero};
use vatten_core::quantity::units::{Celsius, Quantity};
use vatten_core::quantity::validation::Checker;
use vatten_core::record::trial::Estimate;
use vatten_store::steel::HouseSteel;
use vatten_store::{Error, PgPool, steel};

/// A steel with its windows and typical curve.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SteelView {
    /// Key of a built-in steel, or id of one of the shop's own.
    pub key: String,
    /// Name.
    pub name: String,
    /// Other designations.
    pub equivalent: String,
    /// Kind, in words.
    pub family: String,
    /// How it hardens.
    pub hardening: Hardening,
    /// Analysis, weight percent.
    pub analysis: Analysis,
    /// One of the shop's own.
    pub house: bool,
    /// Version of one of the shop's own; 0 for the table's.
    pub version: i64,
    /// How unlike the nearest steel of the table one of the shop's own is.
    pub distance: Option<f64>,
    /// How far its hardness as quenched may be off before any record, one standard deviation, HRC.
    pub spread_hrc: f64,
    /// How sure the values of its rows are to either side, HRC; none for one of the shop's own. Half as much again
    /// above 540 °C.
    pub row_hrc: Option<f64>,
    /// The formulas were tried for analyses like this.
    pub formulas_hold: bool,
    /// Start of austenite, °C.
    pub ac1_c: f64,
    /// Ac3 or Acm, °C.
    pub upper_c: f64,
    /// The upper line is Ac3.
    pub upper_is_ac3: bool,
    /// Martensite start after the nominal soak, °C.
    pub martensite_start_c: f64,
    /// Normalizing, °C.
    pub normalize_c: Option<f64>,
    /// Annealing, °C.
    pub anneal_c: f64,
    /// Austenitizing, lowest, °C.
    pub austenitize_low_c: f64,
    /// Austenitizing, nominal, °C.
    pub austenitize_c: f64,
    /// Austenitizing, highest, °C.
    pub austenitize_high_c: f64,
    /// Usual soak, s.
    pub soak_s: f64,
    /// Grain coarsens above, °C.
    pub coarsening_c: f64,
    /// Typical as-quenched hardness, HRC.
    pub as_quenched_hrc: f64,
    /// Typical austenite left over at room temperature, percent.
    pub retained_percent: f64,
    /// Media that suit it, best first.
    pub media: Vec<&'static str>,
    /// A few seconds of water, then oil, suits it.
    pub water_then_oil: bool,
    /// Whether sub-zero pays.
    pub sub_zero: SubZero,
    /// Typical hardness after two tempers of two hours: °C, HRC.
    pub temper_curve: Vec<[f64; 2]>,
    /// What it serves for.
    pub suits: Vec<Suits>,
    /// What a coupon trial found out, when it was made by one.
    pub estimate: Option<Estimate>,
    /// What it is called in other standards.
    pub designations: Vec<Designation>,
}

/// A steel that was found by a name.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FoundSteel {
    /// Key of a built-in steel, or id of one of the shop's own.
    pub key: String,
    /// Its own name.
    pub name: String,
    /// One of the shop's own.
    pub house: bool,
    /// The designation it was found by, when that is not its own name.
    pub by: Option<Designation>,
}

/// A result of the shop on a steel.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SteelPoint {
    /// Mark of the blade.
    pub mark: String,
    /// Hottest temper as done, °C.
    pub temper_c: f64,
    /// Mean of the readings, HRC.
    pub measured_hrc: f64,
    /// What physics says of it, HRC.
    pub physics_hrc: f64,
}

/// How sure the values of the table are, HRC: as its head says, and half as much again above 540 °C and for
/// high-speed steel.
const ROW_HRC: f64 = 1.0;
/// Temperatures of the drawn curve, °C.
const CURVE_C: (i32, i32, usize) = (120, 650, 10);

impl SteelView {
    /// The view of a steel; `version` is 0 for the table's.
    pub fn new(steel: &Steel, version: i64) -> Self {
        let d = steel.nominal_dissolved();
        let typical = steel.typical();
        let (as_quenched_hrc, retained_percent) = steel.nominal_hrc(20.0);
        Self {
            key: steel.key.clone(),
            name: steel.name.clone(),
            equivalent: steel.equivalent.clone(),
            family: steel.family.clone(),
            hardening: steel.hardening,
            analysis: steel.analysis,
            house: steel.origin != Origin::Table,
            version,
            distance: match steel.origin {
                Origin::Table | Origin::Trial { .. } | Origin::Reclaimed { .. } => None,
                Origin::Analysis { distance } => Some(distance),
            },
            spread_hrc: steel.spread_hrc(),
            row_hrc: (steel.origin == Origin::Table).then_some(ROW_HRC),
            formulas_hold: steel.analysis.formulas_hold(),
            ac1_c: steel.ac1_c,
            upper_c: steel.ac3_or_acm_c,
            upper_is_ac3: steel.is_lean(),
            martensite_start_c: d.martensite_start_c,
            normalize_c: steel.normalize.map(Celsius::value),
            anneal_c: steel.anneal.value(),
            austenitize_low_c: steel.austenitize.low.value(),
            austenitize_c: steel.austenitize.nominal.value(),
            austenitize_high_c: steel.austenitize.high.value(),
            soak_s: steel.soak.value(),
            coarsening_c: steel.coarsening_c,
            as_quenched_hrc,
            retained_percent,
            media: steel.media.iter().map(|m| m.id()).collect(),
            water_then_oil: steel.water_then_oil,
            sub_zero: steel.sub_zero,
            temper_curve: (CURVE_C.0..=CURVE_C.1)
                .step_by(CURVE_C.2)
                .map(|t| {
                    let t = Celsius::clamped(f64::from(t));
                    [t.value(), typical.tempered_hrc(t)]
                })
                .collect(),
            suits: Purpose::ALL.iter().map(|p| suits(steel, *p)).collect(),
            estimate: None,
            designations: designations_of(&steel.key).cloned().collect(),
        }
    }

    pub fn house(row: &HouseSteel) -> Self {
        Self {
            estimate: row.estimate.clone(),
            ..Self::new(&row.steel(), row.version)
        }
    }
}

/// A steel of the shop's own.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SteelBody {
    /// Id made by the client (UUID version 7); made here when left out.
    pub id: Option<Uuid>,
    /// Name.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 60))]
    pub name: String,
    /// Weight percent by symbol: C, Si, Mn, Cr, Ni, Mo, W, V, N, Co, Nb.
    pub analysis: BTreeMap<String, f64>,
    /// Version it was read at, when changing one.
    #[serde(default)]
    pub version: i64,
}

impl SteelBody {
    fn check(&self) -> Result<(String, Analysis), Problem> {
        let mut c = Checker::default();
        let name = c.take(text("name", &self.name, (1, 60)));
        if name
            .as_deref()
            .is_some_and(|n| Steel::built_in(n).is_some())
        {
            c.refuse(
                "name",
                "The table has a steel of this name; call yours something else.",
            );
        }
        let analysis = c.take(Analysis::parse(&self.analysis).map_err(|f| f.under("analysis")));
        Ok(c.finish(name.zip(analysis))?)
    }
}

/// Every steel: the table, then the shop's own.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", responses((status = 200, body = Vec<SteelView>), crate::openapi::Problems)))]
#[get("/steels")]
pub async fn list(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
) -> Result<Json<Vec<SteelView>>, Problem> {
    predictor.models.narrow(pool, me.workshop).await?;
    let house = steel::list(pool.inner(), me.workshop).await?;
    let table = Steel::table().iter().map(|s| SteelView::new(s, 0));
    Ok(Json(
        table.chain(house.iter().map(SteelView::house)).collect(),
    ))
}

/// Steels that a name fits, best first: any standard's designation, or what the shop calls its own. Case,
/// spaces and points do not count.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", params(("name" = String, Query, description = "A name or the beginning of one, up to 60 characters.")),
    responses((status = 200, body = Vec<FoundSteel>), crate::openapi::Problems)))]
#[get("/steels/search?<name>")]
pub async fn search(
    pool: &State<PgPool>,
    me: SignedIn,
    name: &str,
) -> Result<Json<Vec<FoundSteel>>, Problem> {
    text("name", name, (0, 60))?;
    let house = steel::list(pool.inner(), me.workshop).await?;
    let own = house.iter().filter_map(|s| {
        let found = FoundSteel {
            key: s.id.to_string(),
            name: s.name.clone(),
            house: true,
            by: None,
        };
        Some((designation::fit(&s.name, name)?, None, found))
    });
    let table = designation::search(name).into_iter().map(|f| {
        let found = FoundSteel {
            key: f.steel.key.clone(),
            name: f.steel.name.clone(),
            house: false,
            by: f.by.cloned(),
        };
        (f.fit, f.by.map(|d| d.likeness), found)
    });
    let mut all: Vec<_> = own.chain(table).collect();
    all.sort_by_key(|(fit, likeness, _)| (*fit, *likeness));
    Ok(Json(all.into_iter().map(|(.., found)| found).collect()))
}

/// One of the shop's own steels.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", params(("id" = Uuid, Path)),
    responses((status = 200, body = SteelView), crate::openapi::Problems)))]
#[get("/steels/<id>")]
pub async fn get(pool: &State<PgPool>, me: SignedIn, id: Id) -> Result<Json<SteelView>, Problem> {
    Ok(Json(SteelView::house(
        &steel::get(pool.inner(), me.workshop, id.0).await?,
    )))
}

/// Adds a steel of the shop's own by its analysis.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", request_body = SteelBody,
    responses((status = 200, body = SteelView), crate::openapi::Problems)))]
#[post("/steels", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    me: SignedIn,
    body: Body<SteelBody>,
) -> Result<Json<SteelView>, Problem> {
    let (name, analysis) = body.0.check()?;
    let id = body.0.id.unwrap_or_else(Uuid::now_v7);
    Ok(Json(SteelView::house(
        &steel::create(pool.inner(), me.workshop, id, &name, &analysis, None).await?,
    )))
}

/// Changes one of the shop's own steels.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", params(("id" = Uuid, Path)), request_body = SteelBody,
    responses((status = 200, body = SteelView), crate::openapi::Problems)))]
#[put("/steels/<id>", data = "<body>")]
pub async fn update(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<SteelBody>,
) -> Result<Json<SteelView>, Problem> {
    let (name, analysis) = body.0.check()?;
    let version = body.0.version;
    match steel::update(pool.inner(), me.workshop, id.0, &name, &analysis, version).await {
        Err(Error::Stale) => {
            let current = steel::get(pool.inner(), me.workshop, id.0).await?;
            Err(Problem::stale(&SteelView::house(&current)))
        }
        other => Ok(Json(SteelView::house(&other?))),
    }
}

/// The shop's own tempered results on a steel, oldest first.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "steels", params(("key" = String, Path)),
    responses((status = 200, body = Vec<SteelPoint>), crate::openapi::Problems)))]
#[get("/steels/<key>/points")]
pub async fn points(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    key: &str,
) -> Result<Json<Vec<SteelPoint>>, Problem> {
    let steel = find_steel(pool, me.workshop, key)
        .await
        .map_err(|_| Problem::not_found())?;
    let learned = predictor.models.current(pool, me.workshop).await?;
    let all = learned.model.records().iter();
    Ok(Json(
        all.filter(|r| r.features.steel == steel.key)
            .filter_map(|r| {
                Some(SteelPoint {
                    mark: learned.marks.get(&r.features.blade?)?.clone(),
                    temper_c: r.features.temper_c?,
                    measured_hrc: r.measured_hrc,
                    physics_hrc: r.physics_hrc,
                })
            })
            .collect(),
    ))
}
