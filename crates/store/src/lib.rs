//! The shop's records in PostgreSQL: one file per noun.
//!
//! Every function on a shop's rows takes a [`WorkshopId`], which only signing in can give, and every
//! query is scoped by it.

pub mod archive;
pub mod bar;
pub mod batch;
pub mod blade;
pub mod calibration;
pub mod clay;
pub mod day;
pub mod edit;
pub mod email;
pub mod error;
pub mod facts;
pub mod finding;
pub mod firing;
pub mod invitation;
pub mod ladder;
pub mod lessons;
pub mod live;
pub mod method;
pub mod person;
pub mod photo;
pub mod plan;
pub mod reading;
pub mod record;
pub mod recovery;
pub mod role;
pub mod sample;
pub mod sentences;
pub mod session;
pub mod station;
pub mod steel;
pub mod tester_value;
pub mod token;
pub mod trace;
pub mod trial;
pub mod tries;
pub mod workshop;

pub use error::Error;
pub use sqlx::PgPool;
pub use workshop::WorkshopId;

use sqlx::postgres::PgPoolOptions;
use std::time::Duration;

/// Refuses a change that changed no row: the shop has no such thing.
pub(crate) fn one_at_least(done: &sqlx::postgres::PgQueryResult) -> Result<(), Error> {
    if done.rows_affected() == 0 {
        Err(Error::NotFound)
    } else {
        Ok(())
    }
}

/// Connects and brings the database up to date (under PostgreSQL's advisory lock, so that several
/// servers may start at once).
///
/// # Errors
/// The database cannot be reached, or a migration fails.
pub async fn open(url: &str, connections: u32) -> Result<PgPool, Error> {
    let pool = PgPoolOptions::new()
        .max_connections(connections)
        .acquire_timeout(Duration::from_secs(10))
        .connect(url)
        .await?;
    migrate(&pool).await?;
    Ok(pool)
}

/// Brings the database up to date.
///
/// # Errors
/// A migration fails.
pub async fn migrate(pool: &PgPool) -> Result<(), Error> {
    sqlx::migrate!("./migrations")
        .run(pool)
        .await
        .map_err(|e| Error::Database(e.into()))?;
    facts::bring_up_to_date(pool).await
}
