//! Bearer tokens for scripts. The token itself is shown once; only its hash is kept.

use crate::Error;
use crate::role::{Role, Scope};
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
    /// What it may do.
    pub scope: Scope,
    /// By whom it was made.
    pub by: String,
    /// When it was made.
    pub created_at: OffsetDateTime,
    /// Until when it works; for good without.
    pub expires_at: Option<OffsetDateTime>,
    /// When it was last used, to a few minutes.
    pub last_used_at: Option<OffsetDateTime>,
}

/// Whose token it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Found {
    /// The token.
    pub id: Uuid,
    /// The shop.
    pub workshop: WorkshopId,
    /// The person who made it.
    pub person_id: Uuid,
    /// What it may do: no more than its maker may now.
    pub role: Role,
}

/// A token to be made.
#[derive(Debug, Clone, Copy)]
pub struct NewToken<'a> {
    /// What it is for.
    pub name: &'a str,
    /// What it may do.
    pub scope: Scope,
    /// Days it works; for good without.
    pub days: Option<i32>,
}

/// Tokens that work, newest first.
///
/// # Errors
/// The database cannot be read.
pub async fn list(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<Token>, Error> {
    Ok(sqlx::query_as!(
        Token,
        r#"select t.id, t.name, t.scope as "scope: Scope", p.name as by, t.created_at, t.expires_at, t.last_used_at
           from api_token t join person p on p.workshop_id = t.workshop_id and p.id = t.person_id
           where t.workshop_id = $1 and t.revoked_at is null and (t.expires_at is null or t.expires_at > now())
           order by t.id desc"#,
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
    new: NewToken<'_>,
    token_hash: &[u8],
) -> Result<Token, Error> {
    Ok(sqlx::query_as!(
        Token,
        r#"insert into api_token (id, workshop_id, person_id, name, scope, expires_at, token_hash)
           values ($1, $2, $3, $4, $5, now() + make_interval(days => $6), $7)
           returning id, name, scope as "scope: Scope",
               (select p.name from person p where p.workshop_id = $2 and p.id = $3) as "by!",
               created_at, expires_at, last_used_at"#,
        Uuid::now_v7(),
        workshop.uuid(),
        person_id,
        new.name,
        new.scope.key(),
        new.days,
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
    crate::one_at_least(&done)
}

/// Whose token it is by its hash; that it was used is noted now and then.
///
/// # Errors
/// The database cannot be read.
pub async fn find(db: impl PgExecutor<'_>, token_hash: &[u8]) -> Result<Option<Found>, Error> {
    let row = sqlx::query!(
        r#"with used as (
               update api_token set last_used_at = now()
               where token_hash = $1 and (last_used_at is null or last_used_at < now() - interval '5 minutes')
           )
           select t.id, t.workshop_id, t.person_id, t.scope as "scope: Scope", p.role as "role: Role"
           from api_token t join person p on p.workshop_id = t.workshop_id and p.id = t.person_id
           where t.token_hash = $1 and t.revoked_at is null and (t.expires_at is null or t.expires_at > now())
               and p.left_at is null"#,
        token_hash
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| Found {
        id: r.id,
        workshop: WorkshopId::new(r.workshop_id),
        person_id: r.person_id,
        role: r.role.min(r.scope.role()),
    }))
}
