//! Stations: what the shop works at and measures with, and what those that are connected say.

use crate::answers::sample::StationNow;
use crate::answers::station::Station;
use crate::answers::tester_value::TesterValue;
use crate::answers::{all, one};
use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::predictor::Predictor;
use crate::prepared_blade::corrections_now;
use crate::problem::Problem;
use crate::routes::blade::parse_medium;
use rocket::http::Status;
use rocket::serde::json::Json;
use rocket::{State, delete, get, post, put};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use time::{Duration, OffsetDateTime};
use uuid::Uuid;
use vatten_core::import::cooling_curve;
use vatten_core::material::medium::Medium;
use vatten_core::process::capacity::Capacity;
use vatten_core::process::station::StationKind;
use vatten_core::quantity::units::{Celsius, Litres, Quantity};
use vatten_core::quantity::validation::{Checker, Faults, Unit};
use vatten_core::record::cooling_curve::{MeasuredBath, fit};
use vatten_core::record::device::Device;
use vatten_core::record::trace::{Recovery, Sample, recovery};
use vatten_store::station::NewStation;
use vatten_store::{Error, PgPool, sample, station, tester_value};

/// What a shop says of a station.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct StationBody {
    /// Id made by the client (UUID version 7), for a new one; made here when left out.
    pub id: Option<Uuid>,
    /// `forge`, `kiln`, `oven`, `tank`, `plates`, `cold_box`, `torch`, `tester`, `files`, `magnet`,
    /// `logger` or `eye`. It cannot be changed later.
    pub kind: String,
    /// Name.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 80))]
    pub name: String,
    /// Of a tank: the medium in it, as `fast_oil`.
    #[serde(default)]
    pub medium: Option<String>,
    /// Of a tank: how much, 0.5 to 2000 l.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(minimum = 0.5, maximum = 2000))]
    pub litres: Option<f64>,
    /// Of a tank: when what is in it was put in.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub filled_at: Option<OffsetDateTime>,
    /// Remark.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(max_length = 500))]
    pub note: String,
    /// How it is reached, when it is connected.
    #[serde(default)]
    pub device: Option<Device>,
    /// What it takes, as far as it is not as usual for its kind.
    #[serde(default)]
    pub capacity: Capacity,
    /// No longer used.
    #[serde(default)]
    pub retired: bool,
    /// Version it was read at, for a change.
    #[serde(default)]
    pub version: i64,
}

impl StationBody {
    fn check(self) -> Result<NewStation, Faults> {
        let mut c = Checker::default();
        let kind = c.take(StationKind::parse(&self.kind));
        let name = c.take(text("name", &self.name, (1, 80)));
        let note = c.take(text("note", &self.note, (0, 500)));
        c.take(parse_medium(self.medium.as_deref()));
        let tank = kind == Some(StationKind::Tank);
        if !tank && (self.medium.is_some() || self.litres.is_some() || self.filled_at.is_some()) {
            c.refuse("medium", "Only a tank has a medium and a volume.");
        }
        if self
            .filled_at
            .is_some_and(|at| at > OffsetDateTime::now_utc())
        {
            c.refuse("filled_at", "That day is still to come.");
        }
        let litres = self.litres.and_then(|l| c.take(Litres::check("litres", l)));
        if let Some(device) = &self.device {
            c.take(device.check().map_err(|f| f.under("device")));
            if kind.is_some_and(|k| k.scale().is_none()) {
                c.refuse(
                    "device",
                    "Nothing is to be read from a station of this kind.",
                );
            }
        }
        let capacity = c.take(self.capacity.checked().map_err(|f| f.under("capacity")));
        if self.capacity.runs_alone && kind == Some(StationKind::Forge) {
            c.refuse("capacity.runs_alone", "A forge is never left alone.");
        }
        let parts = kind.zip(name).zip(note).zip(capacity);
        c.finish(parts.map(|(((kind, name), note), capacity)| NewStation {
            kind,
            name,
            medium: self.medium,
            litres: litres.map(Litres::value),
            filled_at: self.filled_at,
            curve: None,
            note,
            device: self.device,
            capacity,
            retired: self.retired,
        }))
    }
}

/// All stations, those no longer used too.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", responses((status = 200, body = Vec<Station>), crate::openapi::Problems)))]
#[get("/stations")]
pub async fn list(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<Station>>, Problem> {
    Ok(all(station::list(pool.inner(), me.workshop).await?))
}

/// Adds a station.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", request_body = StationBody,
    responses((status = 200, body = Station), crate::openapi::Problems)))]
#[post("/stations", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    me: SignedIn,
    body: Body<StationBody>,
) -> Result<Json<Station>, Problem> {
    let id = body.0.id.unwrap_or_else(Uuid::now_v7);
    let new = body.0.check()?;
    Ok(one(
        station::create(pool.inner(), me.workshop, id, &new).await?
    ))
}

/// Changes a station.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", params(("id" = Uuid, Path)), request_body = StationBody,
    responses((status = 200, body = Station), crate::openapi::Problems)))]
