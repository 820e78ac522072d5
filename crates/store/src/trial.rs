//! Coupon trials of unknown steel.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::types::Json;
use sqlx::{Acquire, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::record::trial::Entry;

/// A trial.
#[derive(Debug, Clone, PartialEq)]
pub struct Trial {
    /// Id.
    pub id: Uuid,
    /// What the steel is called until more is known.
    pub name: String,
    /// What was done and seen, in order.
    pub entries: Vec<Entry>,
    /// The house steel it became.
    pub steel_id: Option<Uuid>,
    /// Goes up with every change.
    pub version: i64,
    /// When it began.
    pub created_at: OffsetDateTime,
}

struct Row {
    id: Uuid,
    name: String,
    entries: Json<Vec<Entry>>,
    steel_id: Option<Uuid>,
    version: i64,
    created_at: OffsetDateTime,
}

impl From<Row> for Trial {
    fn from(r: Row) -> Self {
        Self {
            id: r.id,
            name: r.name,
            entries: r.entries.0,
            steel_id: r.steel_id,
            version: r.version,
            created_at: r.created_at,
        }
    }
}

/// Every trial, newest first.
///
/// # Errors
/// The database cannot be read.
pub async fn list(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<Trial>, Error> {
    let rows = sqlx::query_as!(
        Row,
        r#"select id, name, entries as "entries: Json<Vec<Entry>>", steel_id, version, created_at
           from trial where workshop_id = $1 order by id desc"#,
        workshop.uuid()
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(Trial::from).collect())
}

/// One trial.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn get(db: impl PgExecutor<'_>, workshop: WorkshopId, id: Uuid) -> Result<Trial, Error> {
    let row = sqlx::query_as!(
        Row,
        r#"select id, name, entries as "entries: Json<Vec<Entry>>", steel_id, version, created_at
           from trial where workshop_id = $1 and id = $2"#,
        workshop.uuid(),
        id
    )
    .fetch_one(db)
    .await?;
    Ok(row.into())
}

/// Begins a trial; the same id again is the same trial.
///
/// # Errors
/// [`Error::NotFound`] when the id is another shop's.
pub async fn create(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    name: &str,
) -> Result<Trial, Error> {
    let mut db = db.acquire().await?;
    sqlx::query!(
        "insert into trial (id, workshop_id, name) values ($1, $2, $3) on conflict (id) do nothing",
        id,
        workshop.uuid(),
        name
    )
    .execute(&mut *db)
    .await?;
    get(&mut *db, workshop, id).await
}

/// A trial as it was, from an export.
#[derive(Debug, Clone, PartialEq)]
pub struct PastTrial {
    /// Name.
    pub name: String,
    /// What was done and seen.
    pub entries: Vec<Entry>,
    /// The house steel it became.
    pub steel_id: Option<Uuid>,
}

/// Puts a trial in as it was.
pub(crate) async fn insert(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    id: Uuid,
    past: &PastTrial,
) -> Result<(), Error> {
    sqlx::query!(
        "insert into trial (id, workshop_id, name, entries, steel_id) values ($1, $2, $3, $4, $5)
         on conflict (id) do nothing",
        id,
        workshop.uuid(),
        past.name,
        Json(&past.entries) as _,
        past.steel_id
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Keeps what was done and seen so far.
///
/// # Errors
/// [`Error::NotFound`]; [`Error::Stale`]; [`Error::NotNow`] when it has become a steel already.
pub async fn save(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    entries: &[Entry],
    version: i64,
) -> Result<Trial, Error> {
    let mut db = db.acquire().await?;
    let known = get(&mut *db, workshop, id).await?;
    if known.steel_id.is_some() {
        return Err(Error::not_now(
            "entries",
            "This trial has become a steel of the shop. Begin another for more coupons.",
        ));
    }
    let done = sqlx::query!(
        "update trial set entries = $3, version = version + 1, updated_at = now()
         where workshop_id = $1 and id = $2 and version = $4 and steel_id is null",
        workshop.uuid(),
        id,
        Json(entries) as _,
        version
    )
    .execute(&mut *db)
    .await?;
    if done.rows_affected() == 0 {
        return Err(Error::Stale);
    }
    get(&mut *db, workshop, id).await
}

/// Says which steel it became.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn became(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    steel_id: Uuid,
) -> Result<Trial, Error> {
    let mut db = db.acquire().await?;
    sqlx::query!(
        "update trial set steel_id = $3, version = version + 1, updated_at = now()
         where workshop_id = $1 and id = $2 and steel_id is null",
        workshop.uuid(),
        id,
        steel_id
    )
    .execute(&mut *db)
    .await?;
    get(&mut *db, workshop, id).await
}
