//! The heat-treatment computation and the rules of the job.
//!
//! No I/O, no clock, no database, no web types. Inside: °C, seconds, percent by weight; millimetres
//! and HRC where the name says so. Input is checked at the edge into types that cannot be wrong;
//! nothing returns NaN.
//!
//! In chapters, each of which knows those above it and none below:
//! quantity, material, geometry, process, simulation, record, learning, prediction, advice, planning. `import` reads files
//! into geometry and records.

pub mod advice;
pub mod geometry;
pub mod import;
pub mod learning;
pub mod material;
pub mod planning;
pub mod prediction;
pub mod process;
pub mod quantity;
pub mod record;
pub mod simulation;
#[cfg(test)]
mod testing;