#[put("/stations/<id>", data = "<body>")]
pub async fn update(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<StationBody>,
) -> Result<Json<Station>, Problem> {
    let version = body.0.version;
    let new = body.0.check()?;
    let known = station::get(pool.inner(), me.workshop, id.0).await?;
    if known.kind != new.kind {
        return Err(Faults::one("kind", "A station stays what it is: add another one.").into());
    }
    match station::update(pool.inner(), me.workshop, id.0, &new, version).await {
        Err(Error::Stale) => Err(Problem::stale(&Station::from(
            station::get(pool.inner(), me.workshop, id.0).await?,
        ))),
        other => Ok(one(other?)),
    }
}

/// A cooling curve of what is in a tank.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct CurveBody {
    /// The file of the logger: time and temperature of the centre of an ISO 9950 probe, °C or °F by its heading.
    #[cfg_attr(feature = "schema", schema(max_length = 400_000))]
    pub text: String,
    /// The bath while it was measured, °C; the usual one of its kind when left out.
    #[serde(default)]
    pub bath_c: Option<f64>,
    /// Version the station was read at.
    pub version: i64,
}

/// Largest file of a cooling curve, bytes.
const MAX_CURVE_BYTES: usize = 400_000;

/// Keeps the cooling curve of what is in a tank: quenches in it go by what was measured.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", params(("id" = Uuid, Path)), request_body = CurveBody,
    responses((status = 200, body = Station), crate::openapi::Problems)))]
#[put("/stations/<id>/curve", data = "<body>")]
pub async fn set_curve(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
    body: Body<CurveBody>,
) -> Result<Json<Station>, Problem> {
    let CurveBody {
        text,
        bath_c,
        version,
    } = body.0;
    let known = station::get(pool.inner(), me.workshop, id.0).await?;
    let Some(medium) = known.medium.as_deref().and_then(Medium::parse) else {
        let message = "Say first what is in it.";
        return Err(Faults::one("medium", message).into());
    };
    if !medium.is_liquid() {
        return Err(Faults::one("medium", "Only a bath is measured so.").into());
    }
    if text.len() > MAX_CURVE_BYTES {
        let message = "This is more than a cooling curve.";
        let allowed = format!("at most {MAX_CURVE_BYTES} bytes");
        return Err(Faults::with_allowed("text", message, allowed).into());
    }
    let range = medium.bath_range_c();
    let bath = bath_c.unwrap_or_else(|| medium.usual_bath().value());
    if !(range.0..=range.1).contains(&bath) {
        let message = "It is not used so warm or cold.";
        return Err(Faults::outside("bath_c", message, range, Unit::Celsius).into());
    }
    let find = move || {
        let curve = cooling_curve::read(&text)?;
        fit(&curve, medium, Celsius::clamped(bath))
    };
    let found = predictor.compute.run(find).await??;
    kept_curve(pool, &me, id.0, Some(&found), version).await
}

/// Forgets the cooling curve of a tank: quenches in it go by its kind again.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop",
    params(("id" = Uuid, Path), ("version" = i64, Query, description = "Version the station was read at.")),
    responses((status = 200, body = Station), crate::openapi::Problems)))]
#[delete("/stations/<id>/curve?<version>")]
pub async fn forget_curve(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    version: i64,
) -> Result<Json<Station>, Problem> {
    kept_curve(pool, &me, id.0, None, version).await
}

async fn kept_curve(
    pool: &PgPool,
    me: &SignedIn,
    id: Uuid,
    curve: Option<&MeasuredBath>,
    version: i64,
) -> Result<Json<Station>, Problem> {
    match station::set_curve(pool, me.workshop, id, curve, version).await {
        Err(Error::Stale) => Err(Problem::stale(&Station::from(
            station::get(pool, me.workshop, id).await?,
        ))),
        other => Ok(one(other?)),
    }
}

/// What a connected station says now.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StationSays {
    /// What it shows, its set point, and what is wrong.
    #[serde(flatten)]
    pub now: StationNow,
    /// What it really is, by its last check, °C or HRC.
    pub really: Option<f64>,
}

/// What every connected station says now.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", responses((status = 200, body = Vec<StationSays>), crate::openapi::Problems)))]
#[get("/stations/now")]
pub async fn now(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<StationSays>>, Problem> {
    let known = corrections_now(pool, me.workshop).await?;
    let all = sample::now(pool.inner(), me.workshop).await?;
    let said = all.into_iter().map(|now| StationSays {
        really: now.value.map(|v| known.really(Some(now.station_id), v)),
        now: now.into(),
    });
    Ok(Json(said.collect()))
}

/// A set point to be sent.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SetPoint {
    /// As it is set, 0 to 1300 °C.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 1300))]
    pub temperature_c: f64,
}

/// Sends a set point to a connected station.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", params(("id" = Uuid, Path)), request_body = SetPoint,
    responses((status = 200, body = Station), crate::openapi::Problems)))]
