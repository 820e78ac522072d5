//! A station: a place or a tool of the shop that work is done at or measured with.

use crate::quantity::validation::{Faults, named};
use serde::{Deserialize, Serialize};

/// What a station shows, and so what it can be checked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Scale {
    /// A temperature, °C.
    Temperature,
    /// A hardness, HRC.
    Hardness,
}

/// The kinds of station.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Hash,
    Serialize,
    Deserialize,
    strum::IntoStaticStr,
    strum::VariantArray,
)]
#[strum(serialize_all = "snake_case")]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum StationKind {
    /// A forge, heated by gas, coal or charcoal.
    Forge,
    /// A kiln with a controller.
    Kiln,
    /// A tempering oven.
    Oven,
    /// A quench tank.
    Tank,
    /// Quench plates.
    Plates,
    /// A box or dewar for dry ice or nitrogen.
    ColdBox,
    /// A torch.
    Torch,
    /// A hardness tester.
    Tester,
    /// A set of hardness files.
    Files,
    /// A magnet.
    Magnet,
    /// A thermocouple or thermometer with a logger.
    Logger,
    /// The eye of an operator, that judges heats by their colour.
    Eye,
}

impl StationKind {
    /// Every kind, with its identifier, in the order of the work.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// The identifier, as in the API.
    #[must_use]
    pub fn id(self) -> &'static str {
        self.into()
    }

    /// Finds a kind by identifier.
    ///
    /// # Errors
    /// A fault at `kind` that lists them.
    ///
    /// ```
    /// use vatten_core::process::station::StationKind;
    /// assert_eq!(StationKind::parse("cold_box"), Ok(StationKind::ColdBox));
    /// ```
    pub fn parse(text: &str) -> Result<Self, Faults> {
        named("kind", text, || {
            "There is no such kind of station.".to_owned()
        })
    }

    /// What it shows; none for a station that shows nothing.
    #[must_use]
    pub const fn scale(self) -> Option<Scale> {
        match self {
            Self::Forge | Self::Kiln | Self::Oven | Self::Tank | Self::ColdBox | Self::Logger => {
                Some(Scale::Temperature)
            }
            Self::Tester => Some(Scale::Hardness),
            Self::Plates | Self::Torch | Self::Files | Self::Magnet | Self::Eye => None,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_kind_is_found_by_its_identifier() {
        for kind in StationKind::ALL {
            assert_eq!(StationKind::parse(kind.id()), Ok(*kind));
        }
        let faults = StationKind::parse("anvil").unwrap_err();
        assert!(faults.0[0].allowed.as_ref().unwrap().contains("cold_box"));
    }
}
