//! Devices that are not there, for the demo and the tests: they speak the open protocols that real ones
//! speak, and behave believably. And a shop that is not there: what comes out of its fire is not what the
//! engine says.

pub mod furnace;
pub mod kiln;
pub mod logger;
pub mod shop;
pub mod tester;
