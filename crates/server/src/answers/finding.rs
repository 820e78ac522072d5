//! What was found on a blade.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::record::finding::Finding;
use vatten_store::finding as store;

answer! {
    /// A finding as kept.
    pub struct KeptFinding from store::FindingRow {
        /// Id.
        pub id: Uuid,
        /// The firing it belongs to.
        pub firing_id: Uuid,
        /// What was found.
        pub found: Finding,
        /// Remark.
        pub note: String,
        /// When.
        #[serde(with = "time::serde::rfc3339")]
        pub found_at: OffsetDateTime,
        /// Withdrawn since: kept, but not learned from.
        #[serde(with = "time::serde::rfc3339::option")]
        pub withdrawn_at: Option<OffsetDateTime>,
    }
}
