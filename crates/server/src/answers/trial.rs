//! A coupon trial of a steel nobody knows.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::record::trial::Entry;
use vatten_store::trial as store;

answer! {
    /// A trial.
    pub struct Trial from store::Trial {
        /// Id.
        pub id: Uuid,
        /// What the steel is called until more is known.
        pub name: String,
        /// What was done and seen, in order.
        pub entries: Vec<Entry>,
        /// The house steel it became.
        pub steel_id: Option<Uuid>,
        /// Goes up with every change.
        pub version: i64,
        /// When it began.
        #[serde(with = "time::serde::rfc3339")]
        pub created_at: OffsetDateTime,
    }
}
