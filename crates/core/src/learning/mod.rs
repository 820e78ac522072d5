//! Learning from the shop's own results: physics is the mean, the records correct it.

pub mod belief;
pub mod bias_model;
pub mod bias_models;
pub mod cholesky;
pub mod clamp;
pub mod crack;
pub mod findings;
pub mod kernel;
pub mod lesson;
pub mod model;
pub mod proposal;
pub mod record;
pub mod regression;
pub mod warp;

pub use lesson::Lesson;
pub use model::{Corrected, Model};
pub use record::{Features, Record};
