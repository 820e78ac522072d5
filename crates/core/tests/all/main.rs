//! The core from outside: its numbers held against what others published, its rules against any input.
#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    reason = "tests"
)]

mod another_truth;
mod bars;
mod baths;
mod by_eye;
mod chapters;
mod checks;
mod cracks;
mod days;
mod engine;
mod folds;
mod fuzz;
mod hostile;
mod odd_blades;
mod published;
mod reference;
mod same_numbers;
mod validation;
