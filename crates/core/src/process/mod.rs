//! The work: steps and plans, fires and baths with their stations and checks, heats by eye, and the workpiece as it goes
//! into the fire.

pub mod bar;
pub mod bath_warming;
pub mod calibration;
pub mod capacity;
pub mod change;
pub mod check;
pub mod eye;
pub mod furnace;
pub mod glow;
pub mod heat_transfer;
pub mod manner;
pub mod operator;
pub mod plan;
pub mod protection;
pub mod ready;
pub mod sighting;
pub mod station;
pub mod step;
pub mod step_draft;
pub mod tank;
pub mod temper_colour;
pub mod workpiece;
