//! A change of a blade.

use crate::answers::answer;
use serde_json::Value;
use std::collections::BTreeMap;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_store::edit as store;

answer! {
    /// One change.
    pub struct BladeEdit from store::BladeEdit {
        /// Id.
        pub id: Uuid,
        /// When.
        #[serde(with = "time::serde::rfc3339")]
        pub at: OffsetDateTime,
        /// Who, by name.
        pub by: Option<String>,
        /// Each field that was changed, with what stood there before and after; those of what is known beyond
        /// its sizes as `ready.order`.
        pub changed: BTreeMap<String, [Value; 2]>,
    }
}
