//! Bars in stock.

use crate::Error;
use crate::blade::SteelRef;
use crate::workshop::{WorkshopId, records_changed};
use sqlx::types::Json;
use sqlx::{Acquire, PgExecutor, Postgres};
use uuid::Uuid;
use vatten_core::material::analysis::Analysis;
use vatten_core::prediction::laminate::LayerDraft;
use vatten_core::process::bar::{BarSize, Condition};

/// What is written of a bar; checked before it comes here.
#[derive(Debug, Clone, PartialEq)]
pub struct NewBar {
    /// What it is called in the shop.
    pub name: String,
    /// Steel, or that of the edge.
    pub steel: SteelRef,
    /// Layers, the edge among them; empty for a bar of one steel.
    pub layers: Vec<LayerDraft>,
    /// Size.
    pub size: BarSize,
    /// How it came.
    pub condition: Condition,
    /// The mill's own analysis.
    pub analysis: Option<Analysis>,
    /// Remark.
    pub note: String,
}

/// A bar in stock.
#[derive(Debug, Clone, PartialEq)]
pub struct Bar {
    /// Id.
    pub id: Uuid,
    /// What it is called in the shop.
    pub name: String,
    /// Key of a built-in steel, or id of one of the shop's own: that of the edge.
    pub steel: String,
    /// Layers, the edge among them; empty for a bar of one steel.
    pub layers: Vec<LayerDraft>,
    /// Size.
    pub size: BarSize,
    /// How it came.
    pub condition: Condition,
    /// The mill's own analysis.
    pub analysis: Option<Analysis>,
    /// Remark.
    pub note: String,
    /// Blades made from it.
    pub blades: i64,
    /// Goes up with every change.
    pub version: i64,
}

struct Row {
    id: Uuid,
    name: String,
    steel_key: Option<String>,
    house_steel_id: Option<Uuid>,
    layers: Json<Vec<LayerDraft>>,
    width_mm: f64,
    thickness_mm: f64,
    length_mm: f64,
    left_mm: f64,
    condition: String,
    analysis: Option<Json<Analysis>>,
    note: String,
    blades: i64,
    version: i64,
}

/// The condition of an identifier; unknown for one of another version.
fn condition(text: &str) -> Condition {
    serde_json::from_value(serde_json::Value::String(text.to_owned())).unwrap_or_default()
}

fn condition_id(condition: Condition) -> String {
    serde_json::to_value(condition)
        .ok()
        .and_then(|v| v.as_str().map(str::to_owned))
        .unwrap_or_default()
}

impl From<Row> for Bar {
    fn from(r: Row) -> Self {
        Self {
            id: r.id,
            name: r.name,
            steel: r
                .steel_key
                .or_else(|| r.house_steel_id.map(|id| id.to_string()))
                .unwrap_or_default(),
            layers: r.layers.0,
            size: BarSize {
                width_mm: r.width_mm,
                thickness_mm: r.thickness_mm,
                length_mm: r.length_mm,
                left_mm: r.left_mm,
            },
            condition: condition(&r.condition),
            analysis: r.analysis.map(|a| a.0),
            note: r.note,
            blades: r.blades,
            version: r.version,
        }
    }
}

macro_rules! bars {
    ($tail:tt, $($argument:expr),*) => {
        sqlx::query_as!(
            Row,
            r#"select b.id, b.name, b.steel_key, b.house_steel_id, b.layers as "layers: Json<Vec<LayerDraft>>",
                b.width_mm, b.thickness_mm, b.length_mm, b.left_mm, b.condition,
                b.analysis as "analysis: Json<Analysis>", b.note, b.version,
                (select count(*) from blade x where x.workshop_id = b.workshop_id and x.bar_id = b.id) as "blades!"
            from bar b "# + $tail,
            $($argument),*
        )
    };
}

/// Every bar, those with something left first.
///
/// # Errors
/// The database cannot be read.
pub async fn list(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<Bar>, Error> {
    let rows = bars!(
        "where b.workshop_id = $1 order by (b.left_mm = 0), lower(b.name)",
        workshop.uuid()
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(Bar::from).collect())
}

/// One bar.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn get(db: impl PgExecutor<'_>, workshop: WorkshopId, id: Uuid) -> Result<Bar, Error> {
    let row = bars!(
        "where b.workshop_id = $1 and b.id = $2",
        workshop.uuid(),
        id
    )
    .fetch_one(db)
    .await?;
    Ok(row.into())
}

/// Brings a bar into stock; the same id again is the same bar.
///
/// # Errors
/// [`Error::Refused`] at `name` when it is taken; [`Error::NotFound`] when the id is another shop's.
pub async fn create(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    new: &NewBar,
) -> Result<Bar, Error> {
    let mut db = db.acquire().await?;
    insert(&mut *db, workshop, id, new).await?;
    get(&mut *db, workshop, id).await
}

/// Puts a bar in.
pub(crate) async fn insert(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    id: Uuid,
    new: &NewBar,
) -> Result<(), Error> {
    let (key, house) = new.steel.parts();
    sqlx::query!(
        "insert into bar (id, workshop_id, name, steel_key, house_steel_id, layers, width_mm, thickness_mm,
            length_mm, left_mm, condition, analysis, note)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13) on conflict (id) do nothing",
        id,
        workshop.uuid(),
        new.name,
        key,
        house,
        Json(&new.layers) as _,
        new.size.width_mm,
        new.size.thickness_mm,
        new.size.length_mm,
        new.size.left_mm,
        condition_id(new.condition),
        new.analysis.map(Json) as _,
        new.note
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Changes a bar.
///
/// # Errors
/// [`Error::NotFound`], [`Error::Stale`], or as [`create`].
pub async fn update(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    new: &NewBar,
    version: i64,
) -> Result<Bar, Error> {
    let mut db = db.acquire().await?;
    let (key, house) = new.steel.parts();
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    let changed = sqlx::query!(
        "update bar set name = $3, steel_key = $4, house_steel_id = $5, layers = $6, width_mm = $7,
            thickness_mm = $8, length_mm = $9, left_mm = $10, condition = $11, analysis = $12, note = $13,
            version = version + 1, updated_at = now()
         where workshop_id = $1 and id = $2 and version = $14",
        workshop.uuid(),
        id,
        new.name,
        key,
        house,
        Json(&new.layers) as _,
        new.size.width_mm,
        new.size.thickness_mm,
        new.size.length_mm,
        new.size.left_mm,
        condition_id(new.condition),
        new.analysis.map(Json) as _,
        new.note,
        version
    )
    .execute(&mut *tx)
    .await?;
    if changed.rows_affected() == 0 {
        get(&mut *tx, workshop, id).await?;
        return Err(Error::Stale);
    }
    records_changed(&mut tx, workshop).await?;
    tx.commit().await?;
    get(&mut *db, workshop, id).await
}
