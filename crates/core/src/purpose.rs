//! What a blade is for, and the hardness window that usually serves it.

use crate::fault::Faults;
use serde::{Deserialize, Serialize};

/// What the edge will do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Purpose {
    /// Fine edge, light work: grafting, paring, net mending.
    FineEdge,
    /// All-round bench and boat work.
    #[default]
    AllRound,
    /// Blows and knots: bills, hooks, hatchet work.
    Heavy,
    /// Must bend and come back: long thin blades.
    Springy,
}

impl Purpose {
    /// Every purpose.
    pub const ALL: [Self; 4] = [Self::FineEdge, Self::AllRound, Self::Heavy, Self::Springy];

    /// The words shown.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::FineEdge => "fine edge, light work",
            Self::AllRound => "all-round work",
            Self::Heavy => "heavy cuts and blows",
            Self::Springy => "springy, must flex",
        }
    }

    /// The identifier used in the API.
    #[must_use]
    pub const fn id(self) -> &'static str {
        match self {
            Self::FineEdge => "fine_edge",
            Self::AllRound => "all_round",
            Self::Heavy => "heavy",
            Self::Springy => "springy",
        }
    }

    /// Finds a purpose by identifier.
    ///
    /// # Errors
    /// There is no such purpose; the fault lists them.
    pub fn parse(field: &str, text: &str) -> Result<Self, Faults> {
        Self::ALL
            .into_iter()
            .find(|p| p.id() == text)
            .ok_or_else(|| {
                Faults::with_allowed(
                    field,
                    format!("There is no purpose called {text}."),
                    Self::ALL.map(Self::id).join(", "),
                )
            })
    }

    /// The hardness window usually wanted, HRC.
    #[must_use]
    pub const fn target_hrc(self) -> (f64, f64) {
        match self {
            Self::FineEdge => (61.0, 63.0),
            Self::AllRound => (59.0, 61.0),
            Self::Heavy => (56.0, 58.0),
            Self::Springy => (53.0, 56.0),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn harder_purposes_want_more_and_all_parse() {
        assert!(Purpose::FineEdge.target_hrc().0 > Purpose::Springy.target_hrc().1);
        for purpose in Purpose::ALL {
            assert_eq!(Purpose::parse("purpose", purpose.id()).unwrap(), purpose);
            assert!(!purpose.name().is_empty());
        }
        assert!(Purpose::parse("purpose", "juggling").is_err());
    }
}
