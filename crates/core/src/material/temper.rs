//! Tempering: time and temperature as one number, softening through a steel's curve, and the inverse.
//!
//! Hollomon and Jaffe 1945, "Time-temperature relations in tempering steel", Transactions AIME 162,
//! 223–249: P = T(20 + log10 t), T in kelvin and t in hours.

use crate::quantity::interpolate::Monotone;
use crate::quantity::interval::upper_tail;
use crate::quantity::units::{Celsius, Quantity, Seconds};
use serde::Serialize;

/// Stainless steel tempered above this loses its stainlessness, °C.
pub(crate) const STAINLESS_LIMIT_C: f64 = 425.0;
/// Where tempered martensite of carbon and low-alloy steel is brittle, °C.
pub(crate) const BRITTLE_C: std::ops::RangeInclusive<f64> = 260.0..=370.0;
/// The constant of the parameter, for time in hours.
pub const CONSTANT: f64 = 20.0;
/// Temperature at which each temper curve is anchored to no softening at all, °C (four hours).
const NO_SOFTENING_C: f64 = 70.0;
/// Time the built-in curves stand for: two tempers of two hours.
pub const TABLE_HOURS: f64 = 4.0;

/// Hollomon–Jaffe parameter of a hold at `temperature` for `hours` (must be above zero).
#[must_use]
pub fn parameter(temperature: Celsius, hours: f64) -> f64 {
    temperature.kelvin() * (CONSTANT + hours.max(1e-6).log10())
}

/// Hours at `temperature` that soften as much as a parameter `p` says.
#[must_use]
pub fn equivalent_hours(p: f64, temperature: Celsius) -> f64 {
    10f64.powf(p / temperature.kelvin() - CONSTANT)
}

/// Parameter of several holds: each is turned into time at the hottest one and the times are added.
/// None when there is no hold of any length.
#[must_use]
pub fn combined(holds: &[(Celsius, Seconds)]) -> Option<f64> {
    let hottest = holds
        .iter()
        .filter(|h| h.1.value() > 0.0)
        .map(|h| h.0)
        .max_by(|a, b| a.value().total_cmp(&b.value()))?;
    let hours: f64 = holds
        .iter()
        .filter(|h| h.1.value() > 0.0)
        .map(|(t, s)| equivalent_hours(parameter(*t, s.hours()), hottest))
        .sum();
    Some(parameter(hottest, hours))
}

/// How much a steel softens with the Hollomon–Jaffe parameter, from its row of typical values.
#[derive(Debug, Clone, PartialEq, serde::Serialize)]
pub struct TemperCurve {
    drop: Monotone,
}

impl TemperCurve {
    /// From hardness (HRC) after four hours at each temperature (°C), and the as-quenched hardness
    /// (HRC) those values started from. `row` holds at least two points, hotter last.
    #[must_use]
    pub fn from_row(row: &[(f64, f64)], as_quenched_hrc: f64) -> Self {
        let at = |c: f64| parameter(Celsius::clamped(c), TABLE_HOURS);
        let mut points = vec![(at(20.0), 0.0), (at(NO_SOFTENING_C), 0.0)];
        points.extend(
            row.iter()
                .map(|(c, hrc)| (at(*c), (as_quenched_hrc - hrc).max(0.0))),
        );
        Self {
            drop: Monotone::new(points),
        }
    }

    /// From (parameter, drop) points directly, parameters increasing.
    pub(crate) fn from_drops(points: Vec<(f64, f64)>) -> Self {
        Self {
            drop: Monotone::new(points),
        }
    }

    /// Hardness lost from the as-quenched state, HRC, never negative. Beyond the table the last
    /// slope goes on.
    #[must_use]
    pub fn drop_hrc(&self, p: f64) -> f64 {
        self.drop.at(p).max(0.0)
    }

    /// The (parameter, drop) points of the curve.
    #[must_use]
    pub fn points(&self) -> &[(f64, f64)] {
        self.drop.points()
    }
}

