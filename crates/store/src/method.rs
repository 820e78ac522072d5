//! House methods: plans kept by name, with every version they had; and blades that came out well.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::types::Json;
use sqlx::{Acquire, PgConnection, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::process::plan::Plan;
use vatten_core::process::step::{FORMAT, Step, Unreadable, read_steps};

/// A house method.
#[derive(Debug, Clone, PartialEq)]
pub struct HouseMethod {
    /// Id.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// Why, in the smith's words.
    pub note: String,
    /// The steps; none when they cannot be read.
    pub steps: Vec<Step>,
    /// Why the steps cannot be read, when they cannot; they are kept as they are.
    pub unreadable: Option<Unreadable>,
    /// Goes up with every change.
    pub version: i64,
    /// When this version was saved.
    pub saved_at: OffsetDateTime,
}

fn steps_of(format: i32, stored: Vec<serde_json::Value>) -> (Vec<Step>, Option<Unreadable>) {
    match read_steps(format, stored) {
        Ok(steps) => (steps, None),
        Err(why) => (Vec::new(), Some(why)),
    }
}

/// Every house method in use, by name.
///
/// # Errors
/// The database cannot be read.
pub async fn list(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
) -> Result<Vec<HouseMethod>, Error> {
    let rows = sqlx::query!(
        r#"select id, name, note, format, steps as "steps: Json<Vec<serde_json::Value>>", version, updated_at
           from method where workshop_id = $1 and retired_at is null order by lower(name)"#,
        workshop.uuid()
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| {
            let (steps, unreadable) = steps_of(r.format, r.steps.0);
            HouseMethod {
                id: r.id,
                name: r.name,
                note: r.note,
                steps,
                unreadable,
                version: r.version,
                saved_at: r.updated_at,
            }
        })
        .collect())
}

/// One house method, retired or not.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn get(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    id: Uuid,
) -> Result<HouseMethod, Error> {
    let r = sqlx::query!(
        r#"select id, name, note, format, steps as "steps: Json<Vec<serde_json::Value>>", version, updated_at
           from method where workshop_id = $1 and id = $2"#,
        workshop.uuid(),
        id
    )
    .fetch_one(db)
    .await?;
    let (steps, unreadable) = steps_of(r.format, r.steps.0);
    Ok(HouseMethod {
        id: r.id,
        name: r.name,
        note: r.note,
        steps,
        unreadable,
        version: r.version,
        saved_at: r.updated_at,
    })
}

/// Every version a method had, newest first.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn versions(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
) -> Result<Vec<HouseMethod>, Error> {
    let mut db = db.acquire().await?;
    get(&mut *db, workshop, id).await?;
    let rows = sqlx::query!(
        r#"select method_id, name, note, format, steps as "steps: Json<Vec<serde_json::Value>>", version, saved_at
           from method_version where workshop_id = $1 and method_id = $2 order by version desc limit 200"#,
        workshop.uuid(),
        id
    )
    .fetch_all(&mut *db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| {
            let (steps, unreadable) = steps_of(r.format, r.steps.0);
            HouseMethod {
                id: r.method_id,
                name: r.name,
                note: r.note,
                steps,
                unreadable,
                version: r.version,
                saved_at: r.saved_at,
            }
        })
        .collect())
}

