//! A temper judged by the colour that it leaves on clean steel.
//!
//! Which heat leaves a colour in how long, on what steel, is [`crate::material::temper`]; how far one look is off, and how
//! the light changes that, is workshop experience: the colours are of a thin film, and best told apart in daylight.

use crate::material::steel::Steel;
use crate::material::temper::heat_of_colour;
use crate::process::sighting::Light;
use crate::quantity::units::{Celsius, Quantity, Seconds};
use crate::quantity::validation::{Checker, Faults, named};
use serde::{Deserialize, Serialize};

/// A colour that a temper leaves.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Serialize,
    Deserialize,
    strum::IntoStaticStr,
    strum::VariantArray,
)]
#[strum(serialize_all = "snake_case")]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum TemperColour {
    /// Pale straw.
    PaleStraw,
    /// Straw.
    Straw,
    /// Dark straw.
    DarkStraw,
    /// Bronze.
    Bronze,
    /// Purple.
    Purple,
    /// Dark blue.
    DarkBlue,
    /// Light blue.
    LightBlue,
    /// Grey.
    Grey,
}

/// The colours of neighbours are about as far apart as this is wide, as one standard deviation of an even spread, °C.
const BAND_C: f64 = 6.0;

impl TemperColour {
    /// Every colour, the coolest first.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// As [`crate::material::temper::colour`] names it.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::PaleStraw => "pale straw",
            Self::Straw => "straw",
            Self::DarkStraw => "dark straw",
            Self::Bronze => "bronze",
            Self::Purple => "purple",
            Self::DarkBlue => "dark blue",
            Self::LightBlue => "light blue",
            Self::Grey => "grey",
        }
    }

    /// How hot steel is that shows it after being held so long, °C.
    #[must_use]
    pub fn usual(self, steel: &Steel, hold: Seconds) -> Celsius {
        let chromium = steel.nominal_dissolved().composition.chromium;
        let heat = heat_of_colour(self.name(), hold.hours(), chromium);
        heat.unwrap_or(Celsius::clamped(20.0))
    }
}

/// A temper as it was, or is to be, judged.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TemperSighting {
    /// The colour.
    pub colour: TemperColour,
    /// The light it is seen in.
    pub light: Light,
}

impl TemperSighting {
    /// How far one look is off, one standard deviation, °C.
    #[must_use]
    pub fn deviation_c(self) -> f64 {
        let look_c: f64 = match self.light {
            Light::Daylight => 6.0,
            Light::Dim => 12.0,
            Light::Dark => 25.0,
        };
        look_c.hypot(BAND_C)
    }
}

/// A temper by colour as a caller writes it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TemperSightingDraft {
    /// The colour.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(value_type = TemperColour))]
    pub colour: String,
    /// The light it is seen in.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(value_type = Light))]
    pub light: String,
}

impl TemperSightingDraft {
    /// Checks it.
    ///
    /// # Errors
    /// Faults at `colour` and `light`.
    pub fn parse(&self) -> Result<TemperSighting, Faults> {
        let mut c = Checker::default();
        let colour = c.take(named("colour", &self.colour, || {
            "This is no temper colour.".to_owned()
        }));
        let light = c.take(named("light", &self.light, || {
            "In what light is it seen?".to_owned()
        }));
        let both = colour.zip(light);
        c.finish(both.map(|(colour, light)| TemperSighting { colour, light }))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::temper::{COLOUR_NAMES, colour, parameter};

    #[test]
    fn every_colour_is_one_that_a_temper_leaves() {
        let names: Vec<&str> = TemperColour::ALL.iter().map(|c| c.name()).collect();
        assert_eq!(names, COLOUR_NAMES);
    }

    #[test]
    fn the_heat_of_a_colour_leaves_that_colour_however_long_it_is_held() {
        for key in ["1084", "o1", "a2"] {
            let steel = Steel::built_in(key).unwrap();
            let chromium = steel.nominal_dissolved().composition.chromium;
            for hold_s in [30.0, 300.0, 7200.0] {
                let hold = Seconds::clamped(hold_s);
                let mut before = 0.0;
                for one in TemperColour::ALL {
                    let heat = one.usual(steel, hold);
                    let left = colour(parameter(heat, hold.hours()), chromium);
                    assert_eq!(left, one.name(), "{key} {hold_s}");
                    assert!(heat.value() > before);
                    before = heat.value();
                }
            }
        }
    }

    // Charts of a few minutes have straw at 215 °C and dark blue at 290 °C on plain carbon steel; in an hour or two the same
    // colours come some 30 to 40 °C cooler.
    #[test]
    fn it_is_that_of_the_charts_in_minutes_and_cooler_in_hours() {
        let steel = Steel::built_in("1084").unwrap();
        let heat = |c: TemperColour, s: f64| c.usual(steel, Seconds::clamped(s)).value();
        assert!((heat(TemperColour::Straw, 300.0) - 215.0).abs() < 4.0);
        assert!((heat(TemperColour::DarkBlue, 300.0) - 288.0).abs() < 4.0);
        let cooler = heat(TemperColour::Straw, 300.0) - heat(TemperColour::Straw, 7200.0);
        assert!((25.0..45.0).contains(&cooler), "{cooler}");
        assert!(heat(TemperColour::DarkBlue, 30.0) > heat(TemperColour::DarkBlue, 300.0));
    }

    #[test]
    fn what_is_no_colour_or_no_light_is_named() {
        let faults = TemperSightingDraft::default().parse().unwrap_err();
        let fields: Vec<&str> = faults.0.iter().map(|f| f.field.as_str()).collect();
        assert_eq!(fields, ["colour", "light"]);
    }
}
