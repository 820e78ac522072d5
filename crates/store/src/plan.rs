//! A plan: its steps, until it is frozen for a firing; then it never changes.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::types::Json;
use sqlx::{Acquire, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::process::plan::Plan;
use vatten_core::process::step::{FORMAT, Step};

/// A plan of a blade.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanRow {
    /// Id.
    pub id: Uuid,
    /// Its blade.
    pub blade_id: Uuid,
    /// First plan of the blade, second, and so on.
    pub number: i32,
    /// The steps.
    pub steps: Vec<Step>,
    /// Frozen since; a frozen plan never changes.
    pub frozen_at: Option<OffsetDateTime>,
    /// Goes up with every change.
    pub version: i64,
}

struct Row {
    id: Uuid,
    blade_id: Uuid,
    number: i32,
    steps: Json<Vec<Step>>,
    frozen_at: Option<OffsetDateTime>,
    version: i64,
}

impl From<Row> for PlanRow {
    fn from(row: Row) -> Self {
        Self {
            id: row.id,
            blade_id: row.blade_id,
            number: row.number,
            steps: row.steps.0,
            frozen_at: row.frozen_at,
            version: row.version,
        }
    }
}

/// The latest plan of a blade.
///
/// # Errors
/// [`Error::NotFound`] when it has none yet, or the shop has no such blade.
pub async fn latest(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
) -> Result<PlanRow, Error> {
    let row = sqlx::query_as!(
        Row,
        r#"select id, blade_id, number, steps as "steps: Json<Vec<Step>>", frozen_at, version from plan
           where workshop_id = $1 and blade_id = $2 order by number desc limit 1"#,
        workshop.uuid(),
        blade_id
    )
    .fetch_one(db)
    .await?;
    Ok(row.into())
}

/// One plan.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn get(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    id: Uuid,
) -> Result<PlanRow, Error> {
    let row = sqlx::query_as!(
        Row,
        r#"select id, blade_id, number, steps as "steps: Json<Vec<Step>>", frozen_at, version from plan
           where workshop_id = $1 and id = $2"#,
        workshop.uuid(),
        id
    )
    .fetch_one(db)
    .await?;
    Ok(row.into())
}

/// Saves the draft plan of a blade. Without one (none yet, or the last is frozen) a new plan begins
/// and `version` is 0.
///
/// # Errors
/// [`Error::NotFound`] for an unknown blade, [`Error::Stale`] when the draft was changed meanwhile.
pub async fn save(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    blade_id: Uuid,
    plan: &Plan,
    version: i64,
) -> Result<PlanRow, Error> {
    let mut db = db.acquire().await?;
    crate::blade::get(&mut *db, workshop, blade_id).await?;
    if version > 0 {
        let steps = serde_json::to_value(plan.steps())?;
        let row = sqlx::query_as!(
            Row,
            r#"update plan set steps = $3, format = $4, version = version + 1, updated_at = now()
               where workshop_id = $1 and blade_id = $2 and frozen_at is null and version = $5
               returning id, blade_id, number, steps as "steps: Json<Vec<Step>>", frozen_at, version"#,
            workshop.uuid(),
            blade_id,
            steps,
            FORMAT,
            version
        )
        .fetch_optional(&mut *db)
        .await?;
        return row.map(PlanRow::from).ok_or(Error::Stale);
    }
    insert(&mut *db, workshop, blade_id, plan).await
}

/// Puts a new draft plan in.
pub(crate) async fn insert(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
    plan: &Plan,
) -> Result<PlanRow, Error> {
    let steps = serde_json::to_value(plan.steps())?;
    let row = sqlx::query_as!(
        Row,
        r#"insert into plan (id, workshop_id, blade_id, number, format, steps)
           select $1, $2, $3, coalesce(max(number), 0) + 1, $4, $5 from plan
           where workshop_id = $2 and blade_id = $3
           returning id, blade_id, number, steps as "steps: Json<Vec<Step>>", frozen_at, version"#,
        Uuid::now_v7(),
        workshop.uuid(),
        blade_id,
        FORMAT,
        steps
    )
    .fetch_one(db)
    .await?;
    Ok(row.into())
}
