//! A station: a forge, kiln, oven or tester that results are learned about.

use crate::Error;
use crate::workshop::{WorkshopId, records_changed};
use serde::{Deserialize, Serialize};
use sqlx::PgPool;
use uuid::Uuid;

/// Kinds of station.
pub const KINDS: [&str; 4] = ["forge", "kiln", "oven", "tester"];

/// A station of the shop.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Station {
    /// Id.
    pub id: Uuid,
    /// `forge`, `kiln`, `oven` or `tester`.
    pub kind: String,
    /// Name.
    pub name: String,
    /// Goes up with every change.
    pub version: i64,
}

/// All stations, by kind and name.
///
/// # Errors
/// The database cannot be read.
pub async fn list(pool: &PgPool, workshop: WorkshopId) -> Result<Vec<Station>, Error> {
    Ok(sqlx::query_as!(
        Station,
        "select id, kind, name, version from station where workshop_id = $1 order by kind, lower(name)",
        workshop.uuid()
    )
    .fetch_all(pool)
    .await?)
}

/// Adds a station; the same id again is the same station.
///
/// # Errors
/// [`Error::Refused`] at `name` when there is one of the kind with that name; [`Error::NotFound`]
/// when the id is another shop's.
pub async fn create(
    pool: &PgPool,
    workshop: WorkshopId,
    id: Uuid,
    kind: &str,
    name: &str,
) -> Result<Station, Error> {
    sqlx::query!(
        "insert into station (id, workshop_id, kind, name) values ($1, $2, $3, $4)
         on conflict (id) do nothing",
        id,
        workshop.uuid(),
        kind,
        name
    )
    .execute(pool)
    .await?;
    get(pool, workshop, id).await
}

/// One station.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn get(pool: &PgPool, workshop: WorkshopId, id: Uuid) -> Result<Station, Error> {
    Ok(sqlx::query_as!(
        Station,
        "select id, kind, name, version from station where workshop_id = $1 and id = $2",
        workshop.uuid(),
        id
    )
    .fetch_one(pool)
    .await?)
}

/// Renames a station.
///
/// # Errors
/// [`Error::NotFound`], or [`Error::Stale`] when `version` is not the current one.
pub async fn rename(
    pool: &PgPool,
    workshop: WorkshopId,
    id: Uuid,
    name: &str,
    version: i64,
) -> Result<Station, Error> {
    let mut tx = pool.begin().await?;
    let changed = sqlx::query_as!(
        Station,
        "update station set name = $3, version = version + 1
         where workshop_id = $1 and id = $2 and version = $4 returning id, kind, name, version",
        workshop.uuid(),
        id,
        name,
        version
    )
    .fetch_optional(&mut *tx)
    .await?;
    match changed {
        Some(station) => {
            records_changed(&mut tx, workshop).await?;
            tx.commit().await?;
            Ok(station)
        }
        None => {
            get(pool, workshop, id).await?;
            Err(Error::Stale)
        }
    }
}
