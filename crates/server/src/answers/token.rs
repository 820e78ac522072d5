//! A token, without its secret.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_store::token as store;

answer! {
    /// A token, without its secret.
    pub struct Token from store::Token {
        /// Id.
        pub id: Uuid,
        /// What it is for.
        pub name: String,
        /// When it was made.
        #[serde(with = "time::serde::rfc3339")]
        pub created_at: OffsetDateTime,
    }
}
