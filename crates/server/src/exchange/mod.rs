//! The open exchange format: a whole shop as one JSON file, described in `docs/format.md`.
//!
//! `format` says what stands in a file, `validate` holds it against the rules of the job, `import` brings it
//! into a shop, `export` writes a shop to one.

mod export;
mod format;
mod import;
mod validate;

pub use export::export;
#[cfg(feature = "schema")]
pub use format::ExchangeFile;
pub use format::ImportReport;
pub use import::{import, shop_name};
