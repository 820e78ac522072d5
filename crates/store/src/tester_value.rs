//! Values of a connected hardness tester, each until somebody takes it into a set of readings or puts it
//! aside.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::PgExecutor;
use time::OffsetDateTime;
use uuid::Uuid;

/// A value that waits.
#[derive(Debug, Clone, PartialEq)]
pub struct TesterValue {
    /// Id.
    pub id: Uuid,
    /// The tester.
    pub station_id: Uuid,
    /// When it was read.
    pub at: OffsetDateTime,
    /// As it was shown, HRC.
    pub value_hrc: f64,
}

/// Most values that wait to be looked at.
const MOST: i64 = 200;

/// The values that wait, oldest first.
///
/// # Errors
/// The database cannot be read.
pub async fn waiting(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
) -> Result<Vec<TesterValue>, Error> {
    Ok(sqlx::query_as!(
        TesterValue,
        "select id, station_id, at, value_hrc from tester_value
         where workshop_id = $1 and settled_at is null order by at, id limit $2",
        workshop.uuid(),
        MOST
    )
    .fetch_all(db)
    .await?)
}

/// Keeps a value; the same id again changes nothing.
///
/// # Errors
/// The database cannot be written.
pub async fn add(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    value: &TesterValue,
) -> Result<(), Error> {
    sqlx::query!(
        "insert into tester_value (id, workshop_id, station_id, at, value_hrc) values ($1, $2, $3, $4, $5)
         on conflict (id) do nothing",
        value.id,
        workshop.uuid(),
        value.station_id,
        value.at,
        value.value_hrc
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Settles values: taken into a set of readings, or put aside. Those settled before stay as they were.
///
/// # Errors
/// The database cannot be written.
pub async fn settle(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    ids: &[Uuid],
    taken: bool,
) -> Result<(), Error> {
    sqlx::query!(
        "update tester_value set settled_at = now(), taken = $3
         where workshop_id = $1 and id = any($2) and settled_at is null",
        workshop.uuid(),
        ids,
        taken
    )
    .execute(db)
    .await?;
    Ok(())
}
