//! What a blade is for, and the hardness window that usually serves it.

use crate::material::steel::{Hardening, Steel};
use crate::material::temper::{BRITTLE_C, HOTTEST_C, STAINLESS_LIMIT_C};
use crate::quantity::units::{Celsius, Quantity};
use crate::quantity::validation::{Faults, named};
use serde::{Deserialize, Serialize};

/// What the edge will do.
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
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// The identifier used in the API.
    #[must_use]
    pub fn id(self) -> &'static str {
        self.into()
    }

    /// Finds a purpose by identifier.
    ///
    /// # Errors
    /// There is no such purpose; the fault lists them.
    pub fn parse(field: &str, text: &str) -> Result<Self, Faults> {
        named(field, text, || {
            format!("There is no purpose called {text}.")
        })
    }

    /// The hardness window usually wanted, HRC.
    ///
    /// ```
    /// use vatten_core::material::purpose::Purpose;
    /// assert_eq!(Purpose::Springy.target_hrc(), (53.0, 56.0));
    /// ```
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

/// How well a steel serves a purpose.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Suits {
    /// The purpose.
    pub purpose: Purpose,
    /// Temper that gives the middle of the usual window, °C; none when the steel does not reach it.
    pub temper_c: Option<f64>,
    /// Lower end of the hardness usually wanted, HRC.
    pub low_hrc: f64,
    /// Upper end of it, HRC.
    pub high_hrc: f64,
    /// It serves without reserve.
    pub well: bool,
    /// How it serves.
    pub how: Service,
}

/// How a steel serves a purpose, or why it does not.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Service {
    /// It reaches the middle of the window.
    Well {},
    /// Too little carbon to hold an edge.
    TooLean {},
    /// It is softer than wanted after the coolest temper.
    TooSoft {
        /// Its hardness then, HRC.
        top_hrc: f64,
        /// That temper, °C.
        coolest_c: f64,
    },
    /// It stays harder than wanted.
    StaysHard {
        /// Up to this temper, °C.
        hottest_c: f64,
    },
    /// At the temper it needs it loses its stainlessness.
    Rusts {},
    /// The temper it needs lies in the brittle range.
    Brittle {
        /// Lower end of the range, °C.
        low_c: f64,
        /// Upper end of the range, °C.
        high_c: f64,
    },
    /// Its coarse carbides chip.
    CarbidesChip {},
    /// Leaner steels flex more often before they break.
    FlexesLess {},
}

/// Tempers that are tried, °C.
const TEMPERS_C: (f64, f64) = (150.0, HOTTEST_C);
/// How well `steel` serves `purpose`, by its typical numbers.
#[must_use]
pub fn suits(steel: &Steel, purpose: Purpose) -> Suits {
    let (low, high) = purpose.target_hrc();
    let wanted = 0.5 * (low + high);
    let typical = steel.typical();
    let hrc = |t: f64| typical.tempered_hrc(Celsius::clamped(t));
    let fit = |temper_c, how| Suits {
        purpose,
        temper_c,
        low_hrc: low,
        high_hrc: high,
        well: matches!(how, Service::Well {}),
        how,
    };
    if steel.hardening == Hardening::NotHardenable {
        return fit(None, Service::TooLean {});
    }
    let (coolest, hottest) = (Celsius::clamped(TEMPERS_C.0), Celsius::clamped(TEMPERS_C.1));
    let temper_c = typical
        .temper_for(wanted, coolest, hottest)
        .map(|t| t.value().round());
    let stainless = steel.is_stainless();
    let brittle =
        |t: f64| !stainless && steel.hardening != Hardening::Air && BRITTLE_C.contains(&t);
    let rich = steel.analysis.carbon > 0.9;
    // Coarse hard carbides of rich chromium steels chip under blows and will not take the finest edge.
    let coarse = steel.analysis.chromium > 10.0 && rich;
    let how = match temper_c {
        None if hrc(TEMPERS_C.0) < low => Service::TooSoft {
            top_hrc: hrc(TEMPERS_C.0),
            coolest_c: TEMPERS_C.0,
        },
        None => Service::StaysHard {
            hottest_c: TEMPERS_C.1,
        },
        Some(t) if stainless && t > STAINLESS_LIMIT_C => Service::Rusts {},
        Some(t) if brittle(t) => Service::Brittle {
            low_c: *BRITTLE_C.start(),
            high_c: *BRITTLE_C.end(),
        },
        Some(_) if coarse && matches!(purpose, Purpose::FineEdge | Purpose::Heavy) => {
            Service::CarbidesChip {}
        }
        Some(_) if purpose == Purpose::Springy && rich => Service::FlexesLess {},
        Some(_) => Service::Well {},
    };
    fit(temper_c, how)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn harder_purposes_want_more_and_all_parse() {
        assert!(Purpose::FineEdge.target_hrc().0 > Purpose::Springy.target_hrc().1);
        for purpose in Purpose::ALL {
            assert_eq!(Purpose::parse("purpose", purpose.id()).unwrap(), *purpose);
        }
        assert!(Purpose::parse("purpose", "juggling").is_err());
    }

    #[test]
    fn steels_suit_what_they_are_made_for() {
        let named = |name: &str, purpose| suits(Steel::built_in(name).unwrap(), purpose);
        assert!(named("1095", Purpose::FineEdge).well);
        assert!(!named("1018", Purpose::AllRound).well);
        assert_eq!(named("1018", Purpose::AllRound).temper_c, None);
        assert!(!named("1095", Purpose::Springy).well);
        for steel in Steel::table() {
            for purpose in Purpose::ALL {
                let found = suits(steel, *purpose);
                assert!(!found.well || found.temper_c.is_some());
            }
        }
        assert!(
            Steel::table()
                .iter()
                .any(|s| suits(s, Purpose::Springy).well)
        );
        assert!(Steel::table().iter().any(|s| suits(s, Purpose::Heavy).well));
    }
}
