//! Coupon trials of unknown steel.

use crate::Error;
use crate::steel::{self, HouseSteel};
use crate::workshop::{WorkshopId, records_changed};
use sqlx::types::Json;
use sqlx::{Acquire, PgConnection, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::material::reclaimed::Measured;
use vatten_core::material::salvage::Salvage;
use vatten_core::quantity::units::{Millimetres, Quantity};
use vatten_core::record::trial::Entry;

/// What is tried.
#[derive(Debug, Clone, PartialEq)]
pub struct Piece {
    /// What it was.
    pub was: Salvage,
    /// What was measured of it.
    pub measured: Measured,
    /// How thick its coupons are.
    pub thickness: Millimetres,
}

/// A trial.
#[derive(Debug, Clone, PartialEq)]
pub struct Trial {
    /// Id.
    pub id: Uuid,
    /// What the steel is called until more is known.
    pub name: String,
    /// What is tried.
    pub piece: Piece,
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
    was: String,
    measured: Json<Measured>,
    thickness_mm: f64,
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
            piece: Piece {
                was: Salvage::parse(&r.was).unwrap_or(Salvage::UnknownBar),
                measured: r.measured.0,
                thickness: Millimetres::clamped(r.thickness_mm),
            },
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
        r#"select id, name, was, measured as "measured: Json<Measured>", thickness_mm, entries as "entries: Json<Vec<Entry>>", steel_id, version, created_at
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
        r#"select id, name, was, measured as "measured: Json<Measured>", thickness_mm, entries as "entries: Json<Vec<Entry>>", steel_id, version, created_at
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
    piece: &Piece,
) -> Result<Trial, Error> {
    let mut db = db.acquire().await?;
    sqlx::query!(
        "insert into trial (id, workshop_id, name, was, measured, thickness_mm) values ($1, $2, $3, $4, $5, $6)
         on conflict (id) do nothing",
        id,
        workshop.uuid(),
        name,
        <&str>::from(piece.was),
        Json(&piece.measured) as _,
        piece.thickness.value()
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
    /// What is tried.
    pub piece: Piece,
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
        "insert into trial (id, workshop_id, name, was, measured, thickness_mm, entries, steel_id)
         values ($1, $2, $3, $4, $5, $6, $7, $8) on conflict (id) do nothing",
        id,
        workshop.uuid(),
        past.name,
        <&str>::from(past.piece.was),
        Json(&past.piece.measured) as _,
        past.piece.thickness.value(),
        Json(&past.entries) as _,
        past.steel_id
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Keeps what was done and seen so far; of one that has become a steel it is learned from.
///
/// # Errors
/// [`Error::NotFound`]; [`Error::Stale`]; [`Error::NotNow`] when the steel it became has an analysis since.
pub async fn save(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    entries: &[Entry],
    version: i64,
) -> Result<Trial, Error> {
    let mut db = db.acquire().await?;
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    let known = get(&mut *tx, workshop, id).await?;
    if let Some(steel_id) = known.steel_id {
        let became = steel::get(&mut *tx, workshop, steel_id).await?;
        if !became.is_reclaimed() {
            return Err(Error::not_now(
                "entries",
                "The steel of this trial is known since. Begin another for more coupons.",
            ));
        }
        records_changed(&mut tx, workshop).await?;
    }
    let done = sqlx::query!(
        "update trial set entries = $3, version = version + 1, updated_at = now()
         where workshop_id = $1 and id = $2 and version = $4",
        workshop.uuid(),
        id,
        Json(entries) as _,
        version
    )
    .execute(&mut *tx)
    .await?;
    if done.rows_affected() == 0 {
        return Err(Error::Stale);
    }
    tx.commit().await?;
    get(&mut *db, workshop, id).await
}

/// A steel without a paper, and the trial it came of.
#[derive(Debug, Clone, PartialEq)]
pub struct Source {
    /// The steel.
    pub steel: HouseSteel,
    /// The trial.
    pub trial: Trial,
}

/// Every steel that is known only by what it was, with its trial.
///
/// # Errors
/// The database cannot be read.
pub async fn sources(db: &mut PgConnection, workshop: WorkshopId) -> Result<Vec<Source>, Error> {
    let steels = steel::list(&mut *db, workshop).await?;
    if !steels.iter().any(HouseSteel::is_reclaimed) {
        return Ok(Vec::new());
    }
    let trials = list(&mut *db, workshop).await?;
    let of = |steel: HouseSteel| {
        let trial = trials
            .iter()
            .find(|t| t.steel_id == Some(steel.id))?
            .clone();
        Some(Source { steel, trial })
    };
    let reclaimed = steels.into_iter().filter(HouseSteel::is_reclaimed);
    Ok(reclaimed.filter_map(of).collect())
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
