//! What to do: methods and schools, what would help, what went wrong, and what made blades differ.

pub mod comparison;
pub mod diagnosis;
pub mod extra;
pub mod found;
pub mod improvement;
pub mod method;
pub mod outlook;
pub mod school;
pub mod success;
