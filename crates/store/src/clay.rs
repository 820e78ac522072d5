//! The clay laid out for a blade, and the line wanted of it.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::types::Json;
use sqlx::{Acquire, PgExecutor, Postgres};
use uuid::Uuid;
use vatten_core::geometry::clay::ClayDraft;

/// Clay of a blade.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct BladeClay {
    /// As painted; bare when nothing was.
    pub clay: ClayDraft,
    /// The line that is wanted: [x, height above the edge], mm; may be empty.
    pub wanted: Vec<[f64; 2]>,
    /// Goes up with every change; 0 before the first.
    pub version: i64,
}

impl BladeClay {
    /// The clay, when there is any.
    #[must_use]
    pub fn painted(&self) -> Option<&ClayDraft> {
        (self.clay != ClayDraft::default()).then_some(&self.clay)
    }
}

/// The clay of a blade; bare when none was painted.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such blade.
pub async fn get(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
) -> Result<BladeClay, Error> {
    let row = sqlx::query!(
        r#"select c.clay as "clay?: Json<ClayDraft>", c.wanted as "wanted?: Json<Vec<[f64; 2]>>",
               c.version as "version?"
           from blade b left join clay c on c.workshop_id = b.workshop_id and c.blade_id = b.id
           where b.workshop_id = $1 and b.id = $2"#,
        workshop.uuid(),
        blade_id
    )
    .fetch_one(db)
    .await?;
    Ok(BladeClay {
        clay: row.clay.map(|c| c.0).unwrap_or_default(),
        wanted: row.wanted.map(|w| w.0).unwrap_or_default(),
        version: row.version.unwrap_or(0),
    })
}

/// Saves the clay of a blade; `version` is 0 before the first.
///
/// # Errors
/// [`Error::NotFound`]; [`Error::Stale`] when it was changed meanwhile.
pub async fn save(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    blade_id: Uuid,
    clay: &ClayDraft,
    wanted: &[[f64; 2]],
    version: i64,
    person_id: Option<Uuid>,
) -> Result<BladeClay, Error> {
    let mut db = db.acquire().await?;
    get(&mut *db, workshop, blade_id).await?;
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    let done = sqlx::query!(
        "insert into clay (workshop_id, blade_id, clay, wanted)
         select $1, $2, $3, $4 where $5::bigint = 0
         on conflict (workshop_id, blade_id) do nothing",
        workshop.uuid(),
        blade_id,
        Json(clay) as _,
        Json(wanted) as _,
        version
    )
    .execute(&mut *tx)
    .await?;
    if done.rows_affected() == 0 {
        let changed = sqlx::query!(
            "update clay set clay = $3, wanted = $4, version = version + 1, updated_at = now()
             where workshop_id = $1 and blade_id = $2 and version = $5",
            workshop.uuid(),
            blade_id,
            Json(clay) as _,
            Json(wanted) as _,
            version
        )
        .execute(&mut *tx)
        .await?;
        if changed.rows_affected() == 0 {
            return Err(Error::Stale);
        }
    }
    crate::edit::clay_painted(&mut tx, workshop, blade_id, person_id).await?;
    tx.commit().await?;
    get(&mut *db, workshop, blade_id).await
}

/// Puts clay in as it was.
pub(crate) async fn insert(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
    clay: &ClayDraft,
    wanted: &[[f64; 2]],
) -> Result<(), Error> {
    sqlx::query!(
        "insert into clay (workshop_id, blade_id, clay, wanted) values ($1, $2, $3, $4)",
        workshop.uuid(),
        blade_id,
        Json(clay) as _,
        Json(wanted) as _
    )
    .execute(db)
    .await?;
    Ok(())
}
