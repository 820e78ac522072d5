//! Tries at passwords and the like, counted before they are looked at. What they are counted by is a hash: of an
//! address, of a client, of both, or of a browser.

use crate::Error;
use sqlx::{Acquire, PgExecutor, Postgres};

/// How many tries are let through.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct Limit {
    /// What they are counted by.
    pub bucket: Vec<u8>,
    /// At most so many
    pub most: i64,
    /// within so many minutes; at most a day.
    pub minutes: i32,
}

/// Takes a try under every limit: one after the other for each bucket, so that many at once are no more than many in
/// a row. False when one of them has none left.
///
/// # Errors
/// The database cannot be written.
pub async fn take(
    db: impl Acquire<'_, Database = Postgres>,
    limits: &[Limit],
) -> Result<bool, Error> {
    let mut tx = db.begin().await?;
    // In the same order for all, so that none waits for another in a circle.
    let mut limits: Vec<&Limit> = limits.iter().collect();
    limits.sort();
    for limit in &limits {
        sqlx::query!(
            "select pg_advisory_xact_lock(hashtextextended(encode($1, 'hex'), 0))",
            limit.bucket
        )
        .execute(&mut *tx)
        .await?;
        let count = sqlx::query_scalar!(
            r#"select count(*) as "count!" from sign_in_try
               where bucket = $1 and at > now() - make_interval(mins => $2)"#,
            limit.bucket,
            limit.minutes
        )
        .fetch_one(&mut *tx)
        .await?;
        if count >= limit.most {
            return Ok(false);
        }
    }
    let buckets: Vec<Vec<u8>> = limits.iter().map(|l| l.bucket.clone()).collect();
    sqlx::query!(
        "insert into sign_in_try (bucket) select unnest($1::bytea[])",
        &buckets
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!("delete from sign_in_try where at < now() - interval '1 day'")
        .execute(&mut *tx)
        .await?;
    tx.commit().await?;
    Ok(true)
}

/// It was right: the newest try of each was no failure.
///
/// # Errors
/// The database cannot be written.
pub async fn give_back(db: impl PgExecutor<'_>, limits: &[Limit]) -> Result<(), Error> {
    let buckets: Vec<Vec<u8>> = limits.iter().map(|l| l.bucket.clone()).collect();
    sqlx::query!(
        "delete from sign_in_try where ctid in (
             select newest.ctid from unnest($1::bytea[]) as wanted (bucket)
             cross join lateral (select t.ctid from sign_in_try t where t.bucket = wanted.bucket
                 order by at desc limit 1) as newest)",
        &buckets
    )
    .execute(db)
    .await?;
    Ok(())
}
