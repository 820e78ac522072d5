//! A person who works in a shop: signing up, coming in, leaving.

use crate::role::Role;
use crate::workshop::WorkshopId;
use crate::{Error, email};
use sqlx::{Acquire, PgConnection, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;

/// Somebody of the shop.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Person {
    /// Id.
    pub id: Uuid,
    /// Address.
    pub email: String,
    /// Name.
    pub name: String,
    /// What they may do.
    pub role: Role,
    /// Since when.
    pub created_at: OffsetDateTime,
}

/// What is needed to check a password.
#[derive(Debug, Clone)]
pub struct Credentials {
    /// The person's shop.
    pub workshop: WorkshopId,
    /// The person.
    pub person_id: Uuid,
    /// Argon2 hash in PHC form.
    pub password_hash: String,
}

/// Who comes in.
#[derive(Debug, Clone, Copy)]
pub struct NewPerson<'a> {
    /// Name.
    pub name: &'a str,
    /// Address.
    pub email: &'a str,
    /// Argon2 hash in PHC form.
    pub password_hash: &'a str,
}

pub(crate) async fn insert(
    db: &mut PgConnection,
    workshop: WorkshopId,
    role: Role,
    new: NewPerson<'_>,
) -> Result<Uuid, Error> {
    let id = Uuid::now_v7();
    sqlx::query!(
        "insert into person (id, workshop_id, email, email_key, name, password_hash, role)
         values ($1, $2, $3, $4, $5, $6, $7)",
        id,
        workshop.uuid(),
        new.email,
        email::key(new.email),
        new.name,
        new.password_hash,
        role.key()
    )
    .execute(db)
    .await?;
    Ok(id)
}

/// Makes a shop with its first person, who owns it.
///
/// # Errors
/// [`Error::Refused`] at `email` when somebody signed up with that address.
pub async fn sign_up(
    db: impl Acquire<'_, Database = Postgres>,
    shop_name: &str,
    new: NewPerson<'_>,
) -> Result<(WorkshopId, Uuid), Error> {
    let workshop = WorkshopId::new(Uuid::now_v7());
    let mut tx = db.begin().await?;
    sqlx::query!(
        "insert into workshop (id, name) values ($1, $2)",
        workshop.uuid(),
        shop_name
    )
    .execute(&mut *tx)
    .await?;
    let person_id = insert(&mut tx, workshop, Role::Owner, new).await?;
    tx.commit().await?;
    Ok((workshop, person_id))
}

/// The credentials behind an address, if somebody signed up with it.
///
/// # Errors
/// The database cannot be read.
pub async fn credentials(
    db: impl PgExecutor<'_>,
    email: &str,
) -> Result<Option<Credentials>, Error> {
    let row = sqlx::query!(
        "select id, workshop_id, password_hash from person where email_key = $1 and left_at is null",
        email::key(email)
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|row| Credentials {
        workshop: WorkshopId::new(row.workshop_id),
        person_id: row.id,
        password_hash: row.password_hash,
    }))
}

/// The hash of a person's password.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such person.
pub async fn password_hash(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    id: Uuid,
) -> Result<String, Error> {
    Ok(sqlx::query_scalar!(
        "select password_hash from person where workshop_id = $1 and id = $2 and left_at is null",
        workshop.uuid(),
        id
    )
    .fetch_one(db)
    .await?)
}

/// A person of the shop.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such person.
pub async fn get(db: impl PgExecutor<'_>, workshop: WorkshopId, id: Uuid) -> Result<Person, Error> {
    Ok(sqlx::query_as!(
        Person,
        r#"select id, email, name, role as "role: Role", created_at from person
           where workshop_id = $1 and id = $2 and left_at is null"#,
        workshop.uuid(),
        id
    )
    .fetch_one(db)
    .await?)
}

