//! Learning from the shop's own results: physics is the mean, the records correct it.

pub mod cholesky;
pub mod findings;
pub mod habit;
pub mod kernel;
pub mod model;
pub mod record;

pub use model::{Corrected, Lessons, Model};
pub use record::{Features, Record};
