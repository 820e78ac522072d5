//! What clay is mixed of: how it keeps heat in, and how it dries.
//!
//! Dried and at heat, clays conduct 0.3 to 1.5 W/mK by how much air is in them (Kingery, Bowen and Uhlmann 1976,
//! "Introduction to Ceramics", chapter 12; Incropera and DeWitt 2007, table A.3: fireclay brick 1.0 at 200 °C). A
//! shop's own batch differs from its kind by about a third; how lines come out under it tells by how much.

use serde::{Deserialize, Serialize};

/// A kind of clay.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, strum::VariantArray,
)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum ClayMix {
    /// Refractory mortar: fireclay with grog.
    #[default]
    RefractoryMix,
    /// Furnace cement: fine filler in water glass. Dense; it shrinks and blisters where it is thick.
    FurnaceCement,
    /// Clay with charcoal and stone dust, the old mix: porous, and coarse grains keep it from cracking.
    CharcoalStone,
}

impl ClayMix {
    /// Every kind.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// Conductivity when dry and hot, W/mK.
    #[must_use]
    pub const fn conductivity(self) -> f64 {
        match self {
            Self::RefractoryMix => 0.8,
            Self::FurnaceCement => 1.2,
            Self::CharcoalStone => 0.5,
        }
    }

    /// Heat capacity by volume when dry, J/m³K: density times about 1 kJ/kgK.
    #[must_use]
    pub const fn capacity(self) -> f64 {
        match self {
            Self::RefractoryMix => 1.6e6,
            Self::FurnaceCement => 1.9e6,
            Self::CharcoalStone => 1.2e6,
        }
    }

    /// Wet, g/cm³.
    #[must_use]
    pub const fn wet_g_per_cm3(self) -> f64 {
        match self {
            Self::RefractoryMix => 1.9,
            Self::FurnaceCement => 2.1,
            Self::CharcoalStone => 1.7,
        }
    }

    /// Thickness of which one coat in two cracks as it dries or lets go in the bath, mm. A film cracks from where
    /// its strain energy, which grows with thickness and shrinkage, outweighs its toughness (Chiu, Garino and Cima
    /// 1993, Journal of the American Ceramic Society 76, 2257): the more and the coarser the grog, the thicker. The
    /// figures are workshop experience, not measurements.
    #[must_use]
    pub const fn cracks_at_mm(self) -> f64 {
        match self {
            Self::RefractoryMix => 7.0,
            Self::FurnaceCement => 4.0,
            Self::CharcoalStone => 9.0,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_kind_lies_within_what_is_published_of_clays() {
        for mix in ClayMix::ALL {
            assert!((0.3..=1.5).contains(&mix.conductivity()), "{mix:?}");
            assert!((1.0e6..=2.2e6).contains(&mix.capacity()), "{mix:?}");
            assert!(mix.cracks_at_mm() > 3.0 && mix.wet_g_per_cm3() > 1.0);
        }
        let names: Vec<String> = ClayMix::ALL
            .iter()
            .map(|m| serde_json::to_string(m).unwrap())
            .collect();
        assert_eq!(
            names,
            [
                r#""refractory_mix""#,
                r#""furnace_cement""#,
                r#""charcoal_stone""#
            ]
        );
    }
}
