//! What keeps the carbon in while the blade is hot.

use crate::quantity::validation::Faults;
use serde::{Deserialize, Serialize};

/// What surrounds the blade while hot.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Protection {
    /// Bare in air, as in an electric kiln.
    #[default]
    Bare,
    /// A reducing fire.
    ReducingForge,
    /// Anti-scale coating.
    Coating,
    /// Stainless foil, closed.
    Foil,
}

impl Protection {
    /// Every kind, with the identifier of the API.
    pub const ALL: [(&'static str, Self); 4] = [
        ("bare", Self::Bare),
        ("reducing_forge", Self::ReducingForge),
        ("coating", Self::Coating),
        ("foil", Self::Foil),
    ];

    /// Finds a protection by identifier.
    ///
    /// # Errors
    /// There is no such protection; the fault lists them.
    pub fn parse(field: &str, text: &str) -> Result<Self, Faults> {
        let found = Self::ALL.iter().find(|p| p.0 == text).map(|p| p.1);
        found.ok_or_else(|| {
            Faults::with_allowed(
                field,
                format!("There is no protection called {text}."),
                Self::ALL.map(|p| p.0).join(", "),
            )
        })
    }

    /// Share of the bare depth.
    #[must_use]
    pub const fn factor(self) -> f64 {
        match self {
            Self::Bare => 1.0,
            Self::ReducingForge => 0.4,
            Self::Coating | Self::Foil => 0.1,
        }
    }
}
