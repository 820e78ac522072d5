//! What the API answers with, a noun a file. The rows of the database are other types: a column can be
//! renamed or added without the API noticing, and the other way round.

use rocket::serde::json::Json;

pub mod bar;
pub mod blade;
pub mod calibration;
pub mod clay;
pub mod edit;
pub mod finding;
pub mod firing;
pub mod invitation;
pub mod method;
pub mod person;
pub mod photo;
pub mod plan;
pub mod reading;
pub mod sample;
pub mod session;
pub mod station;
pub mod tester_value;
pub mod token;
pub mod trial;
pub mod workshop;

/// Declares an answer and how it is made from what the store keeps. Fields are said once, by name; where the
/// two differ, the answer is a plain struct with its own `From`.
macro_rules! answer {
    ($(#[$meta:meta])* pub struct $name:ident from $row:path {
        $($(#[$attr:meta])* pub $field:ident: $kind:ty,)*
    }) => {
        $(#[$meta])*
        #[derive(Debug, Clone, PartialEq, serde::Serialize)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        pub struct $name {
            $($(#[$attr])* pub $field: $kind,)*
        }

        impl From<$row> for $name {
            fn from(row: $row) -> Self {
                Self { $($field: row.$field,)* }
            }
        }
    };
}
pub(crate) use answer;

/// One row, as it is answered.
pub fn one<T: From<R>, R>(row: R) -> Json<T> {
    Json(row.into())
}

/// Several rows, in the same order.
pub fn all<T: From<R>, R>(rows: Vec<R>) -> Json<Vec<T>> {
    Json(rows.into_iter().map(T::from).collect())
}
