//! A value of a connected tester that waits for a blade.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_store::tester_value as store;

answer! {
    /// A value that waits.
    pub struct TesterValue from store::TesterValue {
        /// Id.
        pub id: Uuid,
        /// The tester.
        pub station_id: Uuid,
        /// When it was read.
        #[serde(with = "time::serde::rfc3339")]
        pub at: OffsetDateTime,
        /// As it was shown, HRC.
        pub value_hrc: f64,
    }
}
