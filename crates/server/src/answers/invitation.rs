//! An invitation into the shop.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_store::invitation as store;
use vatten_store::role::Role;

answer! {
    /// An invitation that nobody took yet.
    pub struct Invitation from store::Invitation {
        /// Id.
        pub id: Uuid,
        /// For whom, as the shop calls them.
        pub name: String,
        /// What they will be.
        pub role: Role,
        /// Until when it works.
        #[serde(with = "time::serde::rfc3339")]
        pub expires_at: OffsetDateTime,
    }
}

answer! {
    /// What somebody is invited to.
    pub struct Invited from store::Invited {
        /// Name of the shop.
        pub workshop: String,
        /// For whom, as the shop calls them.
        pub name: String,
        /// What they will be.
        pub role: Role,
    }
}
