//! An invitation into a shop: a link that works once, for a while. Only the hash of its secret is kept.

use crate::Error;
use crate::person::{self, NewPerson};
use crate::role::Role;
use crate::workshop::WorkshopId;
use sqlx::{Acquire, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;

/// Days an invitation works.
pub const DAYS: i32 = 7;
/// Most of them that wait in one shop.
pub const MOST: i64 = 50;

/// An invitation that nobody took yet.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Invitation {
    /// Id.
    pub id: Uuid,
    /// For whom, as the shop calls them.
    pub name: String,
    /// What they will be.
    pub role: Role,
    /// Until when it works.
    pub expires_at: OffsetDateTime,
}

/// What somebody is invited to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Invited {
    /// Name of the shop.
    pub workshop: String,
    /// For whom, as the shop calls them.
    pub name: String,
    /// What they will be.
    pub role: Role,
}

/// Invitations that work, newest first.
///
/// # Errors
/// The database cannot be read.
pub async fn list(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<Invitation>, Error> {
    Ok(sqlx::query_as!(
        Invitation,
        r#"select id, name, role as "role: Role", expires_at from invitation
           where workshop_id = $1 and expires_at > now() order by id desc"#,
        workshop.uuid()
    )
    .fetch_all(db)
    .await?)
}

/// Keeps a new invitation under the hash of its secret, and forgets those of the shop that ran out.
///
/// # Errors
/// [`Error::NotNow`] when too many wait.
pub async fn create(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    made_by: Uuid,
    name: &str,
    role: Role,
    secret_hash: &[u8],
) -> Result<Invitation, Error> {
    let mut tx = db.begin().await?;
    sqlx::query!(
        "delete from invitation where workshop_id = $1 and expires_at <= now()",
        workshop.uuid()
    )
    .execute(&mut *tx)
    .await?;
    let made = sqlx::query_as!(
        Invitation,
        r#"insert into invitation (id, workshop_id, role, name, secret_hash, made_by, expires_at)
           values ($1, $2, $3, $4, $5, $6, now() + make_interval(days => $7))
           returning id, name, role as "role: Role", expires_at"#,
        Uuid::now_v7(),
        workshop.uuid(),
        role.key(),
        name,
        secret_hash,
        made_by,
        DAYS
    )
    .fetch_one(&mut *tx)
    .await?;
    let waiting = sqlx::query_scalar!(
        r#"select count(*) as "count!" from invitation where workshop_id = $1"#,
        workshop.uuid()
    )
    .fetch_one(&mut *tx)
    .await?;
    if waiting > MOST {
        return Err(Error::not_now(
            "name",
            "Fifty invitations wait already: take some back first.",
        ));
    }
    tx.commit().await?;
    Ok(made)
}

/// Takes an invitation back.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such invitation.
pub async fn revoke(db: impl PgExecutor<'_>, workshop: WorkshopId, id: Uuid) -> Result<(), Error> {
    let done = sqlx::query!(
        "delete from invitation where workshop_id = $1 and id = $2",
        workshop.uuid(),
        id
    )
    .execute(db)
    .await?;
    crate::one_at_least(&done)
}

/// What the holder of a secret is invited to.
///
/// # Errors
/// [`Error::NotFound`] when it does not work (any more).
pub async fn find(db: impl PgExecutor<'_>, secret_hash: &[u8]) -> Result<Invited, Error> {
    Ok(sqlx::query_as!(
        Invited,
        r#"select w.name as workshop, i.name, i.role as "role: Role"
           from invitation i join workshop w on w.id = i.workshop_id
           where i.secret_hash = $1 and i.expires_at > now()"#,
        secret_hash
    )
    .fetch_one(db)
    .await?)
}

/// Comes into the shop. The invitation is used up, whoever else holds it.
///
/// # Errors
/// [`Error::NotFound`] when it does not work (any more); [`Error::Refused`] at `email` when somebody signed up
/// with that address: the invitation still works then.
pub async fn accept(
    db: impl Acquire<'_, Database = Postgres>,
    secret_hash: &[u8],
    new: NewPerson<'_>,
) -> Result<(WorkshopId, Uuid), Error> {
    let mut tx = db.begin().await?;
    let used = sqlx::query!(
        r#"delete from invitation where secret_hash = $1 and expires_at > now()
           returning workshop_id, role as "role: Role""#,
        secret_hash
    )
    .fetch_one(&mut *tx)
    .await?;
    let workshop = WorkshopId::new(used.workshop_id);
    let id = person::insert(&mut tx, workshop, used.role, new).await?;
    tx.commit().await?;
    Ok((workshop, id))
}