/// Keeps a plan under a name: a new method with `version` 0, a new version of one otherwise. The same
/// id again is the same method.
///
/// # Errors
/// [`Error::Refused`] at `name` when another method has it; [`Error::NotFound`]; [`Error::Stale`] when
/// it was changed meanwhile.
pub async fn save(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    name: &str,
    note: &str,
    plan: &Plan,
    version: i64,
) -> Result<HouseMethod, Error> {
    let mut db = db.acquire().await?;
    let steps = serde_json::to_value(plan.steps())?;
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    let written = if version == 0 {
        sqlx::query!(
            "insert into method (id, workshop_id, name, note, format, steps)
             values ($1, $2, $3, $4, $5, $6) on conflict (id) do nothing",
            id,
            workshop.uuid(),
            name,
            note,
            FORMAT,
            steps
        )
        .execute(&mut *tx)
        .await?
    } else {
        sqlx::query!(
            "update method set name = $3, note = $4, format = $5, steps = $6, retired_at = null,
                version = version + 1, updated_at = now()
             where workshop_id = $1 and id = $2 and version = $7",
            workshop.uuid(),
            id,
            name,
            note,
            FORMAT,
            steps,
            version
        )
        .execute(&mut *tx)
        .await?
    };
    if written.rows_affected() == 0 {
        tx.rollback().await?;
        let known = get(&mut *db, workshop, id).await?;
        // Sent twice, it is the same method; changed meanwhile, it is not.
        return if version == 0 && known.name == name {
            Ok(known)
        } else {
            Err(Error::Stale)
        };
    }
    keep_version(&mut *tx, workshop, id).await?;
    tx.commit().await?;
    get(&mut *db, workshop, id).await
}

/// Keeps a method as it is now among its versions.
async fn keep_version(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    id: Uuid,
) -> Result<(), Error> {
    sqlx::query!(
        "insert into method_version (workshop_id, method_id, version, name, note, format, steps)
         select workshop_id, id, version, name, note, format, steps from method
         where workshop_id = $1 and id = $2",
        workshop.uuid(),
        id
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Puts a new method in.
pub(crate) async fn insert(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    id: Uuid,
    name: &str,
    note: &str,
    plan: &Plan,
) -> Result<(), Error> {
    sqlx::query!(
        "insert into method (id, workshop_id, name, note, format, steps)
         values ($1, $2, $3, $4, $5, $6) on conflict (id) do nothing",
        id,
        workshop.uuid(),
        name,
        note,
        FORMAT,
        serde_json::to_value(plan.steps())?
    )
    .execute(&mut *connection)
    .await?;
    keep_version(connection, workshop, id).await
}

/// Takes a method out of use; it and its versions are kept.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn retire(db: impl PgExecutor<'_>, workshop: WorkshopId, id: Uuid) -> Result<(), Error> {
    let done = sqlx::query!(
        "update method set retired_at = coalesce(retired_at, now()) where workshop_id = $1 and id = $2",
        workshop.uuid(),
        id
    )
    .execute(db)
    .await?;
    crate::one_at_least(&done)?;
    Ok(())
}

/// A blade of a steel that was fired and read, those of nearest spine first.
#[derive(Debug, Clone, PartialEq)]
pub struct Like {
    /// The blade.
    pub blade_id: Uuid,
    /// Its name now.
    pub name: String,
}

/// Blades whose latest firing was of the same steel as a blade is now, and that were read after the temper:
/// those of nearest spine first, at most `limit`.
///
/// # Errors
/// The database cannot be read.
pub async fn like(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
    limit: i64,
) -> Result<Vec<Like>, Error> {
    Ok(sqlx::query_as!(
        Like,
        r#"select b.id as blade_id, b.name
           from blade me
           join blade b on b.workshop_id = me.workshop_id and b.id <> me.id
               and b.steel_key is not distinct from me.steel_key
               and b.house_steel_id is not distinct from me.house_steel_id
           join lateral (
               select id, made from firing
               where workshop_id = b.workshop_id and blade_id = b.id order by id desc limit 1
           ) f on true
           where me.workshop_id = $1 and me.id = $2
               and exists (select from reading r where r.workshop_id = b.workshop_id and r.blade_id = b.id
                   and r.firing_id = f.id and r.stage = 'tempered' and r.withdrawn_at is null)
           order by abs((f.made -> 'blade' ->> 'spine_mm')::double precision - me.spine_mm), b.id desc
           limit $3"#,
        workshop.uuid(),
        blade_id,
        limit
    )
    .fetch_all(db)
    .await?)
}
