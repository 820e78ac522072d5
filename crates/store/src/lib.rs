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
use sqlx::{Connection, PgConnection};
use std::time::{Duration, Instant};

/// Refuses a change that changed no row: the shop has no such thing.
pub(crate) fn one_at_least(done: &sqlx::postgres::PgQueryResult) -> Result<(), Error> {
    if done.rows_affected() == 0 {
        Err(Error::NotFound)
    } else {
        Ok(())
    }
}

/// How long a database that does not answer yet is waited for.
pub const PATIENCE: Duration = Duration::from_secs(60);
/// Wait before it is tried again.
const AGAIN: Duration = Duration::from_millis(500);

/// What PostgreSQL says while it starts.
const STARTING: &str = "57P03";

/// It is not there, or not yet: not what waiting does not mend, as a wrong password.
fn is_away(error: &sqlx::Error) -> bool {
    match error {
        sqlx::Error::Io(_) => true,
        sqlx::Error::Database(said) => said.code().as_deref() == Some(STARTING),
        _ => false,
    }
}

/// Connects and brings the database up to date (under PostgreSQL's advisory lock, so that several
/// servers may start at once).
///
/// A database that does not answer yet, as after a power cut, is waited for, which `waiting` is told once.
///
/// # Errors
/// The database cannot be reached within [`PATIENCE`], or a migration fails.
pub async fn open(url: &str, connections: u32, waiting: impl Fn()) -> Result<PgPool, Error> {
    let begun = Instant::now();
    let mut told = false;
    while let Err(error) = PgConnection::connect(url).await {
        if !is_away(&error) || begun.elapsed() > PATIENCE {
            return Err(Error::Database(error));
        }
        if !told {
            waiting();
            told = true;
        }
        tokio::time::sleep(AGAIN).await;
    }
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
