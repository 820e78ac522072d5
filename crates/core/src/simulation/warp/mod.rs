//! How a quench bends a blade: from sections across it, with heat, transformation and stress.

pub mod blade;
pub mod course;
pub mod driver;
pub mod mechanics;
pub mod place;
pub mod run;
pub mod section;
