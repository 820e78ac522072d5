//! How a person who forgot the password gets back in: by a code they kept, or by a link that the owner made. Both
//! work once; only hashes are kept.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::{Acquire, PgExecutor, Postgres};
use uuid::Uuid;

/// Hours a link works.
pub const LINK_HOURS: i32 = 24;

/// Who comes back.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Recovered {
    /// The shop.
    pub workshop: WorkshopId,
    /// The person.
    pub person_id: Uuid,
}

/// Keeps new codes of a person; those before work no more.
///
/// # Errors
/// The database cannot be written.
pub async fn set_codes(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    person_id: Uuid,
    hashes: &[Vec<u8>],
) -> Result<(), Error> {
    let mut tx = db.begin().await?;
    sqlx::query!(
        "delete from recovery where workshop_id = $1 and person_id = $2 and kind = 'code'",
        workshop.uuid(),
        person_id
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "insert into recovery (secret_hash, workshop_id, person_id, kind)
         select hash, $1, $2, 'code' from unnest($3::bytea[]) as hash",
        workshop.uuid(),
        person_id,
        hashes
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(())
}

/// How many codes of a person still work.
///
/// # Errors
/// The database cannot be read.
pub async fn codes_left(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    person_id: Uuid,
) -> Result<i64, Error> {
    Ok(sqlx::query_scalar!(
        r#"select count(*) as "count!" from recovery
           where workshop_id = $1 and person_id = $2 and kind = 'code'"#,
        workshop.uuid(),
        person_id
    )
    .fetch_one(db)
    .await?)
}

/// Keeps a link for a person of the shop; a link before works no more.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such person.
pub async fn set_link(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    person_id: Uuid,
    secret_hash: &[u8],
) -> Result<(), Error> {
    let mut tx = db.begin().await?;
    sqlx::query!(
        "delete from recovery where workshop_id = $1 and person_id = $2 and kind = 'link'",
        workshop.uuid(),
        person_id
    )
    .execute(&mut *tx)
    .await?;
    let done = sqlx::query!(
        "insert into recovery (secret_hash, workshop_id, person_id, kind, expires_at)
         select $3, workshop_id, id, 'link', now() + make_interval(hours => $4) from person
         where workshop_id = $1 and id = $2 and left_at is null",
        workshop.uuid(),
        person_id,
        secret_hash,
        LINK_HOURS
    )
    .execute(&mut *tx)
    .await?;
    crate::one_at_least(&done)?;
    tx.commit().await?;
    Ok(())
}

/// Uses up a code of the person with this address.
///
/// # Errors
/// [`Error::NotFound`] when it is none of theirs (any more).
pub async fn use_code(
    db: impl PgExecutor<'_>,
    email: &str,
    secret_hash: &[u8],
) -> Result<Recovered, Error> {
    let row = sqlx::query!(
        "delete from recovery r using person p
         where r.secret_hash = $1 and r.kind = 'code' and p.workshop_id = r.workshop_id and p.id = r.person_id
             and p.email_key = $2 and p.left_at is null
         returning r.workshop_id, r.person_id",
        secret_hash,
        crate::email::key(email)
    )
    .fetch_one(db)
    .await?;
    Ok(Recovered {
        workshop: WorkshopId::new(row.workshop_id),
        person_id: row.person_id,
    })
}

/// Uses up a link.
///
/// # Errors
/// [`Error::NotFound`] when it does not work (any more).
pub async fn use_link(db: impl PgExecutor<'_>, secret_hash: &[u8]) -> Result<Recovered, Error> {
    let row = sqlx::query!(
        "delete from recovery r using person p
         where r.secret_hash = $1 and r.kind = 'link' and r.expires_at > now()
             and p.workshop_id = r.workshop_id and p.id = r.person_id and p.left_at is null
         returning r.workshop_id, r.person_id",
        secret_hash
    )
    .fetch_one(db)
    .await?;
    Ok(Recovered {
        workshop: WorkshopId::new(row.workshop_id),
        person_id: row.person_id,
    })
}
