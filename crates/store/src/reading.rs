//! Hardness readings of a blade.

use crate::Error;
use crate::workshop::{WorkshopId, records_changed};
use sqlx::types::Json;
use sqlx::{Acquire, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::record::reading::{Taken, Values, When};

/// A set of readings.
#[derive(Debug, Clone, PartialEq)]
pub struct Reading {
    /// Id.
    pub id: Uuid,
    /// The firing it belongs to.
    pub firing_id: Uuid,
    /// `as_quenched` or `tempered`.
    pub stage: String,
    /// Values, HRC.
    pub values_hrc: Vec<f64>,
    /// Mean, HRC.
    pub mean_hrc: f64,
    /// The tester used, when said.
    pub tester_id: Option<Uuid>,
    /// Remark.
    pub note: String,
    /// When they were taken.
    pub taken_at: OffsetDateTime,
    /// Withdrawn since: kept, but not learned from.
    pub withdrawn_at: Option<OffsetDateTime>,
    /// Where and in what state they were read, and what was set aside.
    pub taken: Taken,
    /// Goes up when something is set aside.
    pub version: i64,
}

/// A set of readings to be stored.
#[derive(Debug, Clone, PartialEq)]
pub struct NewReading {
    /// Id, made by the client.
    pub id: Uuid,
    /// When in the treatment.
    pub stage: When,
    /// Values.
    pub values: Values,
    /// Tester.
    pub tester_id: Option<Uuid>,
    /// Remark.
    pub note: String,
    /// When they were taken.
    pub taken_at: OffsetDateTime,
    /// Where and in what state.
    pub taken: Taken,
}

/// The readings of a blade in time order, withdrawn ones too.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such blade.
pub async fn of_blade(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    blade_id: Uuid,
) -> Result<Vec<Reading>, Error> {
    let mut db = db.acquire().await?;
    crate::blade::get(&mut *db, workshop, blade_id).await?;
    of_blades(&mut *db, workshop, &[blade_id]).await
}

/// The readings of several blades in time order, withdrawn ones too.
///
/// # Errors
/// The database cannot be read.
pub async fn of_blades(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blades: &[Uuid],
) -> Result<Vec<Reading>, Error> {
    let rows = sqlx::query!(
        r#"select id, firing_id, stage, values_hrc, tester_id, note, taken_at, withdrawn_at,
               taken as "taken: Json<Taken>", version
           from reading where workshop_id = $1 and blade_id = any($2) order by taken_at, id"#,
        workshop.uuid(),
        blades
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| Reading {
            id: r.id,
            firing_id: r.firing_id,
            stage: r.stage,
            mean_hrc: r.values_hrc.iter().sum::<f64>() / r.values_hrc.len().max(1) as f64,
            values_hrc: r.values_hrc,
            tester_id: r.tester_id,
            note: r.note,
            taken_at: r.taken_at,
            withdrawn_at: r.withdrawn_at,
            taken: r.taken.0,
            version: r.version,
        })
        .collect())
}

/// Stores readings with the latest firing of the blade; the same id again changes nothing.
///
/// # Errors
/// [`Error::NotFound`]; [`Error::NotNow`] before any quench.
pub async fn create(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    blade_id: Uuid,
    new: &NewReading,
) -> Result<Reading, Error> {
    let mut db = db.acquire().await?;
    let blade = crate::blade::get(&mut *db, workshop, blade_id).await?;
    let quenched = blade.firing_state.as_ref().is_some_and(|s| s.quenched);
    let Some(firing_id) = blade.firing_id.filter(|_| quenched) else {
        return Err(Error::not_now(
            "stage",
            "This blade was not quenched yet, so there is nothing to read. Fire it first.",
        ));
    };
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    insert(&mut *tx, workshop, blade_id, firing_id, new, None).await?;
    records_changed(&mut tx, workshop).await?;
    tx.commit().await?;
    of_blades(&mut *db, workshop, &[blade_id])
        .await?
        .into_iter()
        .find(|r| r.id == new.id)
        .ok_or(Error::NotFound)
}

/// Puts readings in.
pub(crate) async fn insert(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
    firing_id: Uuid,
    new: &NewReading,
    withdrawn_at: Option<OffsetDateTime>,
) -> Result<(), Error> {
    let values: Vec<f64> = new.values.all().iter().map(|v| v.value()).collect();
    sqlx::query!(
        "insert into reading (id, workshop_id, blade_id, firing_id, stage, values_hrc, tester_id, note, taken_at,
             taken, withdrawn_at)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11) on conflict (id) do nothing",
        new.id,
        workshop.uuid(),
        blade_id,
        firing_id,
        new.stage.id(),
        &values,
        new.tester_id,
        new.note,
        new.taken_at,
        serde_json::to_value(&new.taken)?,
        withdrawn_at
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Sets values aside, or takes them back among the others.
///
/// # Errors
/// [`Error::NotFound`]; [`Error::Stale`] when `version` is not the current one.
pub async fn set_aside(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    blade_id: Uuid,
    id: Uuid,
    taken: &Taken,
    version: i64,
) -> Result<(), Error> {
    let mut db = db.acquire().await?;
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    let done = sqlx::query!(
        "update reading set taken = $4, version = version + 1
         where workshop_id = $1 and blade_id = $2 and id = $3 and version = $5",
        workshop.uuid(),
        blade_id,
        id,
        serde_json::to_value(taken)?,
        version
    )
    .execute(&mut *tx)
    .await?;
    if done.rows_affected() == 0 {
        let all = of_blades(&mut *tx, workshop, &[blade_id]).await?;
        let known = all.iter().any(|r| r.id == id);
        return Err(if known { Error::Stale } else { Error::NotFound });
    }
    records_changed(&mut tx, workshop).await?;
    tx.commit().await?;
    Ok(())
}

/// Withdraws readings: kept and shown, but no longer learned from.
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
        "update reading set withdrawn_at = coalesce(withdrawn_at, now())
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
