//! What changed, as PostgreSQL tells it: every server process hears of every change, whichever made it.

use crate::workshop::WorkshopId;
use crate::{Error, PgPool};
use serde::Deserialize;
use sqlx::postgres::PgListener;
use uuid::Uuid;

/// The channel of the notifications.
const CHANNEL: &str = "vatten";

/// Something of a shop changed.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
pub struct Change {
    workshop: Uuid,
    /// What it is: `firing`, `reading`, `finding`, `blade`, `station` and so on.
    pub noun: String,
    /// Its id.
    pub id: Uuid,
    /// The blade it belongs to.
    #[serde(default)]
    pub blade: Option<Uuid>,
}

impl Change {
    /// True when it is this shop's.
    #[must_use]
    pub fn is_of(&self, workshop: WorkshopId) -> bool {
        self.workshop == workshop.uuid()
    }
}

/// What a listener hears.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Heard {
    /// Something changed.
    Changed(Change),
    /// The connection was lost and made anew: anything may have changed meanwhile.
    Gap,
}

/// A connection that listens.
pub struct Listener(PgListener);

impl Listener {
    /// Begins to listen.
    ///
    /// # Errors
    /// The database cannot be reached.
    pub async fn open(pool: &PgPool) -> Result<Self, Error> {
        let mut listener = PgListener::connect_with(pool).await?;
        listener.listen(CHANNEL).await?;
        Ok(Self(listener))
    }

    /// Waits for the next thing heard.
    ///
    /// # Errors
    /// The database cannot be reached any more.
    pub async fn next(&mut self) -> Result<Heard, Error> {
        loop {
            let Some(told) = self.0.try_recv().await? else {
                return Ok(Heard::Gap);
            };
            // What is not ours on the channel is passed over.
            if let Ok(change) = serde_json::from_str(told.payload()) {
                return Ok(Heard::Changed(change));
            }
        }
    }
}
