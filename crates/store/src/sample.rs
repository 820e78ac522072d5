//! What connected devices say, and which server process listens to which.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::PgExecutor;
use sqlx::types::Json;
use time::{Duration, OffsetDateTime};
use uuid::Uuid;
use vatten_core::record::device::Device;

/// The newest word of a connected station.
#[derive(Debug, Clone, PartialEq)]
pub struct StationNow {
    /// The station.
    pub station_id: Uuid,
    /// When it said so; none when it never did.
    pub at: Option<OffsetDateTime>,
    /// What it showed, °C or HRC, uncorrected.
    pub value: Option<f64>,
    /// Its set point, °C.
    pub set_value: Option<f64>,
    /// What is wrong, in a sentence; none while it answers.
    pub trouble: Option<String>,
    /// A set point on its way to it, °C.
    pub wanted_c: Option<f64>,
    /// Until when it is tried to send that; after that it is dropped.
    pub wanted_until: Option<OffsetDateTime>,
    /// A set point that could not be sent in time and was dropped, °C.
    pub dropped_c: Option<f64>,
    /// When.
    pub dropped_at: Option<OffsetDateTime>,
}

/// One sample of a station.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sample {
    /// When.
    pub at: OffsetDateTime,
    /// What it showed.
    pub value: f64,
    /// Its set point.
    pub set_value: Option<f64>,
}

/// A device that a server process shall listen to.
#[derive(Debug, Clone, PartialEq)]
pub struct Held {
    /// The shop.
    pub workshop: WorkshopId,
    /// The station.
    pub station: Uuid,
    /// How it is reached.
    pub device: Device,
}

/// The newest word of every connected station of a shop.
///
/// # Errors
/// The database cannot be read.
pub async fn now(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<StationNow>, Error> {
    Ok(sqlx::query_as!(
        StationNow,
        // One that ran out while nobody listened is as good as dropped.
        r#"select n.station_id, n.at, n.value, n.set_value, n.trouble,
             case when n.wanted_until > now() then n.wanted_c end as wanted_c,
             case when n.wanted_until > now() then n.wanted_until end as wanted_until,
             case when n.wanted_until <= now() then n.wanted_c else n.dropped_c end as dropped_c,
             case when n.wanted_until <= now() then n.wanted_until else n.dropped_at end as dropped_at
         from station_now n
         join station s on s.workshop_id = n.workshop_id and s.id = n.station_id
         where n.workshop_id = $1 and s.device is not null and s.retired_at is null"#,
        workshop.uuid()
    )
    .fetch_all(db)
    .await?)
}

/// Takes, or keeps, the devices that nobody else listens to, until `holder` says so again within `span`.
/// One statement: two processes never hold the same one.
///
/// # Errors
/// The database cannot be reached.
pub async fn hold(
    db: impl PgExecutor<'_>,
    holder: Uuid,
    span: Duration,
) -> Result<Vec<Held>, Error> {
    let until = OffsetDateTime::now_utc() + span;
    let rows = sqlx::query!(
        r#"with taken as (
               insert into station_now as n (workshop_id, station_id, held_by, held_until)
               select workshop_id, id, $1, $2 from station where device is not null and retired_at is null
               on conflict (workshop_id, station_id) do update set held_by = $1, held_until = $2
                   where n.held_by = $1 or n.held_until is null or n.held_until < now()
               returning n.workshop_id, n.station_id
           )
           select s.workshop_id, s.id, s.device as "device!: Json<Device>"
           from taken t join station s on s.workshop_id = t.workshop_id and s.id = t.station_id"#,
        holder,
        until
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| Held {
            workshop: WorkshopId::new(r.workshop_id),
            station: r.id,
            device: r.device.0,
        })
        .collect())
}

