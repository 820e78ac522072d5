//! Server-side sessions, and the browsers a person is known from. Only hashes of tokens are kept.

use crate::Error;
use crate::role::Role;
use crate::workshop::WorkshopId;
use sqlx::{Acquire, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;

/// Days a session lasts after the last sign-in.
pub const DAYS: i32 = 30;

/// A session that lasts.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Session {
    /// Id.
    pub id: Uuid,
    /// On what kind of device, in words.
    pub device: String,
    /// Since when.
    pub created_at: OffsetDateTime,
    /// When it was last used, to a few minutes.
    pub last_seen_at: OffsetDateTime,
}

/// Whose session it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Found {
    /// The session.
    pub id: Uuid,
    /// The shop.
    pub workshop: WorkshopId,
    /// The person.
    pub person_id: Uuid,
    /// What they may do.
    pub role: Role,
}

/// Opens a session under the hash of its token, and forgets those that ran out.
///
/// # Errors
/// The database cannot be written.
pub async fn open(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    person_id: Uuid,
    device: &str,
    token_hash: &[u8],
) -> Result<(), Error> {
    let mut db = db.acquire().await?;
    sqlx::query!("delete from session where expires_at < now()")
        .execute(&mut *db)
        .await?;
    sqlx::query!(
        "insert into session (token_hash, workshop_id, person_id, device, expires_at)
         values ($1, $2, $3, $4, now() + make_interval(days => $5))",
        token_hash,
        workshop.uuid(),
        person_id,
        device,
        DAYS
    )
    .execute(&mut *db)
    .await?;
    Ok(())
}

/// Whose session it is by the hash of its token; that it was used is noted now and then.
///
/// # Errors
/// The database cannot be read.
pub async fn find(db: impl PgExecutor<'_>, token_hash: &[u8]) -> Result<Option<Found>, Error> {
    let row = sqlx::query!(
        r#"with used as (
               update session set last_seen_at = now()
               where token_hash = $1 and last_seen_at < now() - interval '5 minutes'
           )
           select s.id, s.workshop_id, s.person_id, p.role as "role: Role"
           from session s join person p on p.workshop_id = s.workshop_id and p.id = s.person_id
           where s.token_hash = $1 and s.expires_at > now() and p.left_at is null"#,
        token_hash
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| Found {
        id: r.id,
        workshop: WorkshopId::new(r.workshop_id),
        person_id: r.person_id,
        role: r.role,
    }))
}

/// The sessions of a person, the last used first.
///
/// # Errors
/// The database cannot be read.
pub async fn list(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    person_id: Uuid,
) -> Result<Vec<Session>, Error> {
    Ok(sqlx::query_as!(
        Session,
        "select id, device, created_at, last_seen_at from session
         where workshop_id = $1 and person_id = $2 and expires_at > now() order by last_seen_at desc, id",
        workshop.uuid(),
        person_id
    )
    .fetch_all(db)
    .await?)
}

/// Ends a session of a person.
///
/// # Errors
/// [`Error::NotFound`] when they have no such session.
pub async fn end(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    person_id: Uuid,
    id: Uuid,
) -> Result<(), Error> {
    let done = sqlx::query!(
        "delete from session where workshop_id = $1 and person_id = $2 and id = $3",
        workshop.uuid(),
        person_id,
        id
    )
    .execute(db)
    .await?;
    crate::one_at_least(&done)
}

/// Ends a session by the hash of its token.
///
/// # Errors
/// The database cannot be written.
pub async fn close(db: impl PgExecutor<'_>, token_hash: &[u8]) -> Result<(), Error> {
    sqlx::query!("delete from session where token_hash = $1", token_hash)
        .execute(db)
        .await?;
    Ok(())
}

/// A browser is known as one of a person's, by the hash of the secret it keeps.
///
/// # Errors
/// The database cannot be written.
pub async fn know_device(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    person_id: Uuid,
    secret_hash: &[u8],
) -> Result<(), Error> {
    sqlx::query!(
        "insert into known_device (secret_hash, workshop_id, person_id) values ($1, $2, $3)
         on conflict do nothing",
        secret_hash,
        workshop.uuid(),
        person_id
    )
    .execute(db)
    .await?;
    Ok(())
}

/// True when the person with this address signed in from that browser before.
///
/// # Errors
/// The database cannot be read.
pub async fn is_known_device(
    db: impl PgExecutor<'_>,
    email: &str,
    secret_hash: &[u8],
) -> Result<bool, Error> {
    Ok(sqlx::query_scalar!(
        r#"select exists (
               select 1 from known_device d
               join person p on p.workshop_id = d.workshop_id and p.id = d.person_id
               where d.secret_hash = $1 and p.email_key = $2 and p.left_at is null) as "known!""#,
        secret_hash,
        crate::email::key(email)
    )
    .fetch_one(db)
    .await?)
}
