//! A heat judged by eye or magnet: what a smith says of it, and between what temperatures it then lies.
//!
//! Names of colours by White and Taylor (1899, Trans. ASME 21, 628), who saw them in the light of a shop. A blade has
//! to be the hotter to look the same the lighter it is around it: what it gives off about 650 nm goes with
//! exp(−c₂/λT), so that a light that has to be outshone by a factor k moves the temperature by (T²λ/c₂)·ln k. How far
//! eyes follow the light, and how well they tell colours, is workshop experience.

use crate::material::critical;
use crate::material::steel::Steel;
use crate::quantity::units::{Celsius, Quantity};
use crate::quantity::validation::{Checker, Faults, named};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Light around the fire.
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
pub enum Light {
    /// Next to none.
    Dark,
    /// A shop with the doors shut.
    Dim,
    /// Daylight.
    Daylight,
}

impl Light {
    /// Every light.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// Logarithm of how much more has to be outshone than in a shop with the doors shut.
    #[must_use]
    pub const fn outshone_ln(self) -> f64 {
        match self {
            Self::Dark => -0.45,
            Self::Dim => 0.0,
            Self::Daylight => 0.6,
        }
    }

    /// How far one look is off in it, one standard deviation, °C.
    #[must_use]
    pub const fn look_c(self) -> f64 {
        match self {
            Self::Dark => 17.0,
            Self::Dim => 24.0,
            Self::Daylight => 36.0,
        }
    }
}

/// A colour that hot steel glows in.
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
pub enum Glow {
    /// Black red.
    BlackRed,
    /// Blood red.
    BloodRed,
    /// Dark cherry.
    DarkCherry,
    /// Medium cherry.
    MediumCherry,
    /// Full cherry.
    Cherry,
    /// Bright cherry.
    BrightCherry,
    /// Orange.
    Orange,
    /// Light orange.
    LightOrange,
    /// Yellow.
    Yellow,
    /// Light yellow.
    LightYellow,
}

/// Second radiation constant times 1/λ at 650 nm, K.
const RED_K: f64 = 14_388.0 / 0.65;

impl Glow {
    /// Every colour, the coolest first.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// Where White and Taylor (1899) put it, °C.
    #[must_use]
    pub const fn named_c(self) -> f64 {
        match self {
            Self::BlackRed => 532.0,
            Self::BloodRed => 566.0,
            Self::DarkCherry => 635.0,
            Self::MediumCherry => 677.0,
            Self::Cherry => 746.0,
            Self::BrightCherry => 843.0,
            Self::Orange => 899.0,
            Self::LightOrange => 941.0,
            Self::Yellow => 996.0,
            Self::LightYellow => 1079.0,
        }
    }

    /// How hot steel is that looks like it in this light, °C.
    #[must_use]
    pub fn usual_c(self, light: Light) -> f64 {
        let kelvin = self.named_c() + 273.15;
        self.named_c() + kelvin * kelvin / RED_K * light.outshone_ln()
    }

    /// The colour that steel of a temperature is called in this light.
    #[must_use]
    pub fn nearest(temperature_c: f64, light: Light) -> Self {
        let off = |g: &&Self| (g.usual_c(light) - temperature_c).abs();
        let all = Self::ALL.iter();
        all.min_by(|a, b| off(a).total_cmp(&off(b)))
            .copied()
            .unwrap_or(Self::Cherry)
    }
}

/// What a smith goes by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "sign", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Sign {
    /// It glows in a colour.
    Colour {
        /// Which.
        colour: Glow,
        /// The light it is seen in.
        light: Light,
    },
    /// The magnet lets go.
    MagnetLetsGo {},
    /// A shade brighter than where the magnet lets go.
    PastMagnet {},
    /// The shadow in the glow, of pearlite turning to austenite, has passed.
    ShadowPassed {},
}

/// A temperature as far as it is known.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = HeatAbout))]
pub struct About {
    /// The middle, °C.
    pub middle_c: f64,
    /// One standard deviation, °C.
    pub deviation_c: f64,
}

/// A shade past the magnet is this much more, and the shadow is gone this far above where pearlite turns, K.
const SHADE_K: f64 = 25.0;
const SHADOW_K: f64 = 15.0;

