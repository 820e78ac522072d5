//! A set of hardness readings.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::record::reading::Taken;
use vatten_store::reading as store;

answer! {
    /// A set of readings.
    pub struct Reading from store::Reading {
        /// Id.
        pub id: Uuid,
        /// The firing it belongs to.
        pub firing_id: Uuid,
        /// `as_quenched` or `tempered`.
        pub stage: String,
        /// Values, HRC.
        pub values_hrc: Vec<f64>,
        /// Mean, HRC.
        pub mean_hrc: f64,
        /// The tester used, when said.
        pub tester_id: Option<Uuid>,
        /// Remark.
        pub note: String,
        /// When they were taken.
        #[serde(with = "time::serde::rfc3339")]
        pub taken_at: OffsetDateTime,
        /// Withdrawn since: kept, but not learned from.
        #[serde(with = "time::serde::rfc3339::option")]
        pub withdrawn_at: Option<OffsetDateTime>,
        /// Where and in what state they were read, and what was set aside.
        pub taken: Taken,
        /// Goes up when something is set aside.
        pub version: i64,
    }
}
