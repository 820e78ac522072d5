//! A station of the shop.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::process::capacity::Capacity;
use vatten_core::process::station::{Scale, StationKind};
use vatten_core::record::cooling_curve::MeasuredBath;
use vatten_core::record::device::Device;
use vatten_store::station as store;

answer! {
    /// A station of the shop.
    pub struct Station from store::Station {
        /// Id.
        pub id: Uuid,
        /// What it is.
        pub kind: StationKind,
        /// What it shows, and so can be connected and checked for; none when it shows nothing.
        pub scale: Option<Scale>,
        /// Name.
        pub name: String,
        /// Of a tank: the medium in it.
        pub medium: Option<String>,
        /// Of a tank: how much, l.
        pub litres: Option<f64>,
        /// Of a tank: when what is in it was put in.
        #[serde(with = "time::serde::rfc3339::option")]
        pub filled_at: Option<OffsetDateTime>,
        /// Of a tank: what it does, where that was measured.
        pub curve: Option<MeasuredBath>,
        /// Remark.
        pub note: String,
        /// How it is reached, when it is connected.
        pub device: Option<Device>,
        /// What it takes, as far as the shop says.
        pub capacity: Capacity,
        /// No longer used: kept for the records.
        #[serde(with = "time::serde::rfc3339::option")]
        pub retired_at: Option<OffsetDateTime>,
        /// Goes up with every change.
        pub version: i64,
    }
}
