//! Temperature logs of a blade's firings, brought in from files.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::types::Json;
use sqlx::{Acquire, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::import::log::LogNote;

/// A log as stored.
#[derive(Debug, Clone, PartialEq)]
pub struct Trace {
    /// Id.
    pub id: Uuid,
    /// The firing it belongs to.
    pub firing_id: Uuid,
    /// Where it was taken, when said.
    pub station_id: Option<Uuid>,
    /// Name of the file.
    pub name: String,
    /// `[ms since 1970, °C]` by rising time, as shown.
    pub samples: Vec<(i64, f64)>,
    /// What was odd in the file.
    pub notes: Vec<LogNote>,
    /// Withdrawn since.
    pub withdrawn_at: Option<OffsetDateTime>,
}

/// A log to be kept.
#[derive(Debug, Clone, Copy)]
pub struct NewTrace<'a> {
    /// Id, made by the client.
    pub id: Uuid,
    /// The firing it belongs to.
    pub firing_id: Uuid,
    /// Where it was taken.
    pub station_id: Option<Uuid>,
    /// Name of the file.
    pub name: &'a str,
    /// Samples by rising time.
    pub samples: &'a [(i64, f64)],
    /// What was odd.
    pub notes: &'a [LogNote],
    /// The file as it was.
    pub source: &'a str,
}

/// The logs of a blade, oldest first.
///
/// # Errors
/// The database cannot be read.
pub async fn of_blade(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
) -> Result<Vec<Trace>, Error> {
    let rows = sqlx::query!(
        r#"select id, firing_id, station_id, name, samples as "samples: Json<Vec<(i64, f64)>>",
               notes as "notes: Json<Vec<LogNote>>", withdrawn_at
           from trace where workshop_id = $1 and blade_id = $2 order by created_at, id limit 100"#,
        workshop.uuid(),
        blade_id
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| Trace {
            id: r.id,
            firing_id: r.firing_id,
            station_id: r.station_id,
            name: r.name,
            samples: r.samples.0,
            notes: r.notes.0,
            withdrawn_at: r.withdrawn_at,
        })
        .collect())
}

/// Keeps a log; the same id again changes nothing.
///
/// # Errors
/// [`Error::NotFound`] when the id is another shop's.
pub async fn create(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    blade_id: Uuid,
    new: NewTrace<'_>,
) -> Result<(), Error> {
    let mut db = db.acquire().await?;
    sqlx::query!(
        "insert into trace (id, workshop_id, blade_id, firing_id, station_id, name, samples, notes, source)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9) on conflict (id) do nothing",
        new.id,
        workshop.uuid(),
        blade_id,
        new.firing_id,
        new.station_id,
        new.name,
        serde_json::to_value(new.samples)?,
        serde_json::to_value(new.notes)?,
        new.source
    )
    .execute(&mut *db)
    .await?;
    source(&mut *db, workshop, blade_id, new.id)
        .await
        .map(|_| ())
}

/// The file of a log as it was.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn source(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
    id: Uuid,
) -> Result<String, Error> {
    Ok(sqlx::query_scalar!(
        "select source from trace where workshop_id = $1 and blade_id = $2 and id = $3",
        workshop.uuid(),
        blade_id,
        id
    )
    .fetch_one(db)
    .await?)
}

/// Withdraws a log: kept, no longer shown against the plan.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn withdraw(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
    id: Uuid,
) -> Result<(), Error> {
    let done = sqlx::query!(
        "update trace set withdrawn_at = coalesce(withdrawn_at, now())
         where workshop_id = $1 and blade_id = $2 and id = $3",
        workshop.uuid(),
        blade_id,
        id
    )
    .execute(db)
    .await?;
    crate::one_at_least(&done)
}

/// Newest logs of stations that are read for how fast those heat and cool.
const MOST_OF_STATIONS: i64 = 60;

/// The newest log that was taken at a station and not withdrawn, with how many there are: changes when one comes or goes.
///
/// # Errors
/// The database cannot be read.
pub async fn newest_of_stations(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
) -> Result<(Option<Uuid>, i64), Error> {
    let row = sqlx::query!(
        r#"select (select id from trace where workshop_id = $1 and station_id is not null and withdrawn_at is null
                   order by id desc limit 1) as "id",
              (select count(*) from trace where workshop_id = $1 and station_id is not null and withdrawn_at is null)
                   as "n!""#,
        workshop.uuid()
    )
    .fetch_one(db)
    .await?;
    Ok((row.id, row.n))
}

/// The newest logs of stations as they were shown: `[ms since 1970, °C]`.
///
/// # Errors
/// The database cannot be read.
pub async fn of_stations(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
) -> Result<Vec<(Uuid, Vec<(i64, f64)>)>, Error> {
    let rows = sqlx::query!(
        r#"select station_id as "station_id!", samples as "samples: Json<Vec<(i64, f64)>>" from trace
           where workshop_id = $1 and station_id is not null and withdrawn_at is null order by id desc limit $2"#,
        workshop.uuid(),
        MOST_OF_STATIONS
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| (r.station_id, r.samples.0))
        .collect())
}
