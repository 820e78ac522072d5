//! Photographs of a blade.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::types::Json;
use sqlx::{Acquire, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::record::picture::TwoPoints;

/// A photograph, without its picture.
#[derive(Debug, Clone, PartialEq)]
pub struct Photo {
    /// Id.
    pub id: Uuid,
    /// The firing it shows the outcome of.
    pub firing_id: Option<Uuid>,
    /// Dots across.
    pub width: i32,
    /// Dots down.
    pub height: i32,
    /// How it lies over the blade, once said.
    pub scale: Option<TwoPoints>,
    /// When it was taken, or sent.
    pub taken_at: OffsetDateTime,
}

/// A photograph to be kept.
#[derive(Debug, Clone, Copy)]
pub struct NewPhoto<'a> {
    /// Id, made by the client.
    pub id: Uuid,
    /// The latest firing of the blade.
    pub firing_id: Option<Uuid>,
    /// The picture, as JPEG.
    pub jpeg: &'a [u8],
    /// Dots across and down.
    pub size: (i32, i32),
}

/// The photographs of a blade, oldest first.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such blade.
pub async fn of_blade(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    blade_id: Uuid,
) -> Result<Vec<Photo>, Error> {
    let mut db = db.acquire().await?;
    crate::blade::get(&mut *db, workshop, blade_id).await?;
    all(&mut *db, workshop, blade_id).await
}

async fn all(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
) -> Result<Vec<Photo>, Error> {
    let rows = sqlx::query!(
        r#"select id, firing_id, width, height, scale as "scale: Json<TwoPoints>", taken_at from photo
           where workshop_id = $1 and blade_id = $2 and withdrawn_at is null order by taken_at, id"#,
        workshop.uuid(),
        blade_id
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| Photo {
            id: r.id,
            firing_id: r.firing_id,
            width: r.width,
            height: r.height,
            scale: r.scale.map(|s| s.0),
            taken_at: r.taken_at,
        })
        .collect())
}

/// Keeps a photograph; the same id again changes nothing.
///
/// # Errors
/// [`Error::NotFound`] when the id is another shop's.
pub async fn create(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    blade_id: Uuid,
    new: NewPhoto<'_>,
) -> Result<Photo, Error> {
    let mut db = db.acquire().await?;
    sqlx::query!(
        "insert into photo (id, workshop_id, blade_id, firing_id, jpeg, width, height, taken_at)
         values ($1, $2, $3, $4, $5, $6, $7, now()) on conflict (id) do nothing",
        new.id,
        workshop.uuid(),
        blade_id,
        new.firing_id,
        new.jpeg,
        new.size.0,
        new.size.1
    )
    .execute(&mut *db)
    .await?;
    let all = all(&mut *db, workshop, blade_id).await?;
    all.into_iter()
        .find(|p| p.id == new.id)
        .ok_or(Error::NotFound)
}

/// The picture, as JPEG.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn jpeg(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
    id: Uuid,
) -> Result<Vec<u8>, Error> {
    Ok(sqlx::query_scalar!(
        "select jpeg from photo where workshop_id = $1 and blade_id = $2 and id = $3",
        workshop.uuid(),
        blade_id,
        id
    )
    .fetch_one(db)
    .await?)
}

/// Says how it lies over the blade.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn lay(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
    id: Uuid,
    scale: &TwoPoints,
) -> Result<(), Error> {
    crate::one_at_least(
        &sqlx::query!(
            "update photo set scale = $4 where workshop_id = $1 and blade_id = $2 and id = $3",
            workshop.uuid(),
            blade_id,
            id,
            serde_json::to_value(scale)?
        )
        .execute(db)
        .await?,
    )
}

/// Withdraws a photograph: no longer shown.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn withdraw(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
    id: Uuid,
) -> Result<(), Error> {
    crate::one_at_least(
        &sqlx::query!(
            "update photo set withdrawn_at = coalesce(withdrawn_at, now())
             where workshop_id = $1 and blade_id = $2 and id = $3",
            workshop.uuid(),
            blade_id,
            id
        )
        .execute(db)
        .await?,
    )
}
