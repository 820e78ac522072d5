//! Temperature traces of a blade: what connected stations said during its firings, and logs from files.

use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::predictor::Predictor;
use crate::problem::Problem;
use crate::routes::station::of_store;
use rocket::http::{ContentType, Status};
use rocket::serde::json::Json;
use rocket::{State, delete, get, post};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::import::log::{Columns, Log, LogNote, read};
use vatten_core::process::calibration::Corrections;
use vatten_core::process::step::Step;
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_core::record::trace::{Sample, StepTrace, against};
use vatten_store::firing::Firing;
use vatten_store::trace::NewTrace;
use vatten_store::{PgPool, WorkshopId, blade, firing, sample, station, trace, workshop};

/// Most samples that are drawn of a trace.
const DRAWN: usize = 1200;
/// Most samples of a station during a firing.
const MOST_SAMPLES: i64 = 50_000;

/// A log file.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct LogBody {
    /// Id made by the client (UUID version 7): the same log sent twice is kept once.
    pub id: Option<Uuid>,
    /// Name of the file.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 120))]
    pub name: String,
    /// The file as it is, up to 4 MB.
    pub text: String,
    /// The columns, when they are not as recognised.
    #[serde(default)]
    pub columns: Option<Columns>,
    /// For a log without dates: when it began.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub starts_at: Option<OffsetDateTime>,
    /// The firing it belongs to; the latest when left out.
    #[serde(default)]
    pub firing_id: Option<Uuid>,
    /// The station or logger it comes from: its check corrects it.
    #[serde(default)]
    pub station_id: Option<Uuid>,
}

/// What a log file holds, before it is kept.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LogRead {
    /// Headings of its columns.
    pub headings: Vec<String>,
    /// Its first rows.
    pub first_rows: Vec<Vec<String>>,
    /// What was taken for what.
    pub columns: Columns,
    /// It has dates of its own.
    pub dated: bool,
    /// Its times say how they lie to UTC; those of others are a clock on the wall of the shop, in its zone.
    pub zoned: bool,
    /// When it began, where it has dates.
    #[serde(with = "time::serde::rfc3339::option")]
    pub began_at: Option<OffsetDateTime>,
    /// First and last time, ms since 1970, or since its start.
    pub span_ms: (i64, i64),
    /// Coolest and hottest, °C.
    pub span_c: (f64, f64),
    /// Samples read.
    pub samples: usize,
    /// What was odd.
    pub notes: Vec<LogNote>,
}

impl LogRead {
    fn new(log: &Log, began_at: Option<OffsetDateTime>) -> Self {
        let celsius = || log.samples.iter().map(|s| s.celsius);
        let at = |s: Option<&Sample>| s.map_or(0, |s| s.at_ms);
        Self {
            headings: log.headings.clone(),
            first_rows: log.first_rows.clone(),
            columns: log.columns,
            dated: log.dated,
            zoned: log.zoned,
            began_at,
            span_ms: (at(log.samples.first()), at(log.samples.last())),
            span_c: (
                celsius().fold(f64::INFINITY, f64::min),
                celsius().fold(f64::NEG_INFINITY, f64::max),
            ),
            samples: log.samples.len(),
            notes: log.notes.clone(),
        }
    }
}

/// A trace held against what was planned.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TraceView {
    /// Id; that of the station for what a connected station said.
    pub id: Uuid,
    /// The firing.
    pub firing_id: Uuid,
    /// Name of the file, or of the station.
    pub name: String,
    /// Brought in from a file; otherwise a connected station said it.
    pub from_file: bool,
    /// Where it was taken.
    pub station_id: Option<Uuid>,
    /// It was corrected by a check of that station.
    pub corrected: bool,
    /// `[ms since 1970, °C]`, real temperatures, thinned for drawing.
    pub samples: Vec<(i64, f64)>,
    /// The steps it tells of.
    pub steps: Vec<StepTrace>,
    /// For each of them what the record should say as temperature, °C, as the station of the step shows it,
    /// and time, s.
    pub to_say: Vec<Option<(f64, f64)>>,
    /// What was odd in the file.
    pub notes: Vec<LogNote>,
}

fn millis(at: OffsetDateTime) -> i64 {
    i64::try_from(at.unix_timestamp_nanos() / 1_000_000).unwrap_or(i64::MAX)
}

/// Of each stretch the first sample and the hottest.
fn drawn(samples: &[Sample]) -> Vec<(i64, f64)> {
    let stretch = samples.len().div_ceil(DRAWN / 2).max(1);
    let mut kept: Vec<(i64, f64)> = Vec::with_capacity(DRAWN);
    for part in samples.chunks(stretch) {
        kept.extend(part.first().map(|s| (s.at_ms, s.celsius)));
        let hottest = part
            .iter()
            .skip(1)
            .max_by(|a, b| a.celsius.total_cmp(&b.celsius));
        kept.extend(hottest.map(|s| (s.at_ms, s.celsius)));
    }
    kept.extend(samples.last().map(|s| (s.at_ms, s.celsius)));
    kept.dedup_by_key(|s| s.0);
    kept
}

