//! A workshop and its settings.

use crate::answers::answer;
use uuid::Uuid;
use vatten_store::workshop as store;

answer! {
    /// A workshop and its settings.
    pub struct Workshop from store::Workshop {
        /// Id.
        pub id: Uuid,
        /// Name.
        pub name: String,
        /// `c` or `f`.
        pub temperature_unit: String,
        /// `mm` or `in`.
        pub length_unit: String,
        /// Zone that times are shown in, for example `Europe/Stockholm`.
        pub time_zone: String,
        /// Goes up with every change.
        pub version: i64,
    }
}
