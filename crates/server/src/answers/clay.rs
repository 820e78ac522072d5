//! Clay of a blade.

use crate::answers::answer;
use vatten_core::geometry::clay::ClayDraft;
use vatten_store::clay as store;

answer! {
    /// Clay of a blade.
    pub struct BladeClay from store::BladeClay {
        /// As painted; bare when nothing was.
        pub clay: ClayDraft,
        /// The line that is wanted: [x, height above the edge], mm; may be empty.
        pub wanted: Vec<[f64; 2]>,
        /// Goes up with every change; 0 before the first.
        pub version: i64,
    }
}
