//! A workshop: the shop that owns everything else, and how it likes its units.

use crate::Error;
use sqlx::PgExecutor;
use time::OffsetDateTime;
use uuid::Uuid;

/// The shop a request acts for. Only a session or a token gives one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct WorkshopId(Uuid);

impl WorkshopId {
    pub(crate) const fn new(id: Uuid) -> Self {
        Self(id)
    }

    /// The id itself.
    #[must_use]
    pub const fn uuid(self) -> Uuid {
        self.0
    }
}

/// A workshop and its settings.
#[derive(Debug, Clone, PartialEq)]
pub struct Workshop {
    /// Id.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// `c` or `f`.
    pub temperature_unit: String,
    /// `mm` or `in`.
    pub length_unit: String,
    /// Zone that times are shown in, for example `Europe/Stockholm`.
    pub time_zone: String,
    /// Goes up with every change.
    pub version: i64,
}

/// The workshop.
///
/// # Errors
/// The database cannot be read.
pub async fn get(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Workshop, Error> {
    Ok(sqlx::query_as!(
        Workshop,
        "select id, name, temperature_unit, length_unit, time_zone, version from workshop where id = $1",
        workshop.0
    )
    .fetch_one(db)
    .await?)
}

/// Saves the settings.
///
/// # Errors
/// [`Error::Stale`] when `new.version` is not the current one.
pub async fn update(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    new: &Workshop,
) -> Result<Workshop, Error> {
    sqlx::query_as!(
        Workshop,
        "update workshop set name = $2, temperature_unit = $3, length_unit = $4, time_zone = $5,
                version = version + 1
         where id = $1 and version = $6
         returning id, name, temperature_unit, length_unit, time_zone, version",
        workshop.0,
        new.name,
        new.temperature_unit,
        new.length_unit,
        new.time_zone,
        new.version
    )
    .fetch_optional(db)
    .await?
    .ok_or(Error::Stale)
}

/// The moment that a clock on the shop's wall shows so, ms since 1970 as if it were UTC.
///
/// # Errors
/// The database cannot be read, or does not know the shop's zone.
pub async fn wall_clock(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    shown_ms: i64,
) -> Result<OffsetDateTime, Error> {
    Ok(sqlx::query_scalar!(
        r#"select (to_timestamp($2::double precision / 1000.0) at time zone 'UTC') at time zone time_zone as "at!"
           from workshop where id = $1"#,
        workshop.0,
        shown_ms as f64
    )
    .fetch_one(db)
    .await?)
}

/// Whether there is a time zone of this name.
///
/// # Errors
/// The database cannot be read.
pub async fn knows_zone(db: impl PgExecutor<'_>, name: &str) -> Result<bool, Error> {
    Ok(sqlx::query_scalar!(
        r#"select exists (select 1 from pg_timezone_names where lower(name) = lower($1)) as "is!""#,
        name
    )
    .fetch_one(db)
    .await?)
}

/// The number that goes up with everything learning reads.
///
/// # Errors
/// The database cannot be read.
pub async fn records_version(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<i64, Error> {
    Ok(sqlx::query_scalar!(
        "select records_version from workshop where id = $1",
        workshop.0
    )
    .fetch_one(db)
    .await?)
}

/// Holds a shop for the rest of a transaction: others who ask for it wait.
///
/// # Errors
/// The database cannot be reached.
pub async fn lock(connection: &mut sqlx::PgConnection, workshop: WorkshopId) -> Result<(), Error> {
    sqlx::query!(
        "select id from workshop where id = $1 for update",
        workshop.0
    )
    .fetch_one(connection)
    .await?;
    Ok(())
}

/// Says that something was changed that learning reads. Once for all that is changed together: each time writes
/// the row of the shop anew, which every later row looks up.
///
/// # Errors
/// The database cannot be written.
pub async fn records_changed(
    connection: &mut sqlx::PgConnection,
    workshop: WorkshopId,
) -> Result<(), Error> {
    sqlx::query!(
        "update workshop set records_version = records_version + 1 where id = $1",
        workshop.0
    )
    .execute(connection)
    .await?;
    Ok(())
}
