//! A token, without its secret.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_store::role::Scope;
use vatten_store::token as store;

answer! {
    /// A token, without its secret.
    pub struct Token from store::Token {
        /// Id.
        pub id: Uuid,
        /// What it is for.
        pub name: String,
        /// What it may do.
        pub scope: Scope,
        /// By whom it was made: it may never more than they.
        pub by: String,
        /// When it was made.
        #[serde(with = "time::serde::rfc3339")]
        pub created_at: OffsetDateTime,
        /// Until when it works; for good without.
        #[serde(with = "time::serde::rfc3339::option")]
        pub expires_at: Option<OffsetDateTime>,
        /// When it was last used, to a few minutes.
        #[serde(with = "time::serde::rfc3339::option")]
        pub last_used_at: Option<OffsetDateTime>,
    }
}
