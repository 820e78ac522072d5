//! The work: steps and plans, fires and baths with their stations and checks, the workpiece as it goes into the
//! fire, and a firing with what was really done.

pub mod bar;
pub mod calibration;
pub mod change;
pub mod check;
pub mod done;
pub mod firing;
pub mod furnace;
pub mod heat_transfer;
pub mod operator;
pub mod plan;
pub mod protection;
pub mod ready;
pub mod station;
pub mod step;
pub mod step_draft;
pub mod workpiece;
