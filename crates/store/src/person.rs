//! A person who works in a shop, and signing up.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::{Acquire, PgExecutor, Postgres};
use uuid::Uuid;

/// Who is signed in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Person {
    /// Id.
    pub id: Uuid,
    /// Address.
    pub email: String,
    /// Name.
    pub name: String,
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

/// Makes a shop with its first person.
///
/// # Errors
/// [`Error::Refused`] at `email` when somebody signed up with that address.
pub async fn sign_up(
    db: impl Acquire<'_, Database = Postgres>,
    shop_name: &str,
    name: &str,
    email: &str,
    password_hash: &str,
) -> Result<(WorkshopId, Uuid), Error> {
    let (workshop_id, person_id) = (Uuid::now_v7(), Uuid::now_v7());
    let mut tx = db.begin().await?;
    sqlx::query!(
        "insert into workshop (id, name) values ($1, $2)",
        workshop_id,
        shop_name
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "insert into person (id, workshop_id, email, name, password_hash) values ($1, $2, $3, $4, $5)",
        person_id,
        workshop_id,
        email,
        name,
        password_hash
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok((WorkshopId::new(workshop_id), person_id))
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
        "select id, workshop_id, password_hash from person where lower(email) = lower($1)",
        email
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|row| Credentials {
        workshop: WorkshopId::new(row.workshop_id),
        person_id: row.id,
        password_hash: row.password_hash,
    }))
}

/// A person of the shop.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such person.
pub async fn get(db: impl PgExecutor<'_>, workshop: WorkshopId, id: Uuid) -> Result<Person, Error> {
    Ok(sqlx::query_as!(
        Person,
        "select id, email, name from person where workshop_id = $1 and id = $2",
        workshop.uuid(),
        id
    )
    .fetch_one(db)
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
        "select name from person where workshop_id = $1 order by id limit 1",
        workshop.uuid()
    )
    .fetch_optional(db)
    .await?)
}
