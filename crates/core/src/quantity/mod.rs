//! Quantities with their ranges, what was wrong with an input, intervals and tables.

pub mod interpolate;
pub mod interval;
pub mod units;
pub mod validation;
