//! The quench medium. How it takes heat is in [`crate::process::heat_transfer`].

use crate::quantity::units::{Celsius, Quantity};
use serde::{Deserialize, Serialize};

/// A kind of quenchant.
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
pub enum Medium {
    /// Brine, 10 % salt.
    Brine,
    /// Water.
    Water,
    /// Fast quench oil.
    FastOil,
    /// Vegetable oil.
    VegetableOil,
    /// Medium quench oil.
    MediumOil,
    /// Slow quench oil.
    SlowOil,
    /// Engine oil that was drained: thick, of unknown make, and with metals and acids in its smoke.
    UsedEngineOil,
    /// Martempering oil, hot.
    WarmOil,
    /// Molten low-temperature salt.
    Salt,
    /// Flat metal plates.
    Plates,
    /// Air from a fan.
    ForcedAir,
    /// Still air.
    StillAir,
}

impl Medium {
    /// Every medium, most severe first.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// The identifier used in the API and in stored plans.
    #[must_use]
    pub fn id(self) -> &'static str {
        self.into()
    }

    /// The name a smith uses.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Brine => "brine",
            Self::Water => "water",
            Self::FastOil => "fast oil",
            Self::MediumOil => "medium oil",
            Self::VegetableOil => "vegetable oil",
            Self::SlowOil => "slow oil",
            Self::UsedEngineOil => "used engine oil",
            Self::WarmOil => "warm oil",
            Self::Salt => "salt",
            Self::Plates => "plates",
            Self::ForcedAir => "forced air",
            Self::StillAir => "still air",
        }
    }

    /// Finds a medium by its identifier or name, in any case; `air` is still air.
    ///
    /// ```
    /// use vatten_core::material::medium::Medium;
    /// assert_eq!(Medium::parse("fast_oil"), Some(Medium::FastOil));
    /// ```
    #[must_use]
    pub fn parse(text: &str) -> Option<Self> {
        let wanted = text.trim().to_ascii_lowercase().replace([' ', '-'], "_");
        if wanted == "air" {
            return Some(Self::StillAir);
        }
        Self::ALL.iter().copied().find(|m| m.id() == wanted)
    }

    /// The bath temperature it is normally used at.
    #[must_use]
    pub fn usual_bath(self) -> Celsius {
        Celsius::clamped(match self {
            Self::Brine | Self::Water => 25.0,
            Self::FastOil
            | Self::MediumOil
            | Self::VegetableOil
            | Self::SlowOil
            | Self::UsedEngineOil => 50.0,
            Self::WarmOil => 150.0,
            Self::Salt => 220.0,
            Self::Plates | Self::ForcedAir | Self::StillAir => 20.0,
        })
    }

    /// Lowest and highest bath temperature that makes sense, °C.
    #[must_use]
    pub const fn bath_range_c(self) -> (f64, f64) {
        match self {
            Self::Brine | Self::Water => (0.0, 95.0),
            Self::WarmOil => (80.0, 230.0),
            Self::Salt => (150.0, 600.0),
            Self::FastOil
            | Self::MediumOil
            | Self::VegetableOil
            | Self::SlowOil
            | Self::UsedEngineOil => (0.0, 120.0),
            Self::Plates | Self::ForcedAir | Self::StillAir => (-20.0, 60.0),
        }
    }

    /// True for every oil.
    #[must_use]
    pub const fn is_oil(self) -> bool {
        matches!(
            self,
            Self::FastOil
                | Self::MediumOil
                | Self::VegetableOil
                | Self::SlowOil
                | Self::UsedEngineOil
                | Self::WarmOil
        )
    }

    /// True for every bath.
    #[must_use]
    pub const fn is_liquid(self) -> bool {
        self.is_oil() || self.is_water() || matches!(self, Self::Salt)
    }

    /// True for water and brine.
    #[must_use]
    pub const fn is_water(self) -> bool {
        matches!(self, Self::Water | Self::Brine)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("fast_oil", Some(Medium::FastOil))]
    #[case("Fast oil", Some(Medium::FastOil))]
    #[case("air", Some(Medium::StillAir))]
    #[case("treacle", None)]
    fn found_by_id_or_name(#[case] text: &str, #[case] medium: Option<Medium>) {
        assert_eq!(Medium::parse(text), medium);
    }

    #[test]
    fn the_usual_bath_is_in_range_and_the_name_is_read_back() {
        for medium in Medium::ALL {
            let (low, high) = medium.bath_range_c();
            assert!((low..=high).contains(&medium.usual_bath().value()));
            assert_eq!(Medium::parse(medium.id()), Some(*medium));
            assert_eq!(Medium::parse(medium.name()), Some(*medium));
        }
    }
}
