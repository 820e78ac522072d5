//! A plan of a blade.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::process::step::Step;
use vatten_store::plan as store;

answer! {
    /// A plan of a blade.
    pub struct PlanView from store::PlanRow {
        /// Id.
        pub id: Uuid,
        /// Its blade.
        pub blade_id: Uuid,
        /// First plan of the blade, second, and so on.
        pub number: i32,
        /// The steps.
        pub steps: Vec<Step>,
        /// Frozen since; a frozen plan never changes.
        #[serde(with = "time::serde::rfc3339::option")]
        pub frozen_at: Option<OffsetDateTime>,
        /// Goes up with every change.
        pub version: i64,
    }
}
