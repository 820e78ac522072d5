//! A workshop: the shop that owns everything else, and how it likes its units.

use crate::Error;
use serde::{Deserialize, Serialize};
use sqlx::PgPool;
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
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
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
pub async fn get(pool: &PgPool, workshop: WorkshopId) -> Result<Workshop, Error> {
    Ok(sqlx::query_as!(
        Workshop,
        "select id, name, temperature_unit, length_unit, time_zone, version from workshop where id = $1",
        workshop.0
    )
    .fetch_one(pool)
    .await?)
}

/// Saves the settings.
///
/// # Errors
/// [`Error::Stale`] when `new.version` is not the current one.
pub async fn update(
    pool: &PgPool,
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
    .fetch_optional(pool)
    .await?
    .ok_or(Error::Stale)
}

/// The number that goes up with everything learning reads.
///
/// # Errors
/// The database cannot be read.
pub async fn records_version(pool: &PgPool, workshop: WorkshopId) -> Result<i64, Error> {
    Ok(sqlx::query_scalar!(
        "select records_version from workshop where id = $1",
        workshop.0
    )
    .fetch_one(pool)
    .await?)
}

pub(crate) async fn records_changed(
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