/// Lets go of everything, at the end of a process.
///
/// # Errors
/// The database cannot be reached.
pub async fn release(db: impl PgExecutor<'_>, holder: Uuid) -> Result<(), Error> {
    sqlx::query!(
        "update station_now set held_by = null, held_until = null where held_by = $1",
        holder
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Takes a sample as the newest, keeps it in the trace when told to, and answers with the set point that is
/// to be sent, if any.
///
/// # Errors
/// The database cannot be reached.
pub async fn add(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    station: Uuid,
    sample: Sample,
    keep: bool,
) -> Result<Option<f64>, Error> {
    Ok(sqlx::query_scalar!(
        "with kept as (
             insert into sample (workshop_id, station_id, at, value, set_value)
             select $1, $2, $3, $4, $5 where $6::bool on conflict do nothing
         )
         update station_now set at = $3, value = $4, set_value = $5, trouble = null,
             wanted_c = case when wanted_until > now() then wanted_c end,
             wanted_until = case when wanted_until > now() then wanted_until end,
             dropped_c = case when wanted_until <= now() then wanted_c else dropped_c end,
             dropped_at = case when wanted_until <= now() then now() else dropped_at end
         where workshop_id = $1 and station_id = $2 returning wanted_c",
        workshop.uuid(),
        station,
        sample.at,
        sample.value,
        sample.set_value,
        keep
    )
    .fetch_optional(db)
    .await?
    .flatten())
}

/// Says that a device is there.
///
/// # Errors
/// The database cannot be reached.
pub async fn well(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    station: Uuid,
) -> Result<(), Error> {
    sqlx::query!(
        "update station_now set trouble = null where workshop_id = $1 and station_id = $2",
        workshop.uuid(),
        station
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Says what is wrong with a device.
///
/// # Errors
/// The database cannot be reached.
pub async fn trouble(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    station: Uuid,
    text: &str,
) -> Result<(), Error> {
    sqlx::query!(
        "update station_now set trouble = $3 where workshop_id = $1 and station_id = $2",
        workshop.uuid(),
        station,
        text
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Says that a set point could not be sent and was dropped.
///
/// # Errors
/// The database cannot be reached.
pub async fn dropped(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    station: Uuid,
    celsius: f64,
) -> Result<(), Error> {
    sqlx::query!(
        "update station_now set dropped_c = $3, dropped_at = now() where workshop_id = $1 and station_id = $2",
        workshop.uuid(),
        station,
        celsius
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Asks for a set point; whoever listens to the device sends it once, or drops it after `within`.
///
/// # Errors
/// [`Error::NotNow`] when no server listens to it yet.
pub async fn want(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    station: Uuid,
    celsius: f64,
    within: Duration,
) -> Result<(), Error> {
    let done = sqlx::query!(
        "update station_now set wanted_c = $3, wanted_until = $4, dropped_c = null, dropped_at = null
         where workshop_id = $1 and station_id = $2",
        workshop.uuid(),
        station,
        celsius,
        OffsetDateTime::now_utc() + within
    )
    .execute(db)
    .await?;
    if done.rows_affected() == 0 {
        let sentence = "Nothing listens to this station yet: try again in a few seconds.";
        return Err(Error::not_now("temperature_c", sentence));
    }
    Ok(())
}

/// Takes a set point off its way, when it is still that one: it was sent, or called back. Answers whether it
/// was.
///
/// # Errors
/// The database cannot be reached.
pub async fn unwant(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    station: Uuid,
    celsius: f64,
) -> Result<bool, Error> {
    let done = sqlx::query!(
        "update station_now set wanted_c = null, wanted_until = null
         where workshop_id = $1 and station_id = $2 and wanted_c = $3",
        workshop.uuid(),
        station,
        celsius
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() > 0)
}

/// The samples of a station between two times, oldest first, at most `limit`.
///
/// # Errors
/// The database cannot be read.
pub async fn between(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    station: Uuid,
    (from, to): (OffsetDateTime, OffsetDateTime),
    limit: i64,
) -> Result<Vec<Sample>, Error> {
    Ok(sqlx::query_as!(
        Sample,
        "select at, value, set_value from sample
         where workshop_id = $1 and station_id = $2 and at between $3 and $4 order by at limit $5",
        workshop.uuid(),
        station,
        from,
        to,
        limit
    )
    .fetch_all(db)
    .await?)
}
