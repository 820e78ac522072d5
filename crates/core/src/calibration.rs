//! A check of a station: what it showed at some points, and what really was. Between the points the
//! correction goes in a straight line; beyond them the nearest one holds.

use crate::fault::{Checker, Faults};
use crate::station::Scale;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use uuid::Uuid;

/// Most points of one check.
pub const MAX_POINTS: usize = 12;
/// A temperature further off than this is a slip of the pen or a broken sensor, °C.
const WORST_C: f64 = 80.0;
/// A hardness further off than this is one, HRC.
const WORST_HRC: f64 = 8.0;
/// What is left unknown of a station once it was checked, as a share of what was unknown before: an oven
/// swings and a thermocouple drifts between checks.
pub const LEFT_UNKNOWN: f64 = 0.35;

/// What a station was checked against.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Against {
    /// Another thermometer, at several set points.
    Thermometer,
    /// Melting ice and boiling water.
    IceAndBoilingWater,
    /// Hardness blocks.
    Blocks,
}

impl Against {
    /// The scale it is for.
    #[must_use]
    pub const fn scale(self) -> Scale {
        match self {
            Self::Thermometer | Self::IceAndBoilingWater => Scale::Temperature,
            Self::Blocks => Scale::Hardness,
        }
    }
}

/// A check that was read: points `[shown, really]` by rising `shown`, never empty.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(transparent)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Calibration(Vec<[f64; 2]>);

impl Calibration {
    /// Checks points as typed.
    ///
    /// # Errors
    /// None or too many; the same one twice; outside what is possible, or unbelievably far off. Fields as
    /// `points[1][0]`.
    pub fn parse(points: &[[f64; 2]], scale: Scale) -> Result<Self, Faults> {
        let mut c = Checker::default();
        if points.is_empty() || points.len() > MAX_POINTS {
            let allowed = format!("1 to {MAX_POINTS} points");
            c.refuse_allowing("points", "A check needs at least one point.", allowed);
        }
        let ((low, high), unit, worst) = match scale {
            Scale::Temperature => ((-200.0, 1300.0), "°C", WORST_C),
            Scale::Hardness => ((0.0, 70.0), "HRC", WORST_HRC),
        };
        for (i, [shown, really]) in points.iter().enumerate().take(MAX_POINTS) {
            for (j, value) in [shown, really].into_iter().enumerate() {
                if !(low..=high).contains(value) {
                    c.refuse_allowing(
                        format!("points[{i}][{j}]"),
                        format!("{value} {unit} is outside what is possible."),
                        format!("{low} to {high} {unit}"),
                    );
                }
            }
            if (shown - really).abs() > worst {
                c.refuse_allowing(
                    format!("points[{i}][1]"),
                    format!("It showed {shown} where {really} was: too far off to be believed."),
                    format!("within {worst} {unit}"),
                );
            }
            if points[..i].iter().any(|p| (p[0] - shown).abs() < 1e-9) {
                c.refuse(format!("points[{i}][0]"), "This point is there twice.");
            }
        }
        let mut points = points.to_vec();
        points.sort_by(|a, b| a[0].total_cmp(&b[0]));
        c.finish(Some(Self(points)))
    }

    /// The points of a check in melting ice and boiling water: what was shown in each, °C, at an altitude
    /// of −430 to 9000 m. Water boils 1 °C cooler for each 300 m (the standard atmosphere, near enough).
    ///
    /// # Errors
    /// As [`Calibration::parse`]; an altitude where nobody has a forge.
    pub fn ice_and_boiling(ice_c: f64, boil_c: f64, altitude_m: f64) -> Result<Self, Faults> {
        if !(-430.0..=9000.0).contains(&altitude_m) {
            return Err(Faults::with_allowed(
                "altitude_m",
                format!("{altitude_m} m is not on land."),
                "-430 to 9000 m",
            ));
        }
        let boils = 100.0 - altitude_m / 300.0;
        Self::parse(&[[ice_c, 0.0], [boil_c, boils]], Scale::Temperature)
    }

    /// The points, `[shown, really]`.
    #[must_use]
    pub fn points(&self) -> &[[f64; 2]] {
        &self.0
    }

    /// What is to be added to what it shows.
    #[must_use]
    pub fn correction(&self, shown: f64) -> f64 {
        let offset = |p: &[f64; 2]| p[1] - p[0];
        let above = self.0.partition_point(|p| p[0] < shown);
        match (
            above.checked_sub(1).and_then(|i| self.0.get(i)),
            self.0.get(above),
        ) {
            (Some(a), Some(b)) => {
                let share = (shown - a[0]) / (b[0] - a[0]);
                offset(a) + share * (offset(b) - offset(a))
            }
            (Some(one), None) | (None, Some(one)) => offset(one),
            (None, None) => 0.0,
        }
    }

    /// What it really is where the station shows `shown`.
    #[must_use]
    pub fn really(&self, shown: f64) -> f64 {
        shown + self.correction(shown)
    }

    /// What it shows where `really` is: the other way round, found in a few steps.
    #[must_use]
    pub fn shown(&self, really: f64) -> f64 {
        (0..8).fold(really, |shown, _| really - self.correction(shown))
    }

    /// How much the correction moved since an earlier check, where both know it: the mean over the points
    /// of this one.
    #[must_use]
    pub fn drift_since(&self, earlier: &Self) -> f64 {
        let moved = self
            .0
            .iter()
            .map(|p| p[1] - p[0] - earlier.correction(p[0]));
        moved.sum::<f64>() / self.0.len().max(1) as f64
    }
}

