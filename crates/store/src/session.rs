//! Server-side sessions and the count of failed sign-ins. Only hashes of tokens are kept.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::{Acquire, PgExecutor, Postgres};
use uuid::Uuid;

/// Days a session lasts after the last sign-in.
pub const DAYS: i32 = 30;
/// Failed sign-ins for one address within [`FAILURE_MINUTES`] before it must wait.
pub const MAX_FAILURES: i64 = 10;
/// See [`MAX_FAILURES`].
pub const FAILURE_MINUTES: i32 = 15;

/// Opens a session under the hash of its token, and forgets those that ran out.
///
/// # Errors
/// The database cannot be written.
pub async fn open(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    person_id: Uuid,
    token_hash: &[u8],
) -> Result<(), Error> {
    let mut db = db.acquire().await?;
    sqlx::query!("delete from session where expires_at < now()")
        .execute(&mut *db)
        .await?;
    sqlx::query!(
        "insert into session (token_hash, workshop_id, person_id, expires_at)
         values ($1, $2, $3, now() + make_interval(days => $4))",
        token_hash,
        workshop.uuid(),
        person_id,
        DAYS
    )
    .execute(&mut *db)
    .await?;
    Ok(())
}

/// The shop and person behind a session's token hash.
///
/// # Errors
/// The database cannot be read.
pub async fn find(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
) -> Result<Option<(WorkshopId, Uuid)>, Error> {
    let row = sqlx::query!(
        "select workshop_id, person_id from session where token_hash = $1 and expires_at > now()",
        token_hash
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| (WorkshopId::new(r.workshop_id), r.person_id)))
}

/// Ends a session.
///
/// # Errors
/// The database cannot be written.
pub async fn close(db: impl PgExecutor<'_>, token_hash: &[u8]) -> Result<(), Error> {
    sqlx::query!("delete from session where token_hash = $1", token_hash)
        .execute(db)
        .await?;
    Ok(())
}

/// Takes one of the tries that an address has: counted before the password is looked at, one try of an address after the other,
/// so that many at once are no more than many in a row. False when it failed too often lately.
///
/// # Errors
/// The database cannot be written.
pub async fn take_try(
    db: impl Acquire<'_, Database = Postgres>,
    email_hash: &[u8],
) -> Result<bool, Error> {
    let mut db = db.acquire().await?;
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    sqlx::query!(
        "select pg_advisory_xact_lock(hashtextextended(encode($1, 'hex'), 0))",
        email_hash
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!("delete from sign_in_failure where at < now() - interval '1 day'")
        .execute(&mut *tx)
        .await?;
    let taken = sqlx::query!(
        "insert into sign_in_failure (email_hash)
         select $1 where (select count(*) from sign_in_failure
             where email_hash = $1 and at > now() - make_interval(mins => $2)) < $3",
        email_hash,
        FAILURE_MINUTES,
        MAX_FAILURES
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(taken.rows_affected() > 0)
}

/// The password was right: the newest try was no failure.
///
/// # Errors
/// The database cannot be written.
pub async fn give_back_try(db: impl PgExecutor<'_>, email_hash: &[u8]) -> Result<(), Error> {
    sqlx::query!(
        "delete from sign_in_failure where ctid = (
             select ctid from sign_in_failure where email_hash = $1 order by at desc limit 1)",
        email_hash
    )
    .execute(db)
    .await?;
    Ok(())
}
