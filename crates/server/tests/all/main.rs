//! The server from outside: its API and the interface in a browser. One binary, since linking is what takes long.
#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    reason = "tests"
)]

mod api;
mod as_done;
mod browser;
mod by_eye;
mod day;
mod day_browser;
mod fire;
mod fire_browser;
mod found_at_fire;
mod lessons;
mod people;
mod people_browser;
mod planning;
mod planning_browser;
mod results;
mod support;
mod tank;
mod units_browser;
mod whatever_happens;