/// The checks in force, by station.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Corrections(HashMap<Uuid, Calibration>);

impl FromIterator<(Uuid, Calibration)> for Corrections {
    fn from_iter<T: IntoIterator<Item = (Uuid, Calibration)>>(all: T) -> Self {
        Self(all.into_iter().collect())
    }
}

impl Corrections {
    /// What really is where a station shows `shown`; the same for one that was never checked.
    #[must_use]
    pub fn really(&self, station: Option<Uuid>, shown: f64) -> f64 {
        let check = station.and_then(|id| self.0.get(&id));
        check.map_or(shown, |c| c.really(shown))
    }

    /// What a station shows where `really` is.
    #[must_use]
    pub fn shown(&self, station: Option<Uuid>, really: f64) -> f64 {
        let check = station.and_then(|id| self.0.get(&id));
        check.map_or(really, |c| c.shown(really))
    }

    /// True when the station was checked.
    #[must_use]
    pub fn knows(&self, station: Option<Uuid>) -> bool {
        station.is_some_and(|id| self.0.contains_key(&id))
    }
}

/// All checks of a shop's stations, to be asked which was in force when.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Checks(HashMap<Uuid, Vec<(i64, Calibration)>>);

impl FromIterator<(Uuid, i64, Calibration)> for Checks {
    /// Station, time (s since 1970) and check, oldest first.
    fn from_iter<T: IntoIterator<Item = (Uuid, i64, Calibration)>>(all: T) -> Self {
        let mut by_station: HashMap<Uuid, Vec<(i64, Calibration)>> = HashMap::new();
        for (station, at, check) in all {
            by_station.entry(station).or_default().push((at, check));
        }
        Self(by_station)
    }
}

impl Checks {
    /// The checks in force at a time, s since 1970: the last one before it. Before a station was ever
    /// checked its first check is a better guess than none.
    #[must_use]
    pub fn at(&self, seconds: i64) -> Corrections {
        let in_force = |checks: &Vec<(i64, Calibration)>| {
            let last = checks.iter().rfind(|c| c.0 <= seconds);
            last.or_else(|| checks.first()).map(|c| c.1.clone())
        };
        let all = self.0.iter();
        all.filter_map(|(id, checks)| Some((*id, in_force(checks)?)))
            .collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn oven() -> Calibration {
        Calibration::parse(&[[250.0, 262.0], [150.0, 154.0]], Scale::Temperature).unwrap()
    }

    #[rstest]
    #[case(150.0, 4.0)]
    #[case(200.0, 8.0)]
    #[case(250.0, 12.0)]
    // Beyond its points the nearest correction holds.
    #[case(100.0, 4.0)]
    #[case(400.0, 12.0)]
    fn between_points_in_a_straight_line(#[case] shown: f64, #[case] add: f64) {
        assert!((oven().correction(shown) - add).abs() < 1e-9);
        assert!((oven().really(shown) - shown - add).abs() < 1e-9);
        assert!((oven().shown(shown + add) - shown).abs() < 1e-3);
    }

    #[rstest]
    #[case(&[], Scale::Temperature, "points")]
    #[case(&[[200.0, 1500.0]], Scale::Temperature, "points[0][1]")]
    #[case(&[[200.0, 300.0]], Scale::Temperature, "points[0][1]")]
    #[case(&[[60.0, 61.0], [60.0, 60.5]], Scale::Hardness, "points[1][0]")]
    #[case(&[[75.0, 61.0]], Scale::Hardness, "points[0][0]")]
    #[case(&[[f64::NAN, 61.0]], Scale::Hardness, "points[0][0]")]
    fn what_cannot_be_is_refused_by_field(
        #[case] points: &[[f64; 2]],
        #[case] scale: Scale,
        #[case] field: &str,
    ) {
        let faults = Calibration::parse(points, scale).unwrap_err();
        assert_eq!(faults.0[0].field, field);
    }

    #[test]
    fn water_boils_cooler_in_the_hills() {
        let c = Calibration::ice_and_boiling(1.0, 98.0, 600.0).unwrap();
        assert_eq!(c.points(), [[1.0, 0.0], [98.0, 98.0]]);
        assert!(Calibration::ice_and_boiling(1.0, 98.0, 60_000.0).is_err());
    }

    #[test]
    fn drift_is_what_moved_between_two_checks() {
        let later =
            Calibration::parse(&[[150.0, 157.0], [250.0, 265.0]], Scale::Temperature).unwrap();
        assert!((later.drift_since(&oven()) - 3.0).abs() < 1e-9);
    }

    #[test]
    fn a_result_goes_by_the_check_of_its_time() {
        let id = Uuid::from_u128(1);
        let off = |by: f64| Calibration::parse(&[[200.0, 200.0 + by]], Scale::Temperature).unwrap();
        let all: Checks = [(id, 100, off(4.0)), (id, 200, off(9.0))]
            .into_iter()
            .collect();
        for (at, by) in [(50, 4.0), (150, 4.0), (200, 9.0), (999, 9.0)] {
            assert_eq!(all.at(at).really(Some(id), 200.0), 200.0 + by);
        }
    }

    #[test]
    fn a_station_never_checked_is_taken_at_its_word() {
        let id = Uuid::from_u128(1);
        let all: Corrections = [(id, oven())].into_iter().collect();
        assert_eq!(all.really(Some(id), 200.0), 208.0);
        assert_eq!(all.really(None, 200.0), 200.0);
        assert!(all.knows(Some(id)) && !all.knows(Some(Uuid::from_u128(2))));
    }
}
