//! What a blade is for, and the hardness window that usually serves it.

use crate::fault::Faults;
use crate::steel::{Hardening, Steel};
use crate::temper::temperature_for;
use crate::units::{Celsius, Quantity};
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

/// How well a steel serves a purpose.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Suits {
    /// The purpose.
    pub purpose: Purpose,
    /// Temper that gives the middle of the usual window, °C; none when the steel does not reach it.
    pub temper_c: Option<f64>,
    /// It serves without reserve.
    pub well: bool,
    /// In a sentence.
    pub text: String,
}

/// Tempers that are tried, °C.
const TEMPERS_C: (f64, f64) = (150.0, 540.0);
/// Where tempered martensite of carbon and low-alloy steels is brittle, °C.
const BRITTLE_C: (f64, f64) = (260.0, 370.0);

/// How well `steel` serves `purpose`, by its typical numbers.
#[must_use]
pub fn suits(steel: &Steel, purpose: Purpose) -> Suits {
    let (low, high) = purpose.target_hrc();
    let wanted = 0.5 * (low + high);
    let hrc = |t: f64| steel.typical_tempered_hrc(Celsius::clamped(t));
    if steel.hardening == Hardening::NotHardenable {
        let text = "Too little carbon to hold an edge.".to_owned();
        return Suits {
            purpose,
            temper_c: None,
            well: false,
            text,
        };
    }
    let temper_c = temperature_for(
        wanted,
        Celsius::clamped(TEMPERS_C.0),
        Celsius::clamped(TEMPERS_C.1),
        |t| steel.typical_tempered_hrc(t),
    )
    .map(|t| t.value().round());
    let stainless = steel.is_stainless();
    let brittle = |t: f64| {
        !stainless && steel.hardening != Hardening::Air && (BRITTLE_C.0..=BRITTLE_C.1).contains(&t)
    };
    // Coarse hard carbides of rich chromium steels chip under blows and will not take the finest edge.
    let coarse = steel.analysis.chromium > 10.0 && steel.analysis.carbon > 0.9;
    let (well, text) = match temper_c {
        None if hrc(TEMPERS_C.0) < low => (
            false,
            format!(
                "Reaches {:.0} HRC at most after a {:.0} °C temper; {low:.0} to {high:.0} is wanted.",
                hrc(TEMPERS_C.0),
                TEMPERS_C.0
            ),
        ),
        None => (
            false,
            format!("Stays above {high:.0} HRC up to {:.0} °C.", TEMPERS_C.1),
        ),
        Some(t) if stainless && t > 425.0 => (
            false,
            format!("Needs {t:.0} °C, where it loses its stainlessness."),
        ),
        Some(t) if brittle(t) => (
            false,
            format!("Needs {t:.0} °C, inside the brittle range of 260 to 370 °C."),
        ),
        Some(t) if coarse && matches!(purpose, Purpose::FineEdge | Purpose::Heavy) => (
            false,
            format!("{t:.0} °C gives {wanted:.0} HRC, but its coarse carbides chip."),
        ),
        Some(t) if purpose == Purpose::Springy && steel.analysis.carbon > 0.9 => (
            false,
            format!(
                "{t:.0} °C gives {wanted:.0} HRC; leaner steels flex more often before they break."
            ),
        ),
        Some(t) => (true, format!("{t:.0} °C gives {wanted:.0} HRC.")),
    };
    Suits {
        purpose,
        temper_c,
        well,
        text,
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

    #[test]
    fn steels_suit_what_they_are_made_for() {
        let of = |name: &str, purpose| suits(Steel::built_in(name).unwrap(), purpose);
        assert!(of("1095", Purpose::FineEdge).well);
        assert!(!of("1018", Purpose::AllRound).well);
        assert_eq!(of("1018", Purpose::AllRound).temper_c, None);
        assert!(!of("1095", Purpose::Springy).well);
        for steel in Steel::table() {
            for purpose in Purpose::ALL {
                let found = suits(steel, purpose);
                assert!(!found.text.is_empty());
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
