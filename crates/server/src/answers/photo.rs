//! A photograph, without its picture.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::record::picture::TwoPoints;
use vatten_store::photo as store;

answer! {
    /// A photograph, without its picture.
    pub struct Photo from store::Photo {
        /// Id.
        pub id: Uuid,
        /// The firing it shows the outcome of.
        pub firing_id: Option<Uuid>,
        /// Dots across.
        pub width: i32,
        /// Dots down.
        pub height: i32,
        /// How it lies over the blade, once said.
        pub scale: Option<TwoPoints>,
        /// When it was taken, or sent.
        #[serde(with = "time::serde::rfc3339")]
        pub taken_at: OffsetDateTime,
    }
}
