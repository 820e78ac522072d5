//! What a shop's records said when they were last counted.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::PgExecutor;

/// Lessons as they were answered.
#[derive(Debug, Clone, PartialEq)]
pub struct Kept {
    /// How they were counted and told, see the server.
    pub format: i32,
    /// The version of the records they are of.
    pub records_version: i64,
    /// Hardness results they were learned from.
    pub records: i64,
    /// The answer, JSON.
    pub answer: String,
}

/// The lessons last kept in this format, if there are any.
///
/// # Errors
/// The database cannot be read.
pub async fn kept(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    format: i32,
) -> Result<Option<Kept>, Error> {
    Ok(sqlx::query_as!(
        Kept,
        "select format, records_version, records, answer from lessons where workshop_id = $1 and format = $2",
        workshop.uuid(),
        format
    )
    .fetch_optional(db)
    .await?)
}

/// Keeps lessons, unless newer ones are kept.
///
/// # Errors
/// The database cannot be written.
pub async fn keep(db: impl PgExecutor<'_>, workshop: WorkshopId, new: &Kept) -> Result<(), Error> {
    sqlx::query!(
        "insert into lessons (workshop_id, format, records_version, records, answer) values ($1, $2, $3, $4, $5)
         on conflict (workshop_id) do update set format = excluded.format, records_version = excluded.records_version,
             records = excluded.records, answer = excluded.answer
         where lessons.format <> excluded.format or lessons.records_version <= excluded.records_version",
        workshop.uuid(),
        new.format,
        new.records_version,
        new.records,
        new.answer
    )
    .execute(db)
    .await?;
    Ok(())
}
