//! A method of the house.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::process::step::{Step, Unreadable};
use vatten_store::method as store;

answer! {
    /// A house method.
    pub struct HouseMethod from store::HouseMethod {
        /// Id.
        pub id: Uuid,
        /// Name.
        pub name: String,
        /// Why, in the smith's words.
        pub note: String,
        /// The steps; none when they cannot be read.
        pub steps: Vec<Step>,
        /// Why the steps cannot be read, when they cannot; they are kept as they are.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub unreadable: Option<Unreadable>,
        /// Goes up with every change.
        pub version: i64,
        /// When this version was saved.
        #[serde(with = "time::serde::rfc3339")]
        pub saved_at: OffsetDateTime,
    }
}
