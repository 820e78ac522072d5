//! Who is signed in, and on which devices.

use crate::answers::person::Person;
use crate::answers::workshop::Workshop;
use serde::Serialize;
use time::OffsetDateTime;
use uuid::Uuid;

/// Who is signed in, and to which shop.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Session {
    /// The person, and what they may do.
    pub person: Person,
    /// The shop.
    pub workshop: Workshop,
}

/// A device that somebody is signed in on.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SessionDevice {
    /// Id of the session.
    pub id: Uuid,
    /// Browser and system, as far as they are known.
    pub device: String,
    /// Since when.
    #[serde(with = "time::serde::rfc3339")]
    pub created_at: OffsetDateTime,
    /// When it was last used, to a few minutes.
    #[serde(with = "time::serde::rfc3339")]
    pub last_seen_at: OffsetDateTime,
    /// It is the one that asks.
    pub here: bool,
}