/// One trace to be held against its firing.
struct Taken {
    id: Uuid,
    name: String,
    from_file: bool,
    station_id: Option<Uuid>,
    samples: Vec<Sample>,
    notes: Vec<LogNote>,
}

fn view(taken: Taken, firing: &Firing, known: &Corrections) -> TraceView {
    let mut samples = taken.samples;
    for s in &mut samples {
        s.celsius = known.really(taken.station_id, s.celsius);
    }
    let until = firing.closed_at.unwrap_or_else(OffsetDateTime::now_utc);
    let measured = (samples.as_slice(), taken.station_id);
    let state = &firing.state;
    let steps = against(
        &firing.steps,
        &firing.actions,
        &state.confirmed_ms,
        millis(until),
        measured,
    );
    let shown = |s: &StepTrace| {
        let (celsius, seconds) = s.really?;
        let (Step::Austenitize { station_id, .. } | Step::Temper { station_id, .. }) =
            firing.steps.get(s.step)?
        else {
            return None;
        };
        Some((known.shown(*station_id, celsius), seconds))
    };
    TraceView {
        to_say: steps.iter().map(shown).collect(),
        steps,
        samples: drawn(&samples),
        corrected: known.knows(taken.station_id),
        id: taken.id,
        firing_id: firing.id,
        name: taken.name,
        from_file: taken.from_file,
        station_id: taken.station_id,
        notes: taken.notes,
    }
}

/// The stations that the steps of a firing name.
fn named(firing: &Firing) -> Vec<Uuid> {
    let mut all: Vec<Uuid> = firing
        .steps
        .iter()
        .filter_map(|step| match step {
            Step::Austenitize { station_id, .. } | Step::Temper { station_id, .. } => *station_id,
            _ => None,
        })
        .collect();
    all.sort_unstable();
    all.dedup();
    all
}

/// The traces of a blade's firings against their plans: what connected stations said during the newest,
/// and every log brought in.
///
/// # Errors
/// The shop has no such blade, or the database cannot be read.
pub async fn of_blade(
    pool: &PgPool,
    predictor: &Predictor,
    workshop: WorkshopId,
    blade_id: Uuid,
) -> Result<Vec<TraceView>, Problem> {
    let firings = firing::of_blade(pool, workshop, blade_id).await?;
    let stations = station::list(pool, workshop).await?;
    let files = trace::of_blade(pool, workshop, blade_id).await?;
    let mut taken: Vec<(Firing, Taken)> = Vec::new();
    if let Some(newest) = firings.first() {
        let span = (
            newest.started_at,
            newest.closed_at.unwrap_or_else(OffsetDateTime::now_utc),
        );
        for at in named(newest) {
            let said = sample::between(pool, workshop, at, span, MOST_SAMPLES).await?;
            if said.len() < 2 {
                continue;
            }
            let name = stations.iter().find(|s| s.id == at).map(|s| s.name.clone());
            let one = Taken {
                id: at,
                name: name.unwrap_or_default(),
                from_file: false,
                station_id: Some(at),
                samples: said.iter().map(of_store).collect(),
                notes: Vec::new(),
            };
            taken.push((newest.clone(), one));
        }
    }
    for file in files.into_iter().filter(|f| f.withdrawn_at.is_none()) {
        let Some(of) = firings.iter().find(|f| f.id == file.firing_id) else {
            continue;
        };
        let samples = file.samples.into_iter();
        let one = Taken {
            id: file.id,
            name: file.name,
            from_file: true,
            station_id: file.station_id,
            samples: samples
                .map(|(at_ms, celsius)| Sample { at_ms, celsius })
                .collect(),
            notes: file.notes,
        };
        taken.push((of.clone(), one));
    }
    let views = predictor
        .compute
        .run(move || {
            let of = |(firing, one): (Firing, Taken)| view(one, &firing, &firing.made.checks);
            taken.into_iter().map(of).collect()
        })
        .await?;
    Ok(views)
}

/// The traces of a blade's newest firings against their plans.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "traces", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<TraceView>), crate::openapi::Problems)))]
#[get("/blades/<id>/traces")]
pub async fn list(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
) -> Result<Json<Vec<TraceView>>, Problem> {
    Ok(Json(of_blade(pool, predictor, me.workshop, id.0).await?))
}

async fn read_off(predictor: &Predictor, body: &LogBody) -> Result<Log, Problem> {
    let (text, columns) = (body.text.clone(), body.columns);
    Ok(predictor
        .compute
        .run(move || read(&text, columns))
        .await??)
}