impl Sign {
    /// Between what temperatures a steel then is, by an eye that is right on the mean.
    #[must_use]
    pub fn about(self, steel: &Steel) -> About {
        let magnet_c = critical::non_magnetic_c(steel.ac1_c);
        // In a lean steel ferrite is left up to Ac3; in a rich one the pearlite is what there was.
        let turned_c = if steel.is_lean() {
            steel.ac3_or_acm_c
        } else {
            steel.ac1_c
        };
        let middle_c = match self {
            Self::Colour { colour, light } => colour.usual_c(light),
            Self::MagnetLetsGo {} => magnet_c,
            Self::PastMagnet {} => magnet_c + SHADE_K,
            Self::ShadowPassed {} => turned_c + SHADOW_K,
        };
        About {
            middle_c,
            deviation_c: self.deviation_c(),
        }
    }

    /// How far one look is off by an eye that is as good as most, one standard deviation, °C.
    #[must_use]
    pub const fn deviation_c(self) -> f64 {
        match self {
            Self::Colour { light, .. } => light.look_c(),
            Self::MagnetLetsGo {} => 6.0,
            Self::PastMagnet {} => 12.0,
            Self::ShadowPassed {} => 10.0,
        }
    }

    /// Whose eye tells matters.
    #[must_use]
    pub const fn is_by_colour(self) -> bool {
        matches!(self, Self::Colour { .. })
    }
}

/// A heat as it was, or is to be, judged.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Sighting {
    /// By what.
    #[serde(flatten)]
    pub sign: Sign,
    /// Whose eye, where the shop keeps it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub eye_id: Option<Uuid>,
}

impl Sighting {
    /// How hot a steel then is by the names alone, rounded to whole degrees.
    #[must_use]
    pub fn usual(&self, steel: &Steel) -> Celsius {
        Celsius::clamped(self.sign.about(steel).middle_c.round())
    }
}

/// A sighting as a caller writes it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SightingDraft {
    /// `colour`, `magnet_lets_go`, `past_magnet` or `shadow_passed`.
    #[serde(default)]
    pub sign: String,
    /// Of a colour: which.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<Glow>))]
    pub colour: Option<String>,
    /// Of a colour: the light it is seen in.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<Light>))]
    pub light: Option<String>,
    /// Whose eye.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub eye_id: Option<Uuid>,
}

impl SightingDraft {
    /// Checks it.
    ///
    /// # Errors
    /// Faults at `sign`, `colour` and `light`.
    ///
    /// ```
    /// use vatten_core::process::sighting::SightingDraft;
    /// let written = |json: &str| serde_json::from_str::<SightingDraft>(json).unwrap().parse();
    /// assert!(written(r#"{"sign":"colour","colour":"cherry","light":"dark"}"#).is_ok());
    /// assert_eq!(written(r#"{"sign":"colour","colour":"cherry"}"#).unwrap_err().0[0].field, "light");
    /// ```
    pub fn parse(&self) -> Result<Sighting, Faults> {
        let mut c = Checker::default();
        let sign = match self.sign.as_str() {
            "colour" => {
                let colour = c.take(glow(self.colour.as_deref().unwrap_or_default()));
                let light = c.take(light(self.light.as_deref().unwrap_or_default()));
                colour
                    .zip(light)
                    .map(|(colour, light)| Sign::Colour { colour, light })
            }
            "magnet_lets_go" => Some(Sign::MagnetLetsGo {}),
            "past_magnet" => Some(Sign::PastMagnet {}),
            "shadow_passed" => Some(Sign::ShadowPassed {}),
            other => {
                c.refuse_allowing(
                    "sign",
                    format!("A heat is not judged by \"{other}\"."),
                    "colour, magnet_lets_go, past_magnet or shadow_passed",
                );
                None
            }
        };
        if sign.is_some_and(|s| !s.is_by_colour()) && self.light.is_some() {
            c.refuse("light", "Only a colour is seen in a light.");
        }
        let eye_id = self.eye_id;
        c.finish(sign.map(|sign| Sighting { sign, eye_id }))
    }
}

