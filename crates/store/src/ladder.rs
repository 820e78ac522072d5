//! Ladders of heats and of tempers on steel that is known.

use crate::Error;
use crate::workshop::{WorkshopId, records_changed};
use sqlx::types::Json;
use sqlx::{Acquire, PgConnection, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::record::ladder::{Along, Ladder, Rung, Treatment};

/// A ladder as it is written.
#[derive(Debug, Clone, PartialEq)]
pub struct NewLadder {
    /// What it is called.
    pub name: String,
    /// Key of the table, or id of a steel of the shop.
    pub steel: String,
    /// The ladder.
    pub ladder: Ladder,
}

/// A ladder of the shop.
#[derive(Debug, Clone, PartialEq)]
pub struct LadderRow {
    /// Id.
    pub id: Uuid,
    /// What was written.
    pub of: NewLadder,
    /// Goes up with every change.
    pub version: i64,
    /// When it began.
    pub created_at: OffsetDateTime,
}

struct Row {
    id: Uuid,
    name: String,
    steel: String,
    along: String,
    treatment: Json<Treatment>,
    rungs: Json<Vec<Rung>>,
    version: i64,
    created_at: OffsetDateTime,
}

impl From<Row> for LadderRow {
    fn from(r: Row) -> Self {
        Self {
            id: r.id,
            of: NewLadder {
                name: r.name,
                steel: r.steel,
                ladder: Ladder {
                    along: r.along.parse().unwrap_or(Along::Heats),
                    treatment: r.treatment.0,
                    rungs: r.rungs.0,
                },
            },
            version: r.version,
            created_at: r.created_at,
        }
    }
}

/// Every ladder, newest first.
///
/// # Errors
/// The database cannot be read.
pub async fn list(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<LadderRow>, Error> {
    let rows = sqlx::query_as!(
        Row,
        r#"select id, name, steel, along, treatment as "treatment: Json<Treatment>", rungs as "rungs: Json<Vec<Rung>>",
                  version, created_at
           from ladder where workshop_id = $1 order by id desc"#,
        workshop.uuid()
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(LadderRow::from).collect())
}

/// One ladder.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn get(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    id: Uuid,
) -> Result<LadderRow, Error> {
    let row = sqlx::query_as!(
        Row,
        r#"select id, name, steel, along, treatment as "treatment: Json<Treatment>", rungs as "rungs: Json<Vec<Rung>>",
                  version, created_at
           from ladder where workshop_id = $1 and id = $2"#,
        workshop.uuid(),
        id
    )
    .fetch_one(db)
    .await?;
    Ok(row.into())
}

/// Begins a ladder; the same id again is the same ladder.
///
/// # Errors
/// [`Error::NotFound`] when the id is another shop's.
pub async fn create(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    new: &NewLadder,
) -> Result<LadderRow, Error> {
    let mut db = db.acquire().await?;
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    insert(&mut tx, workshop, id, new, OffsetDateTime::now_utc()).await?;
    let made = get(&mut *tx, workshop, id).await?;
    tx.commit().await?;
    Ok(made)
}

/// Puts a ladder in as it is written.
pub(crate) async fn insert(
    tx: &mut PgConnection,
    workshop: WorkshopId,
    id: Uuid,
    new: &NewLadder,
    began_at: OffsetDateTime,
) -> Result<(), Error> {
    sqlx::query!(
        "insert into ladder (id, workshop_id, name, steel, along, treatment, rungs, created_at)
         values ($1, $2, $3, $4, $5, $6, $7, $8) on conflict (id) do nothing",
        id,
        workshop.uuid(),
        new.name,
        new.steel,
        <&str>::from(new.ladder.along),
        Json(&new.ladder.treatment) as _,
        Json(&new.ladder.rungs) as _,
        began_at
    )
    .execute(&mut *tx)
    .await?;
    records_changed(tx, workshop).await
}

/// Changes a ladder, or keeps what was read of it. Steel and kind stay what they are.
///
/// # Errors
/// [`Error::NotFound`]; [`Error::Stale`].
pub async fn update(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    new: &NewLadder,
    version: i64,
) -> Result<LadderRow, Error> {
    let mut db = db.acquire().await?;
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    get(&mut *tx, workshop, id).await?;
    let done = sqlx::query!(
        "update ladder set name = $3, treatment = $4, rungs = $5, version = version + 1, updated_at = now()
         where workshop_id = $1 and id = $2 and version = $6",
        workshop.uuid(),
        id,
        new.name,
        Json(&new.ladder.treatment) as _,
        Json(&new.ladder.rungs) as _,
        version
    )
    .execute(&mut *tx)
    .await?;
    if done.rows_affected() == 0 {
        return Err(Error::Stale);
    }
    records_changed(&mut tx, workshop).await?;
    let saved = get(&mut *tx, workshop, id).await?;
    tx.commit().await?;
    Ok(saved)
}

/// Takes a ladder away with all that was read of it.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn delete(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
) -> Result<(), Error> {
    let mut db = db.acquire().await?;
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    let done = sqlx::query!(
        "delete from ladder where workshop_id = $1 and id = $2",
        workshop.uuid(),
        id
    )
    .execute(&mut *tx)
    .await?;
    if done.rows_affected() == 0 {
        return Err(Error::NotFound);
    }
    records_changed(&mut tx, workshop).await?;
    tx.commit().await?;
    Ok(())
}
