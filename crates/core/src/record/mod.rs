//! What came of it, as it was measured or seen: readings, findings, traces, trials, photographs, devices.

pub mod device;
pub mod finding;
pub mod outlier;
pub mod picture;
pub mod reading;
pub mod trace;
pub mod trial;