/// A colour by its name.
///
/// # Errors
/// A fault at `colour` that lists them.
pub fn glow(text: &str) -> Result<Glow, Faults> {
    named("colour", text, || {
        "Say which colour it glows in.".to_owned()
    })
}

/// A light by its name.
///
/// # Errors
/// A fault at `light` that lists them.
pub fn light(text: &str) -> Result<Light, Faults> {
    named("light", text, || {
        "A colour is seen in some light.".to_owned()
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn about(sign: Sign, steel: &str) -> About {
        sign.about(Steel::built_in(steel).unwrap())
    }

    #[test]
    fn the_lighter_it_is_the_hotter_it_has_to_be() {
        for colour in Glow::ALL {
            let [dark, dim, daylight] =
                [Light::Dark, Light::Dim, Light::Daylight].map(|l| colour.usual_c(l));
            assert!(dark < dim && dim < daylight, "{colour:?}");
            assert_eq!(dim, colour.named_c());
            assert!(daylight - dark < 100.0);
        }
        for pair in Glow::ALL.windows(2) {
            assert!(pair[0].usual_c(Light::Daylight) < pair[1].usual_c(Light::Daylight));
        }
        assert_eq!(Glow::nearest(850.0, Light::Dim), Glow::BrightCherry);
        assert_eq!(Glow::nearest(850.0, Light::Dark), Glow::Orange);
        assert_eq!(Glow::nearest(-40.0, Light::Dim), Glow::BlackRed);
    }

    #[test]
    fn colours_shift_with_light_as_their_radiance_does() {
        // Planck at 650 nm: a body that is as much brighter as the light demands.
        let radiance = |c: f64| 1.0 / ((RED_K / (c + 273.15)).exp() - 1.0);
        for colour in Glow::ALL {
            let by = radiance(colour.usual_c(Light::Daylight)) / radiance(colour.named_c());
            let wanted = Light::Daylight.outshone_ln().exp();
            assert!((by / wanted - 1.0).abs() < 0.03, "{colour:?} {by} {wanted}");
        }
    }

    #[rstest]
    #[case("1084", 760.0, 775.0)]
    #[case("1050", 760.0, 775.0)]
    #[case("w2", 760.0, 780.0)]
    #[case("d2", 765.0, 775.0)]
    fn the_magnet_lets_go_at_the_curie_point_or_before(
        #[case] steel: &str,
        #[case] low: f64,
        #[case] high: f64,
    ) {
        let at = about(Sign::MagnetLetsGo {}, steel);
        assert!((low..=high).contains(&at.middle_c), "{steel} {at:?}");
        let past = about(Sign::PastMagnet {}, steel);
        assert!(past.middle_c > at.middle_c && past.deviation_c > at.deviation_c);
        let nominal = Steel::built_in(steel).unwrap().austenitize.nominal.value();
        assert!(at.middle_c < nominal, "below its hardening heat");
    }

    #[rstest]
    #[case(r#"{"sign":"colour","colour":"cherry"}"#, "light")]
    #[case(r#"{"sign":"colour","light":"dim"}"#, "colour")]
    #[case(r#"{"sign":"colour","colour":"puce","light":"dim"}"#, "colour")]
    #[case(r#"{"sign":"smell"}"#, "sign")]
    #[case(r#"{}"#, "sign")]
    #[case(r#"{"sign":"magnet_lets_go","light":"dim"}"#, "light")]
    fn what_is_no_sighting_is_named(#[case] json: &str, #[case] field: &str) {
        let faults = serde_json::from_str::<SightingDraft>(json)
            .unwrap()
            .parse()
            .unwrap_err();
        assert_eq!(faults.0[0].field, field);
    }

    #[test]
    fn what_is_kept_reads_back() {
        let sighting = Sighting {
            sign: Sign::Colour {
                colour: Glow::BrightCherry,
                light: Light::Dark,
            },
            eye_id: Some(Uuid::from_u128(4)),
        };
        let text = serde_json::to_string(&sighting).unwrap();
        assert!(text.contains(r#""sign":"colour""#) && text.contains(r#""light":"dark""#));
        assert_eq!(serde_json::from_str::<Sighting>(&text).unwrap(), sighting);
    }
}
