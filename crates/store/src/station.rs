//! A station: a place or tool that work is done at or measured with, and that results are learned about.

use crate::Error;
use crate::workshop::{WorkshopId, records_changed};
use sqlx::types::Json;
use sqlx::{Acquire, PgConnection, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::material::medium::Medium;
use vatten_core::process::capacity::Capacity;
use vatten_core::process::station::{Scale, StationKind};
use vatten_core::process::tank::{Tank, Tanks};
use vatten_core::quantity::units::{Litres, Quantity};
use vatten_core::record::cooling_curve::MeasuredBath;
use vatten_core::record::device::Device;

/// A station of the shop.
#[derive(Debug, Clone, PartialEq)]
pub struct Station {
    /// Id.
    pub id: Uuid,
    /// What it is.
    pub kind: StationKind,
    /// What it shows, and so can be connected and checked for; none when it shows nothing.
    pub scale: Option<Scale>,
    /// Name.
    pub name: String,
    /// Of a tank: the medium in it.
    pub medium: Option<String>,
    /// Of a tank: how much, l.
    pub litres: Option<f64>,
    /// Of a tank: when what is in it was put in.
    pub filled_at: Option<OffsetDateTime>,
    /// Of a tank: what it does, where that was measured.
    pub curve: Option<MeasuredBath>,
    /// Remark.
    pub note: String,
    /// How it is reached, when it is connected.
    pub device: Option<Device>,
    /// What it takes, as far as the shop says.
    pub capacity: Capacity,
    /// No longer used: kept for the records.
    pub retired_at: Option<OffsetDateTime>,
    /// Goes up with every change.
    pub version: i64,
}

/// The tanks among stations that were in use at a time, with what was in them since.
#[must_use]
pub fn tanks(all: &[Station], at: OffsetDateTime) -> Tanks {
    let tank = |s: &Station| {
        let medium = Medium::parse(s.medium.as_deref()?)?;
        Some(Tank {
            medium,
            litres: s.litres.map(Litres::clamped),
            own: s.curve.as_ref().map(MeasuredBath::own),
        })
    };
    all.iter()
        .filter(|s| s.retired_at.is_none_or(|gone| gone > at))
        .filter(|s| s.filled_at.is_none_or(|since| since <= at))
        .filter_map(|s| Some((s.id, tank(s)?)))
        .collect()
}

/// What a shop says of a station.
#[derive(Debug, Clone, PartialEq)]
pub struct NewStation {
    /// What it is.
    pub kind: StationKind,
    /// Name.
    pub name: String,
    /// Medium of a tank.
    pub medium: Option<String>,
    /// Volume of a tank, l.
    pub litres: Option<f64>,
    /// When what is in a tank was put in.
    pub filled_at: Option<OffsetDateTime>,
    /// What a new tank does, where that was measured; of a known one kept by [`set_curve`] alone.
    pub curve: Option<MeasuredBath>,
    /// Remark.
    pub note: String,
    /// How it is reached.
    pub device: Option<Device>,
    /// What it takes.
    pub capacity: Capacity,
    /// No longer used.
    pub retired: bool,
}

impl From<&Station> for NewStation {
    fn from(station: &Station) -> Self {
        Self {
            kind: station.kind,
            name: station.name.clone(),
            medium: station.medium.clone(),
            litres: station.litres,
            filled_at: station.filled_at,
            curve: station.curve.clone(),
            note: station.note.clone(),
            device: station.device.clone(),
            capacity: station.capacity,
            retired: station.retired_at.is_some(),
        }
    }
}

impl NewStation {
    /// One of a kind with a name, and nothing else known.
    #[must_use]
    pub fn named(kind: StationKind, name: String) -> Self {
        Self {
            kind,
            name,
            medium: None,
            litres: None,
            filled_at: None,
            curve: None,
            note: String::new(),
            device: None,
            capacity: Capacity::default(),
            retired: false,
        }
    }
}

struct Row {
    id: Uuid,
    kind: String,
    name: String,
    medium: Option<String>,
    litres: Option<f64>,
    filled_at: Option<OffsetDateTime>,
    curve: Option<Json<MeasuredBath>>,
    note: String,
    device: Option<Json<Device>>,
    capacity: Json<Capacity>,
    retired_at: Option<OffsetDateTime>,
    version: i64,
}

impl From<Row> for Station {
    fn from(row: Row) -> Self {
        // The table allows no other kind.
        let kind = StationKind::parse(&row.kind).unwrap_or(StationKind::Kiln);
        Self {
            id: row.id,
            kind,
            scale: kind.scale(),
            name: row.name,
            medium: row.medium,
            litres: row.litres,
            filled_at: row.filled_at,
            curve: row.curve.map(|c| c.0),
            note: row.note,
            device: row.device.map(|d| d.0),
            capacity: row.capacity.0,
            retired_at: row.retired_at,
            version: row.version,
        }
    }
}

/// All stations, by kind and name, those no longer used too.
///
/// # Errors
/// The database cannot be read.
pub async fn list(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<Station>, Error> {
    let rows = sqlx::query_as!(
        Row,
        r#"select id, kind, name, medium, litres, filled_at,
             curve as "curve: Json<MeasuredBath>", note, device as "device: Json<Device>",
             capacity as "capacity: Json<Capacity>", retired_at, version
           from station where workshop_id = $1 order by kind, lower(name)"#,
        workshop.uuid()
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(Station::from).collect())
}

/// Adds a station; the same id again is the same station.
///
/// # Errors
/// [`Error::Refused`] at `name` when there is one of the kind with that name; [`Error::NotFound`]
/// when the id is another shop's.
pub async fn create(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    new: &NewStation,
) -> Result<Station, Error> {
    let mut db = db.acquire().await?;
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    insert(&mut tx, workshop, id, new, None).await?;
    tx.commit().await?;
    get(&mut *db, workshop, id).await
}

/// Puts a station in.
pub(crate) async fn insert(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    id: Uuid,
    new: &NewStation,
    retired_at: Option<OffsetDateTime>,
) -> Result<(), Error> {
    sqlx::query!(
        "insert into station (id, workshop_id, kind, name, medium, litres, note, device, retired_at, filled_at, curve, capacity)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12) on conflict (id) do nothing",
        id,
        workshop.uuid(),
        new.kind.id(),
        new.name,
        new.medium,
        new.litres,
        new.note,
        new.device.as_ref().map(Json) as _,
        retired_at,
        new.filled_at,
        new.curve.as_ref().map(Json) as _,
        Json(new.capacity) as _
    )
    .execute(&mut *connection)
    .await?;
    // A tank's name stands in what the records say.
    records_changed(connection, workshop).await
}

/// One station.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn get(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    id: Uuid,
) -> Result<Station, Error> {
    let row = sqlx::query_as!(
        Row,
        r#"select id, kind, name, medium, litres, filled_at,
             curve as "curve: Json<MeasuredBath>", note, device as "device: Json<Device>",
             capacity as "capacity: Json<Capacity>", retired_at, version
           from station where workshop_id = $1 and id = $2"#,
        workshop.uuid(),
        id
    )
    .fetch_one(db)
    .await?;
    Ok(row.into())
}

/// Saves a station; its kind stays.
///
/// # Errors
/// [`Error::NotFound`]; [`Error::Stale`] when `version` is not the current one; [`Error::Refused`] at
/// `name`.
pub async fn update(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    new: &NewStation,
    version: i64,
) -> Result<Station, Error> {
    let mut db = db.acquire().await?;
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    let changed = sqlx::query!(
        "update station set name = $3, medium = $5, litres = $6, note = $7, device = $8, filled_at = $10, capacity = $11,
             curve = case when medium is not distinct from $5 then curve end,
             retired_at = case when $9 then coalesce(retired_at, now()) end, version = version + 1
         where workshop_id = $1 and id = $2 and version = $4",
        workshop.uuid(),
        id,
        new.name,
        version,
        new.medium,
        new.litres,
        new.note,
        new.device.as_ref().map(Json) as _,
        new.retired,
        new.filled_at,
        Json(new.capacity) as _
    )
    .execute(&mut *tx)
    .await?;
    if changed.rows_affected() == 0 {
        get(&mut *tx, workshop, id).await?;
        return Err(Error::Stale);
    }
    // Its name stands in what the records say.
    records_changed(&mut tx, workshop).await?;
    tx.commit().await?;
    get(&mut *db, workshop, id).await
}

/// Keeps what a tank does as it was measured, or forgets it; what is in it stays.
///
/// # Errors
/// [`Error::NotFound`]; [`Error::Stale`] when `version` is not the current one.
pub async fn set_curve(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    curve: Option<&MeasuredBath>,
    version: i64,
) -> Result<Station, Error> {
    let mut db = db.acquire().await?;
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    let changed = sqlx::query!(
        "update station set curve = $3, version = version + 1
         where workshop_id = $1 and id = $2 and version = $4",
        workshop.uuid(),
        id,
        curve.map(Json) as _,
        version
    )
    .execute(&mut *tx)
    .await?;
    if changed.rows_affected() == 0 {
        get(&mut *tx, workshop, id).await?;
        return Err(Error::Stale);
    }
    // Blades that went into it are learned from by it.
    records_changed(&mut tx, workshop).await?;
    tx.commit().await?;
    get(&mut *db, workshop, id).await
}
