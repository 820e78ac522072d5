//! A batch: blades of one order, planned once, fired together, read apart.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::{Acquire, PgExecutor, Postgres};
use uuid::Uuid;

/// A batch with its blades that are still in work.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Batch {
    /// Id.
    pub id: Uuid,
    /// Its blades, oldest first.
    pub blade_ids: Vec<Uuid>,
}

/// Every batch of which two blades or more are in work, newest first.
///
/// # Errors
/// The database cannot be read.
pub async fn list(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<Batch>, Error> {
    Ok(sqlx::query_as!(
        Batch,
        r#"select a.batch_id as id, array_agg(a.blade_id order by a.blade_id) as "blade_ids!"
           from batch_blade a join blade b on b.workshop_id = a.workshop_id and b.id = a.blade_id
           where a.workshop_id = $1 and b.finished_at is null
           group by a.batch_id having count(*) > 1 order by a.batch_id desc"#,
        workshop.uuid()
    )
    .fetch_all(db)
    .await?)
}

/// The blades of a blade's batch, itself among them; none where it is of no batch.
///
/// # Errors
/// The database cannot be read.
pub async fn of_blade(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
) -> Result<Vec<Uuid>, Error> {
    Ok(sqlx::query_scalar!(
        "select o.blade_id from batch_blade a
         join batch_blade o on o.workshop_id = a.workshop_id and o.batch_id = a.batch_id
         where a.workshop_id = $1 and a.blade_id = $2 order by o.blade_id",
        workshop.uuid(),
        blade_id
    )
    .fetch_all(db)
    .await?)
}

/// Puts a blade into the batch of another, which becomes one with it where it was of none.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such blade.
pub async fn join(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    blade_id: Uuid,
    of: Uuid,
) -> Result<(), Error> {
    let mut db = db.acquire().await?;
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    for id in [blade_id, of] {
        crate::blade::get(&mut *tx, workshop, id).await?;
    }
    // The blade that others were made after gives the batch its id.
    sqlx::query!(
        "insert into batch_blade (workshop_id, blade_id, batch_id) values ($1, $2, $2) on conflict do nothing",
        workshop.uuid(),
        of
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "insert into batch_blade (workshop_id, blade_id, batch_id)
         select workshop_id, $2, batch_id from batch_blade where workshop_id = $1 and blade_id = $3
         on conflict (workshop_id, blade_id) do nothing",
        workshop.uuid(),
        blade_id,
        of
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(())
}
