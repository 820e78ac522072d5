//! What came of a blade besides tested hardness.

use crate::Error;
use crate::workshop::{WorkshopId, records_changed};
use sqlx::types::Json;
use sqlx::{Acquire, PgConnection, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::record::finding::Finding;

/// A finding as stored.
#[derive(Debug, Clone, PartialEq)]
pub struct FindingRow {
    /// Id.
    pub id: Uuid,
    /// The firing it belongs to.
    pub firing_id: Uuid,
    /// What was found.
    pub found: Finding,
    /// Remark.
    pub note: String,
    /// When.
    pub found_at: OffsetDateTime,
    /// Withdrawn since: kept, but not learned from.
    pub withdrawn_at: Option<OffsetDateTime>,
}

/// A finding to be stored.
#[derive(Debug, Clone, PartialEq)]
pub struct NewFinding {
    /// Id, made by the client.
    pub id: Uuid,
    /// What was found.
    pub found: Finding,
    /// Remark.
    pub note: String,
    /// When.
    pub found_at: OffsetDateTime,
}

/// The findings of a blade in time order, withdrawn ones too.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such blade.
pub async fn of_blade(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    blade_id: Uuid,
) -> Result<Vec<FindingRow>, Error> {
    let mut db = db.acquire().await?;
    crate::blade::get(&mut *db, workshop, blade_id).await?;
    of_blades(&mut *db, workshop, &[blade_id]).await
}

/// The findings of several blades in time order, withdrawn ones too.
///
/// # Errors
/// The database cannot be read.
pub async fn of_blades(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blades: &[Uuid],
) -> Result<Vec<FindingRow>, Error> {
    let rows = sqlx::query!(
        r#"select id, firing_id, found as "found: Json<Finding>", note, found_at, withdrawn_at from finding
           where workshop_id = $1 and blade_id = any($2) order by found_at, id"#,
        workshop.uuid(),
        blades
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| FindingRow {
            id: r.id,
            firing_id: r.firing_id,
            found: r.found.0,
            note: r.note,
            found_at: r.found_at,
            withdrawn_at: r.withdrawn_at,
        })
        .collect())
}

/// Stores a finding with the latest firing of the blade; the same id again changes nothing.
///
/// # Errors
/// [`Error::NotFound`]; [`Error::NotNow`] before any quench.
pub async fn create(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    blade_id: Uuid,
    new: &NewFinding,
) -> Result<FindingRow, Error> {
    let mut db = db.acquire().await?;
    let blade = crate::blade::get(&mut *db, workshop, blade_id).await?;
    let quenched = blade.firing_state.as_ref().is_some_and(|s| s.quenched);
    let early = new.found.is_early();
    let Some(firing_id) = blade.firing_id.filter(|_| quenched || early) else {
        return Err(Error::not_now(
            "found",
            "This blade was not quenched yet, so nothing can have come of it. Fire it first.",
        ));
    };
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    keep(&mut tx, workshop, blade_id, firing_id, new).await?;
    tx.commit().await?;
    of_blades(&mut *db, workshop, &[blade_id])
        .await?
        .into_iter()
        .find(|r| r.id == new.id)
        .ok_or(Error::NotFound)
}

/// Keeps a finding of a firing; a blade that is given up is done with.
pub(crate) async fn keep(
    tx: &mut PgConnection,
    workshop: WorkshopId,
    blade_id: Uuid,
    firing_id: Uuid,
    new: &NewFinding,
) -> Result<(), Error> {
    insert(&mut *tx, workshop, blade_id, firing_id, new, None).await?;
    if matches!(new.found, Finding::Scrap { .. }) {
        sqlx::query!(
            "update blade set finished_at = coalesce(finished_at, $3), version = version + 1
             where workshop_id = $1 and id = $2",
            workshop.uuid(),
            blade_id,
            new.found_at
        )
        .execute(&mut *tx)
        .await?;
    }
    records_changed(tx, workshop).await
}

/// Puts a finding in.
pub(crate) async fn insert(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
    firing_id: Uuid,
    new: &NewFinding,
    withdrawn_at: Option<OffsetDateTime>,
) -> Result<(), Error> {
    sqlx::query!(
        "insert into finding (id, workshop_id, blade_id, firing_id, found, note, found_at, withdrawn_at)
         values ($1, $2, $3, $4, $5, $6, $7, $8) on conflict (id) do nothing",
        new.id,
        workshop.uuid(),
        blade_id,
        firing_id,
        Json(&new.found) as _,
        new.note,
        new.found_at,
        withdrawn_at
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Withdraws a finding: kept and shown, but no longer learned from.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn withdraw(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    blade_id: Uuid,
    id: Uuid,
) -> Result<(), Error> {
    let mut tx = db.begin().await?;
    let done = sqlx::query!(
        "update finding set withdrawn_at = coalesce(withdrawn_at, now())
         where workshop_id = $1 and blade_id = $2 and id = $3",
        workshop.uuid(),
        blade_id,
        id
    )
    .execute(&mut *tx)
    .await?;
    crate::one_at_least(&done)?;
    records_changed(&mut tx, workshop).await?;
    tx.commit().await?;
    Ok(())
}
