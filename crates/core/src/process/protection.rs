//! What keeps the carbon in while the blade is hot.

use crate::quantity::validation::{Faults, named};
use serde::{Deserialize, Serialize};

/// What surrounds the blade while hot.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Default,
    Serialize,
    Deserialize,
    strum::IntoStaticStr,
    strum::VariantArray,
)]
#[strum(serialize_all = "snake_case")]
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
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// Finds a protection by identifier.
    ///
    /// # Errors
    /// There is no such protection; the fault lists them.
    pub fn parse(field: &str, text: &str) -> Result<Self, Faults> {
        named(field, text, || {
            format!("There is no protection called {text}.")
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