/// Lowest temper temperature between `low` and `high` at which `hardness` (falling or not) reaches
/// `target`, by scanning 5 °C steps and then bisection; None when no temperature reaches it.
pub fn temperature_for(
    target: f64,
    low: Celsius,
    high: Celsius,
    hardness: impl Fn(Celsius) -> f64,
) -> Option<Celsius> {
    let at = |c: f64| hardness(Celsius::clamped(c)) - target;
    let (mut a, end) = (low.value(), high.value());
    let mut fa = at(a);
    if fa.abs() < 1e-9 {
        return Some(low);
    }
    while a < end {
        let b = (a + 5.0).min(end);
        let fb = at(b);
        if fa.signum() != fb.signum() || fb == 0.0 {
            let (mut x, mut y, sign) = (a, b, fa.signum());
            for _ in 0..40 {
                let middle = 0.5 * (x + y);
                if at(middle).signum() == sign {
                    x = middle;
                } else {
                    y = middle;
                }
            }
            return Some(Celsius::clamped(0.5 * (x + y)));
        }
        (a, fa) = (b, fb);
    }
    None
}

/// Temper colours of clean carbon steel after two hours: each up to its temperature, °C.
const COLOURS: [(f64, &str); 8] = [
    (180.0, "none yet"),
    (205.0, "pale straw"),
    (225.0, "straw"),
    (245.0, "dark straw"),
    (260.0, "bronze"),
    (275.0, "purple"),
    (300.0, "dark blue"),
    (330.0, "light blue"),
];
/// The colours that a belt can leave.
pub const COLOUR_NAMES: [&str; 8] = [
    "pale straw",
    "straw",
    "dark straw",
    "bronze",
    "purple",
    "dark blue",
    "light blue",
    "grey",
];
/// Hours that the colours are given for.
const COLOUR_HOURS: f64 = 2.0;

/// Chromium steels show the same colours hotter, °C.
fn chromium_shift_c(percent: f64) -> f64 {
    7.0 * percent.clamp(0.0, 13.0)
}

/// The colour that a clean surface takes from tempers that amount to a Hollomon–Jaffe parameter: time
/// and temperature both count.
#[must_use]
pub fn colour(parameter: f64, chromium_percent: f64) -> &'static str {
    let two_hours = parameter / (CONSTANT + COLOUR_HOURS.log10()) - 273.15;
    let shown = two_hours - chromium_shift_c(chromium_percent);
    COLOURS.iter().find(|c| shown < c.0).map_or("grey", |c| c.1)
}

/// What a colour that the belt left at the edge means.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Burn {
    /// Hottest the skin was, °C.
    pub peak_c: f64,
    /// Hardness lost at the skin, HRC.
    pub lost_hrc: f64,
    /// How deep it is softer than before, mm.
    pub depth_mm: f64,
}

/// Diffusivity of heat in hardened steel, m²/s.
const HEAT_DIFFUSIVITY: f64 = 6.2e-6;

