//! The shape of a blade: outline, thickness and bevels, and the clay laid on it.

pub mod blade;
pub mod clay;
pub mod form;
pub mod outline;
pub mod shape;
