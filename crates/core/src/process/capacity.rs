//! What a station takes: how many blades, how far they go in, whether it may run alone, how fast it heats and cools.

use crate::quantity::validation::{Checker, Faults, Unit};
use serde::{Deserialize, Serialize};

/// What a shop says of it; everything else is as usual for the kind.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Capacity {
    /// Blades at once, 1 to 40.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub blades: Option<u32>,
    /// How far a blade goes in, 50 to 3000 mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub depth_mm: Option<f64>,
    /// The shop lets it run with nobody there.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub runs_alone: bool,
    /// It switches itself off when its time is up: what is in it may lie there until somebody comes.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub switches_off: bool,
    /// From cold to 800 °C, or an oven to 200 °C, 60 to 36,000 s; as measured or usual when left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub heats_in_s: Option<f64>,
}

/// Most blades, longest blade and slowest heat.
const BLADES: (u32, u32) = (1, 40);
const DEPTH_MM: (f64, f64) = (50.0, 3000.0);
const HEATS_IN_S: (f64, f64) = (60.0, 36_000.0);

impl Capacity {
    /// Refuses what is out of range.
    ///
    /// # Errors
    /// Faults at `blades`, `depth_mm` and `heats_in_s`.
    pub fn checked(self) -> Result<Self, Faults> {
        let mut c = Checker::default();
        if self
            .blades
            .is_some_and(|n| !(BLADES.0..=BLADES.1).contains(&n))
        {
            let allowed = format!("{} to {}", BLADES.0, BLADES.1);
            c.refuse_allowing("blades", "It does not take so many.", allowed);
        }
        let outside = |v: Option<f64>, (low, high): (f64, f64)| {
            v.is_some_and(|v| !v.is_finite() || v < low || v > high)
        };
        if outside(self.depth_mm, DEPTH_MM) {
            let sentence = "A blade does not go in so far.";
            c.refuse_outside("depth_mm", sentence, DEPTH_MM, Unit::Millimetre);
        }
        if outside(self.heats_in_s, HEATS_IN_S) {
            let sentence = "It does not heat so fast or slow.";
            c.refuse_outside("heats_in_s", sentence, HEATS_IN_S, Unit::Second);
        }
        c.finish(Some(self))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_no_station_takes_is_refused_at_its_field() {
        let wild = Capacity {
            blades: Some(0),
            depth_mm: Some(f64::NAN),
            heats_in_s: Some(1e9),
            ..Capacity::default()
        };
        let faults = wild.checked().unwrap_err();
        let fields: Vec<&str> = faults.0.iter().map(|f| f.field.as_str()).collect();
        assert_eq!(fields, ["blades", "depth_mm", "heats_in_s"]);
        assert!(Capacity::default().checked().is_ok());
    }
}
