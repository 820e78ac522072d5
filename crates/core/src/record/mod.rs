//! What happened and what came of it, as it was pressed, measured or seen: firings and what was really done, readings,
//! findings, traces, trials, photographs, devices.

pub mod cooling_curve;
pub mod device;
pub mod done;
pub mod finding;
pub mod firing;
pub mod ladder;
pub mod outlier;
pub mod picture;
pub mod reading;
pub mod trace;
pub mod trial;
