//! Somebody who works in the shop.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_store::person as store;
use vatten_store::role::Role;

answer! {
    /// Somebody who works in the shop.
    pub struct Person from store::Person {
        /// Id.
        pub id: Uuid,
        /// Address.
        pub email: String,
        /// Name.
        pub name: String,
        /// What they may do.
        pub role: Role,
        /// Since when.
        #[serde(with = "time::serde::rfc3339")]
        pub created_at: OffsetDateTime,
    }
}
