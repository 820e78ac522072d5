//! Bearer tokens for scripts. The token itself is shown once; only its hash is kept.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::PgExecutor;
use time::OffsetDateTime;
use uuid::Uuid;

/// A token, without its secret.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Token {
    /// Id.
    pub id: Uuid,
    /// What it is for.
    pub name: String,
    /// When it was made.
    pub created_at: OffsetDateTime,
}

/// Tokens that work, newest first.
///
/// # Errors
/// The database cannot be read.
pub async fn list(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<Token>, Error> {
    Ok(sqlx::query_as!(
        Token,
        "select id, name, created_at from api_token
         where workshop_id = $1 and revoked_at is null order by id desc",
        workshop.uuid()
    )
    .fetch_all(db)
    .await?)
}

/// Keeps a new token under the hash of its secret.
///
/// # Errors
/// The database cannot be written.
pub async fn create(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    person_id: Uuid,
    name: &str,
    token_hash: &[u8],
) -> Result<Token, Error> {
    Ok(sqlx::query_as!(
        Token,
        "insert into api_token (id, workshop_id, person_id, name, token_hash)
         values ($1, $2, $3, $4, $5) returning id, name, created_at",
        Uuid::now_v7(),
        workshop.uuid(),
        person_id,
        name,
        token_hash
    )
    .fetch_one(db)
    .await?)
}

/// Revokes a token for good.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such working token.
pub async fn revoke(db: impl PgExecutor<'_>, workshop: WorkshopId, id: Uuid) -> Result<(), Error> {
    let done = sqlx::query!(
        "update api_token set revoked_at = now()
         where workshop_id = $1 and id = $2 and revoked_at is null",
        workshop.uuid(),
        id
    )
    .execute(db)
    .await?;
    if done.rows_affected() == 0 {
        Err(Error::NotFound)
    } else {
        Ok(())
    }
}

/// The shop and person behind a token's hash.
///
/// # Errors
/// The database cannot be read.
pub async fn find(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
) -> Result<Option<(WorkshopId, Uuid)>, Error> {
    let row = sqlx::query!(
        "select workshop_id, person_id from api_token where token_hash = $1 and revoked_at is null",
        token_hash
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| (WorkshopId::new(r.workshop_id), r.person_id)))
}
