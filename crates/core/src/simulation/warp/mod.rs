//! How a quench bends a blade: from sections across it, with heat, transformation and stress.

pub mod course;
pub mod mechanics;
pub mod run;
pub mod section;
