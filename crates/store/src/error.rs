//! What can go wrong with a record.

use vatten_core::quantity::validation::Faults;

/// An error of the store.
#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// No such row in this shop.
    #[error("There is no such thing in this shop.")]
    NotFound,
    /// The row was changed by someone else meanwhile.
    #[error("This was changed meanwhile.")]
    Stale,
    /// The rules of the job or of the table refuse it.
    #[error("{0}")]
    Refused(#[from] Faults),
    /// What was asked cannot be done in the state the thing is in; the fault names the field.
    #[error("{0}")]
    NotNow(Faults),
    /// PostgreSQL could not do it.
    #[error("the database: {0}")]
    Database(sqlx::Error),
}

impl Error {
    /// What was asked at `field` cannot be done now.
    pub fn not_now(field: &str, message: impl Into<String>) -> Self {
        Self::NotNow(Faults::one(field, message))
    }
}

impl From<sqlx::Error> for Error {
    fn from(error: sqlx::Error) -> Self {
        let Some(constraint) = error.as_database_error().and_then(|e| e.constraint()) else {
            return match error {
                sqlx::Error::RowNotFound => Self::NotFound,
                other => Self::Database(other),
            };
        };
        let (field, message) = match constraint {
            "blade_mark" => ("mark", "Another blade of the shop has this mark."),
            "station_name" => ("name", "The shop has one of this kind with this name."),
            "steel_name" => ("name", "The shop has a steel of this name."),
            "bar_name" => ("name", "The shop has a bar of this name."),
            "blade_workshop_id_bar_id_fkey" => ("bar_id", "The shop has no such bar."),
            "bar_workshop_id_house_steel_id_fkey" => ("steel", "The shop has no such steel."),
            "method_name" => ("name", "The shop has a method of this name."),
            "person_email" => ("email", "Somebody signed up with this address."),
            "firing_one_open" => {
                return Self::not_now("plan_version", "This blade is already being fired.");
            }
            "plan_one_draft" | "plan_workshop_id_blade_id_number_key" => return Self::Stale,
            "blade_workshop_id_house_steel_id_fkey" => ("steel", "The shop has no such steel."),
            "reading_workshop_id_tester_id_fkey" => ("tester_id", "The shop has no such tester."),
            "reading_workshop_id_firing_id_fkey" => ("firing_id", "The shop has no such firing."),
            key if key.ends_with("_pkey") => ("id", "This id is in use."),
            _ => return Self::Database(error),
        };
        Self::Refused(Faults::one(field, message))
    }
}

impl From<serde_json::Error> for Error {
    fn from(error: serde_json::Error) -> Self {
        Self::Database(sqlx::Error::Decode(error.into()))
    }
}
