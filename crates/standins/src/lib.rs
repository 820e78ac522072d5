//! Devices that are not there, for the demo and the tests: they speak the open protocols that real ones
//! speak, and behave believably.

pub mod furnace;
pub mod kiln;
pub mod logger;
pub mod tester;
