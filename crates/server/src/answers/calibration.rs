//! A check of a station.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::process::calibration::{Against, Calibration};
use vatten_store::calibration as store;

answer! {
    /// A check as it was read.
    pub struct KeptCalibration from store::CalibrationRow {
        /// Id.
        pub id: Uuid,
        /// The station.
        pub station_id: Uuid,
        /// What it was checked against.
        pub against: Against,
        /// What it showed and what really was, `[shown, really]`, °C or HRC.
        pub points: Calibration,
        /// Remark.
        pub note: String,
        /// When.
        #[serde(with = "time::serde::rfc3339")]
        pub done_at: OffsetDateTime,
        /// Withdrawn since: kept, not used.
        #[serde(with = "time::serde::rfc3339::option")]
        pub withdrawn_at: Option<OffsetDateTime>,
        /// How far it moved since the check before, °C or HRC.
        pub drift: Option<f64>,
    }
}
