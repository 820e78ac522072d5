//! What a connected station showed last.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_store::sample as store;

answer! {
    /// The newest word of a connected station.
    pub struct StationNow from store::StationNow {
        /// The station.
        pub station_id: Uuid,
        /// When it said so; none when it never did.
        #[serde(with = "time::serde::rfc3339::option")]
        pub at: Option<OffsetDateTime>,
        /// What it showed, °C or HRC, uncorrected.
        pub value: Option<f64>,
        /// Its set point, °C.
        pub set_value: Option<f64>,
        /// What is wrong, in a sentence; none while it answers.
        pub trouble: Option<String>,
        /// A set point on its way to it, °C.
        pub wanted_c: Option<f64>,
        /// Until when it is tried to send that; after that it is dropped.
        #[serde(with = "time::serde::rfc3339::option")]
        pub wanted_until: Option<OffsetDateTime>,
        /// A set point that could not be sent in time and was dropped, °C.
        pub dropped_c: Option<f64>,
        /// When.
        #[serde(with = "time::serde::rfc3339::option")]
        pub dropped_at: Option<OffsetDateTime>,
    }
}