/// Reads a log without keeping it, so that its columns can be chosen.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "traces", params(("id" = Uuid, Path)), request_body = LogBody,
    responses((status = 200, body = LogRead), crate::openapi::Problems)))]
#[post("/blades/<id>/traces/read", data = "<body>")]
pub async fn preview(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
    body: Body<LogBody>,
) -> Result<Json<LogRead>, Problem> {
    blade::get(pool.inner(), me.workshop, id.0).await?;
    let log = read_off(predictor, &body.0).await?;
    let began_at = began_at(pool, me.workshop, &log).await?;
    Ok(Json(LogRead::new(&log, began_at)))
}

/// When a log with dates began: a clock without a zone is the shop's.
async fn began_at(
    pool: &PgPool,
    id: WorkshopId,
    log: &Log,
) -> Result<Option<OffsetDateTime>, Problem> {
    let Some(first) = log.samples.first().filter(|_| log.dated) else {
        return Ok(None);
    };
    if log.zoned {
        let nanos = i128::from(first.at_ms) * 1_000_000;
        return Ok(OffsetDateTime::from_unix_timestamp_nanos(nanos).ok());
    }
    Ok(Some(workshop::wall_clock(pool, id, first.at_ms).await?))
}

async fn belongs(
    pool: &PgPool,
    workshop: WorkshopId,
    blade_id: Uuid,
    body: &LogBody,
) -> Result<(Firing, String), Problem> {
    let firings = firing::of_blade(pool, workshop, blade_id).await?;
    let mut c = Checker::default();
    let of = match body.firing_id {
        None => firings.first(),
        Some(id) => firings.iter().find(|f| f.id == id),
    };
    if of.is_none() {
        c.refuse(
            "firing_id",
            "This blade has no such firing: a trace belongs to one.",
        );
    }
    let name = c.take(text("name", &body.name, (1, 120)));
    if let Some(id) = body.station_id
        && station::get(pool, workshop, id).await.is_err()
    {
        c.refuse("station_id", "The shop has no such station.");
    }
    Ok(c.finish(of.cloned().zip(name))?)
}

/// Keeps a log with a firing.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "traces", params(("id" = Uuid, Path)), request_body = LogBody,
    responses((status = 200, body = LogRead), crate::openapi::Problems)))]
#[post("/blades/<id>/traces", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
    body: Body<LogBody>,
) -> Result<Json<LogRead>, Problem> {
    let body = body.0;
    blade::get(pool.inner(), me.workshop, id.0).await?;
    let (of, name) = belongs(pool, me.workshop, id.0, &body).await?;
    let log = read_off(predictor, &body).await?;
    let first = log.samples.first().map_or(0, |s| s.at_ms);
    let shift = match (log.dated, body.starts_at) {
        (true, None) => began_at(pool, me.workshop, &log)
            .await?
            .map_or(0, |at| millis(at) - first),
        (_, Some(at)) => millis(at) - first,
        (false, None) => {
            let sentence = "The log has no dates: say when it began.";
            return Err(Faults::one("starts_at", sentence).into());
        }
    };
    let samples: Vec<(i64, f64)> = log
        .samples
        .iter()
        .map(|s| (s.at_ms + shift, s.celsius))
        .collect();
    let new = NewTrace {
        id: body.id.unwrap_or_else(Uuid::now_v7),
        firing_id: of.id,
        station_id: body.station_id,
        name: &name,
        samples: &samples,
        notes: &log.notes,
        source: &body.text,
    };
    trace::create(pool.inner(), me.workshop, id.0, new).await?;
    let began_at = samples
        .first()
        .and_then(|s| OffsetDateTime::from_unix_timestamp_nanos(i128::from(s.0) * 1_000_000).ok());
    Ok(Json(LogRead::new(&log, began_at)))
}

/// The file of a log as it was.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "traces",
    params(("id" = Uuid, Path), ("trace" = Uuid, Path)),
    responses((status = 200, content_type = "text/csv", body = String), crate::openapi::Problems)))]
#[get("/blades/<id>/traces/<trace>/file")]
pub async fn source(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    trace: Id,
) -> Result<(ContentType, String), Problem> {
    let text = trace::source(pool.inner(), me.workshop, id.0, trace.0).await?;
    Ok((ContentType::CSV, text))
}

/// Withdraws a log: kept, no longer shown.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "traces",
    params(("id" = Uuid, Path), ("trace" = Uuid, Path)), responses((status = 204), crate::openapi::Problems)))]
#[delete("/blades/<id>/traces/<trace>")]
pub async fn withdraw(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    trace: Id,
) -> Result<Status, Problem> {
    trace::withdraw(pool.inner(), me.workshop, id.0, trace.0).await?;
    Ok(Status::NoContent)
}