/// A grinding burn of `colour` (as [`colour`] names them) that took `seconds` (0.05 to 60), on a blade
/// tempered to the parameter `before`. The colour says how far it was tempered; heat that runs in for
/// that time says how deep (Carslaw and Jaeger 1959, 2.5). None for a colour that is none.
#[must_use]
pub fn burn(
    colour: &str,
    seconds: f64,
    curve: &TemperCurve,
    before: f64,
    chromium_percent: f64,
) -> Option<Burn> {
    let i = COLOURS.iter().position(|c| c.1 == colour);
    let middle = match i {
        Some(0) => return None,
        Some(i) => 0.5 * (COLOURS[i - 1].0 + COLOURS[i].0),
        None if colour == "grey" => 345.0,
        None => return None,
    };
    let oven = Celsius::clamped(middle + chromium_shift_c(chromium_percent));
    let reached = parameter(oven, COLOUR_HOURS);
    let hours = seconds.clamp(0.05, 60.0) / 3600.0;
    let brief = |p: f64| p / (CONSTANT + hours.log10()) - 273.15;
    let (peak_c, harmless_c) = (brief(reached), brief(before));
    let lost_hrc = (curve.drop_hrc(reached) - curve.drop_hrc(before)).max(0.0);
    // Into the depth the temperature falls with erfc(x), x = d/2√(αt).
    let share = (harmless_c - 20.0) / (peak_c - 20.0);
    let depth_mm = if share >= 1.0 || lost_hrc <= 0.0 {
        0.0
    } else {
        let (mut low, mut high) = (0.0, 3.0);
        for _ in 0..40 {
            let x = 0.5 * (low + high);
            if 2.0 * upper_tail(x * std::f64::consts::SQRT_2) > share {
                low = x;
            } else {
                high = x;
            }
        }
        2e3 * low * (HEAT_DIFFUSIVITY * hours * 3600.0).sqrt()
    };
    Some(Burn {
        peak_c,
        lost_hrc,
        depth_mm,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    fn c(value: f64) -> Celsius {
        Celsius::clamped(value)
    }

    fn hours(value: f64) -> Seconds {
        Seconds::clamped(value * 3600.0)
    }

    #[test]
    fn two_holds_of_two_hours_are_one_of_four() {
        let two = combined(&[(c(205.0), hours(2.0)), (c(205.0), hours(2.0))]).unwrap();
        assert!((two - parameter(c(205.0), 4.0)).abs() < 1e-6);
    }

    #[test]
    fn a_cooler_second_temper_adds_little() {
        let one = combined(&[(c(230.0), hours(2.0))]).unwrap();
        let both = combined(&[(c(230.0), hours(2.0)), (c(180.0), hours(2.0))]).unwrap();
        assert!(both > one && both - one < 10.0);
        assert_eq!(combined(&[(c(200.0), hours(0.0))]), None);
    }

    #[test]
    fn the_curve_meets_its_row() {
        let row = [(150.0, 64.0), (205.0, 61.5), (260.0, 58.5), (540.0, 34.5)];
        let curve = TemperCurve::from_row(&row, 65.0);
        for (t, hrc) in row {
            assert!((65.0 - curve.drop_hrc(parameter(c(t), 4.0)) - hrc).abs() < 1e-9);
        }
        assert_eq!(curve.drop_hrc(parameter(c(20.0), 1.0)), 0.0);
        assert!(curve.drop_hrc(parameter(c(650.0), 4.0)) > 31.0);
        assert_eq!(curve.points().len(), 6);
    }

    #[test]
    fn the_inverse_finds_the_temperature_or_says_no() {
        let line = |t: Celsius| 66.0 - 0.02 * t.value();
        let found = temperature_for(62.0, c(150.0), c(540.0), line).unwrap();
        assert!((found.value() - 200.0).abs() < 1e-6);
        assert_eq!(temperature_for(70.0, c(150.0), c(540.0), line), None);
        assert_eq!(
            temperature_for(63.0, c(150.0), c(540.0), line)
                .unwrap()
                .value(),
            150.0
        );
    }

    #[rstest]
    #[case(200.0, 0.0, "pale straw")]
    #[case(290.0, 0.0, "dark blue")]
    #[case(200.0, 13.0, "none yet")]
    fn colours(#[case] t: f64, #[case] cr: f64, #[case] expected: &str) {
        assert_eq!(colour(parameter(c(t), 2.0), cr), expected);
    }

    #[test]
    fn longer_at_the_same_heat_colours_further() {
        assert_eq!(colour(parameter(c(200.0), 2.0), 0.0), "pale straw");
        assert_eq!(colour(parameter(c(200.0), 8.0), 0.0), "straw");
    }

    #[test]
    fn a_blue_edge_has_lost_hardness_to_a_depth() {
        let steel = crate::material::steel::Steel::built_in("1084").unwrap();
        let before = parameter(c(205.0), 4.0);
        let at = |colour, seconds| burn(colour, seconds, &steel.curve, before, 0.0);
        let blue = at("light blue", 1.0).unwrap();
        assert!(blue.lost_hrc > 3.0 && blue.lost_hrc < 12.0, "{blue:?}");
        assert!(blue.depth_mm > 0.1 && blue.depth_mm < 3.0, "{blue:?}");
        // Quicker must have been hotter, and did not run as deep.
        let flash = at("light blue", 0.1).unwrap();
        assert!(flash.peak_c > blue.peak_c && flash.depth_mm < blue.depth_mm);
        let straw = at("pale straw", 1.0).unwrap();
        assert_eq!((straw.lost_hrc, straw.depth_mm), (0.0, 0.0));
        assert!(at("none yet", 1.0).is_none() && at("green", 1.0).is_none());
        assert!(at("grey", 1.0).unwrap().lost_hrc > blue.lost_hrc);
    }

    proptest! {
        #[test]
        fn the_order_of_tempers_does_not_matter(a in 150.0..500.0_f64, b in 150.0..500.0_f64) {
            let one = combined(&[(c(a), hours(1.0)), (c(b), hours(2.0))]).unwrap();
            let other = combined(&[(c(b), hours(2.0)), (c(a), hours(1.0))]).unwrap();
            prop_assert!((one - other).abs() < 1e-6);
        }
    }
}