#[put("/stations/<id>/set-point", data = "<body>")]
pub async fn set_point(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<SetPoint>,
) -> Result<Json<Station>, Problem> {
    let known = station::get(pool.inner(), me.workshop, id.0).await?;
    let set = Celsius::check("temperature_c", body.0.temperature_c)?;
    if set.value() < 0.0 {
        let sentence = "No fire is set so cool.";
        let range = (0.0, Celsius::RANGE.1);
        return Err(Faults::outside("temperature_c", sentence, range, Unit::Celsius).into());
    }
    let Some(Device::Modbus { map, .. }) = &known.device else {
        let sentence = "This station is not connected by a set point: set it by hand.";
        return Err(Error::not_now("temperature_c", sentence).into());
    };
    map.raw(set)?;
    sample::want(pool.inner(), me.workshop, id.0, set.value(), SENT_WITHIN).await?;
    Ok(one(known))
}

/// A set point that a device does not take within this is dropped: a fire that is switched on next morning
/// must not find yesterday's.
const SENT_WITHIN: Duration = Duration::minutes(1);

/// Calls back a set point that was not sent yet.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", params(("id" = Uuid, Path)), request_body = SetPoint,
    responses((status = 204), crate::openapi::Problems)))]
#[delete("/stations/<id>/set-point", data = "<body>")]
pub async fn call_back(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<SetPoint>,
) -> Result<Status, Problem> {
    station::get(pool.inner(), me.workshop, id.0).await?;
    if sample::unwant(pool.inner(), me.workshop, id.0, body.0.temperature_c).await? {
        return Ok(Status::NoContent);
    }
    let sentence = "It was sent already, or dropped, or another one took its place.";
    Err(Error::not_now("temperature_c", sentence).into())
}

/// Values of connected testers that wait to be taken or put aside, oldest first.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", responses((status = 200, body = Vec<TesterValue>), crate::openapi::Problems)))]
#[get("/testers/waiting")]
pub async fn waiting(
    pool: &State<PgPool>,
    me: SignedIn,
) -> Result<Json<Vec<TesterValue>>, Problem> {
    Ok(all(tester_value::waiting(pool.inner(), me.workshop).await?))
}

/// Values of connected testers to be put aside.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct PutAside {
    /// Their ids, 1 to 200.
    #[cfg_attr(feature = "schema", schema(min_items = 1, max_items = 200))]
    pub ids: Vec<Uuid>,
}

/// Puts values of connected testers aside: they are kept and no longer wait.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", request_body = PutAside,
    responses((status = 204), crate::openapi::Problems)))]
#[post("/testers/aside", data = "<body>")]
pub async fn put_aside(
    pool: &State<PgPool>,
    me: SignedIn,
    body: Body<PutAside>,
) -> Result<Status, Problem> {
    let ids = &body.0.ids;
    if ids.is_empty() || ids.len() > 200 {
        return Err(Faults::with_allowed("ids", "Say which.", "1 to 200 ids").into());
    }
    tester_value::settle(pool.inner(), me.workshop, ids, false).await?;
    Ok(Status::NoContent)
}

/// What a station did since it was loaded.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Loaded {
    /// Dip and recovery, corrected by its last check.
    #[serde(flatten)]
    pub recovery: Recovery,
    /// The set point they are held against, °C; none when it tells none.
    pub set_c: Option<f64>,
}

/// Most samples of a load that are looked at.
const MOST_SAMPLES: i64 = 20_000;

/// Dip and recovery of a station since a time, against its own set point.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop",
    params(("id" = Uuid, Path), ("from_ms" = i64, Query, description = "Milliseconds since 1970")),
    responses((status = 200, body = Loaded), crate::openapi::Problems)))]
#[get("/stations/<id>/loaded?<from_ms>")]
pub async fn loaded(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    from_ms: Option<i64>,
) -> Result<Json<Loaded>, Problem> {
    station::get(pool.inner(), me.workshop, id.0).await?;
    let now = OffsetDateTime::now_utc();
    let from = from_ms
        .and_then(|ms| OffsetDateTime::from_unix_timestamp_nanos(i128::from(ms) * 1_000_000).ok())
        .ok_or_else(|| Faults::with_allowed("from_ms", "This is no time.", "ms since 1970"))?;
    let samples =
        sample::between(pool.inner(), me.workshop, id.0, (from, now), MOST_SAMPLES).await?;
    let set_c = samples.last().and_then(|s| s.set_value);
    let seen: Vec<Sample> = samples.iter().map(of_store).collect();
    Ok(Json(Loaded {
        // Both as the station shows them: its correction moves them alike.
        recovery: set_c.map_or_else(Recovery::default, |set| recovery(&seen, set)),
        set_c,
    }))
}

/// A stored sample as the core reads it.
pub fn of_store(sample: &vatten_store::sample::Sample) -> Sample {
    Sample {
        at_ms: i64::try_from(sample.at.unix_timestamp_nanos() / 1_000_000).unwrap_or(i64::MAX),
        celsius: sample.value,
    }
}