/// Everybody who works in the shop, the longest first.
///
/// # Errors
/// The database cannot be read.
pub async fn list(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<Person>, Error> {
    Ok(sqlx::query_as!(
        Person,
        r#"select id, email, name, role as "role: Role", created_at from person
           where workshop_id = $1 and left_at is null order by id"#,
        workshop.uuid()
    )
    .fetch_all(db)
    .await?)
}

/// The name of whoever has been in the shop the longest.
///
/// # Errors
/// The database cannot be read.
pub async fn first_name(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
) -> Result<Option<String>, Error> {
    Ok(sqlx::query_scalar!(
        "select name from person where workshop_id = $1 and left_at is null order by id limit 1",
        workshop.uuid()
    )
    .fetch_optional(db)
    .await?)
}

/// Everybody of the shop is held until the end of the transaction: two owners cannot both cease to be one.
async fn hold(db: &mut PgConnection, workshop: WorkshopId) -> Result<(), Error> {
    sqlx::query!(
        "select id from person where workshop_id = $1 order by id for update",
        workshop.uuid()
    )
    .fetch_all(db)
    .await?;
    Ok(())
}

async fn owned_still(
    db: &mut PgConnection,
    workshop: WorkshopId,
    field: &str,
) -> Result<(), Error> {
    let owners = sqlx::query_scalar!(
        r#"select count(*) as "count!" from person
           where workshop_id = $1 and role = 'owner' and left_at is null"#,
        workshop.uuid()
    )
    .fetch_one(db)
    .await?;
    if owners == 0 {
        return Err(Error::not_now(
            field,
            "A shop has an owner: make somebody else one first.",
        ));
    }
    Ok(())
}

/// Changes what a person may do, and what they are called.
///
/// # Errors
/// [`Error::NotFound`]; [`Error::NotNow`] at `role` when nobody would own the shop.
pub async fn change(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    name: &str,
    role: Role,
) -> Result<Person, Error> {
    let mut tx = db.begin().await?;
    hold(&mut tx, workshop).await?;
    let changed = sqlx::query_as!(
        Person,
        r#"update person set name = $3, role = $4 where workshop_id = $1 and id = $2 and left_at is null
           returning id, email, name, role as "role: Role", created_at"#,
        workshop.uuid(),
        id,
        name,
        role.key()
    )
    .fetch_one(&mut *tx)
    .await?;
    owned_still(&mut tx, workshop, "role").await?;
    tx.commit().await?;
    Ok(changed)
}

/// A person leaves: the record keeps their name, their sessions and tokens end.
///
/// # Errors
/// [`Error::NotFound`]; [`Error::NotNow`] when nobody would own the shop.
pub async fn leave(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
) -> Result<(), Error> {
    let mut tx = db.begin().await?;
    hold(&mut tx, workshop).await?;
    let done = sqlx::query!(
        "update person set left_at = now(), password_hash = ''
         where workshop_id = $1 and id = $2 and left_at is null",
        workshop.uuid(),
        id
    )
    .execute(&mut *tx)
    .await?;
    crate::one_at_least(&done)?;
    owned_still(&mut tx, workshop, "id").await?;
    shut_out(&mut tx, workshop, id).await?;
    sqlx::query!(
        "update api_token set revoked_at = now()
         where workshop_id = $1 and person_id = $2 and revoked_at is null",
        workshop.uuid(),
        id
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(())
}

/// Ends every session of a person, and what else could let somebody in as them.
async fn shut_out(db: &mut PgConnection, workshop: WorkshopId, id: Uuid) -> Result<(), Error> {
    let shop = workshop.uuid();
    sqlx::query!(
        "delete from session where workshop_id = $1 and person_id = $2",
        shop,
        id
    )
    .execute(&mut *db)
    .await?;
    sqlx::query!(
        "delete from known_device where workshop_id = $1 and person_id = $2",
        shop,
        id
    )
    .execute(&mut *db)
    .await?;
    sqlx::query!(
        "delete from recovery where workshop_id = $1 and person_id = $2 and kind = 'link'",
        shop,
        id
    )
    .execute(&mut *db)
    .await?;
    Ok(())
}

/// Gives a person another password: all their sessions end.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such person.
pub async fn set_password(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    password_hash: &str,
) -> Result<(), Error> {
    let mut tx = db.begin().await?;
    let done = sqlx::query!(
        "update person set password_hash = $3 where workshop_id = $1 and id = $2 and left_at is null",
        workshop.uuid(),
        id,
        password_hash
    )
    .execute(&mut *tx)
    .await?;
    crate::one_at_least(&done)?;
    shut_out(&mut tx, workshop, id).await?;
    tx.commit().await?;
    Ok(())
}
