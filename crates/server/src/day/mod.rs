//! The days to come of a shop: what is on them is read, laid, kept, and laid again when something happened.

mod calendar;
mod hours;
mod read;
mod run;
mod view;

pub use read::shop_hours;
pub use run::{
    Asked, Cures, DayLocks, Shop, WhatIf, calendar_of, cures_of, current, lay_anew, mend, what_if,
};
pub use view::DayView;

/// Starts and lengths are multiples of this, s.
pub const GRID_S: i64 = 30;
