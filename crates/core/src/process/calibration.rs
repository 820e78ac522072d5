//! A check of a station: what it showed at some points, and what really was. Between the points the
//! correction goes in a straight line. What it tells fades with the distance from its points and with its
//! age, and with it what it leaves unknown grows back to what was unknown before.

use crate::process::eye::{Eye, Look};
use crate::process::station::Scale;
use crate::process::tank::Tanks;
use crate::quantity::validation::{Checker, Faults, Unit};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, HashMap};
use uuid::Uuid;

/// Most points of one check.
pub const MAX_POINTS: usize = 12;
/// A temperature further off than this is a slip of the pen or a broken sensor, °C.
const WORST_C: f64 = 80.0;
/// A hardness further off than this is one, HRC.
const WORST_HRC: f64 = 8.0;
/// What is left unknown of a station at the points of a fresh check, as a share of what was unknown before:
/// an oven swings and a thermocouple drifts between checks.
pub const LEFT_UNKNOWN: f64 = 0.35;
/// So far from its points a check of temperature still tells most: length of a squared-exponential
/// covariance (Rasmussen and Williams 2006, 4.2.1), °C. Limits of error of thermocouples are a share of the
/// temperature (ASTM E230), so that ice and steam say little of a hardening heat.
const TELLS_WITHIN_C: f64 = 150.0;
/// The same of hardness, HRC.
const TELLS_WITHIN_HRC: f64 = 10.0;
/// A check is worth half as much after this, s: two years. Base-metal thermocouples drift a few degrees in
/// hundreds of hours at hardening heat.
const HALF_LIFE_S: f64 = 2.0 * 365.25 * 86_400.0;

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
            Scale::Temperature => ((-200.0, 1300.0), Unit::Celsius, WORST_C),
            Scale::Hardness => ((0.0, 70.0), Unit::Hrc, WORST_HRC),
        };
        for (i, [shown, really]) in points.iter().enumerate().take(MAX_POINTS) {
            for (j, value) in [shown, really].into_iter().enumerate() {
                if !(low..=high).contains(value) {
                    let field = format!("points[{i}][{j}]");
                    let message = "This is outside what is possible.";
                    c.refuse_outside(field, message, (low, high), unit);
                }
            }
            if (shown - really).abs() > worst {
                let field = format!("points[{i}][1]");
                let message = "This is too far from what it showed to be believed.";
                c.refuse_outside(field, message, (shown - worst, shown + worst), unit);
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
            let message = "So high or low there is no land.";
            let range = (-430.0, 9000.0);
            return Err(Faults::outside("altitude_m", message, range, Unit::Metre));
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

/// A check as it was made.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = StationCheck))]
pub struct Check {
    /// When, s since 1970.
    pub at_s: i64,
    /// Against what.
    pub against: Against,
    /// What it found.
    pub points: Calibration,
}

impl Check {
    /// How much it tells of a reading `shown` at a time (s since 1970): 1 at its points when it is fresh,
    /// 0 where it says nothing.
    #[must_use]
    pub fn tells(&self, shown: f64, at_s: i64) -> f64 {
        let length = match self.against.scale() {
            Scale::Temperature => TELLS_WITHIN_C,
            Scale::Hardness => TELLS_WITHIN_HRC,
        };
        let points = self.points.points().iter();
        let nearest = points
            .map(|p| (p[0] - shown).abs())
            .fold(f64::MAX, f64::min);
        let age_s = at_s.abs_diff(self.at_s) as f64;
        (-0.5 * (nearest / length).powi(2)).exp() * 0.5_f64.powf(age_s / HALF_LIFE_S)
    }
}

/// The checks in force at a time, by station.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Corrections {
    /// When, s since 1970.
    at_s: i64,
    /// The check in force of each station that was checked.
    by_station: BTreeMap<Uuid, Check>,
    /// Eyes that were held against a thermocouple.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    eyes: BTreeMap<Uuid, Eye>,
    /// Tanks in use.
    #[serde(default, skip_serializing_if = "Tanks::is_empty")]
    tanks: Tanks,
}

impl Corrections {
    /// Checks that are in force at a time, s since 1970.
    #[must_use]
    pub fn new(at_s: i64, checks: impl IntoIterator<Item = (Uuid, Check)>) -> Self {
        Self {
            at_s,
            by_station: checks.into_iter().collect(),
            eyes: BTreeMap::new(),
            tanks: Tanks::default(),
        }
    }

    /// The same with the tanks of the shop.
    #[must_use]
    pub fn with_tanks(mut self, tanks: Tanks) -> Self {
        self.tanks = tanks;
        self
    }

    /// The tanks of the shop.
    #[must_use]
    pub const fn tanks(&self) -> &Tanks {
        &self.tanks
    }

    /// The same with eyes that were held against a thermocouple.
    #[must_use]
    pub fn with_eyes(mut self, eyes: impl IntoIterator<Item = (Uuid, Eye)>) -> Self {
        self.eyes = eyes.into_iter().collect();
        self
    }

    /// An eye as far as it is known.
    #[must_use]
    pub fn eye(&self, id: Option<Uuid>) -> Eye {
        id.and_then(|id| self.eyes.get(&id).copied())
            .unwrap_or_default()
    }

    /// The check in force of a station.
    #[must_use]
    pub fn check(&self, station: Option<Uuid>) -> Option<&Check> {
        self.by_station.get(&station?)
    }

    /// How old it is, days.
    #[must_use]
    pub fn age_days(&self, check: &Check) -> f64 {
        self.at_s.abs_diff(check.at_s) as f64 / 86_400.0
    }

    /// How much a station's check tells where it shows `shown`, 0 to 1; 0 of one that was never checked.
    #[must_use]
    pub fn tells(&self, station: Option<Uuid>, shown: f64) -> f64 {
        self.check(station)
            .map_or(0.0, |c| c.tells(shown, self.at_s))
    }

    /// What is left unknown of a station where it shows `shown`, as a share of what is unknown without any
    /// check.
    #[must_use]
    pub fn left_unknown(&self, station: Option<Uuid>, shown: f64) -> f64 {
        let tells = self.tells(station, shown);
        (1.0 - tells * tells * (1.0 - LEFT_UNKNOWN * LEFT_UNKNOWN)).sqrt()
    }

    /// What really is where a station shows `shown`; the same for one that was never checked.
    #[must_use]
    pub fn really(&self, station: Option<Uuid>, shown: f64) -> f64 {
        self.check(station).map_or(shown, |c| {
            shown + c.tells(shown, self.at_s) * c.points.correction(shown)
        })
    }

    /// What a station shows where `really` is: the other way round, found in a few steps.
    #[must_use]
    pub fn shown(&self, station: Option<Uuid>, really: f64) -> f64 {
        (0..8).fold(really, |shown, _| {
            really - (self.really(station, shown) - shown)
        })
    }

    /// True when the station was ever checked, at whatever points.
    #[must_use]
    pub fn knows(&self, station: Option<Uuid>) -> bool {
        self.check(station).is_some()
    }

    /// Every check with its station.
    pub fn all(&self) -> impl Iterator<Item = (Uuid, &Check)> {
        self.by_station.iter().map(|(id, check)| (*id, check))
    }

    /// The same checks of stations under other ids; those without one are left out.
    #[must_use]
    pub fn with_stations(&self, ids: &HashMap<Uuid, Uuid>) -> Self {
        let moved = self.all();
        let moved = moved.filter_map(|(id, check)| Some((*ids.get(&id)?, check.clone())));
        let eyes = self.eyes.iter();
        let eyes = eyes.filter_map(|(id, eye)| Some((*ids.get(id)?, *eye)));
        let tanks = self.tanks.iter();
        let tanks = tanks.filter_map(|(id, tank)| Some((*ids.get(&id)?, *tank)));
        Self::new(self.at_s, moved)
            .with_eyes(eyes)
            .with_tanks(tanks.collect())
    }
}

/// All checks of a shop's stations, to be asked which was in force when.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Checks {
    by_station: HashMap<Uuid, Vec<Check>>,
    looks: HashMap<Uuid, Vec<Look>>,
}

impl FromIterator<(Uuid, Check)> for Checks {
    /// Station and check, oldest first.
    fn from_iter<T: IntoIterator<Item = (Uuid, Check)>>(all: T) -> Self {
        let mut by_station: HashMap<Uuid, Vec<Check>> = HashMap::new();
        for (station, check) in all {
            by_station.entry(station).or_default().push(check);
        }
        Self {
            by_station,
            looks: HashMap::new(),
        }
    }
}

impl Checks {
    /// The checks in force at a time, s since 1970: the last one before it. Before a station was ever
    /// checked its first check is a better guess than none.
    #[must_use]
    pub fn at(&self, seconds: i64) -> Corrections {
        let in_force = |checks: &Vec<Check>| {
            let last = checks.iter().rfind(|c| c.at_s <= seconds);
            last.or_else(|| checks.first()).cloned()
        };
        let all = self.by_station.iter();
        let eyes = self.looks.iter().map(|(id, looks)| {
            let before: Vec<Look> = looks
                .iter()
                .filter(|l| l.at_s <= seconds)
                .copied()
                .collect();
            let known = if before.is_empty() { looks } else { &before };
            let really: Vec<Look> = known.iter().map(|l| self.really(l)).collect();
            (*id, Eye::of(&really))
        });
        Corrections::new(
            seconds,
            all.filter_map(|(id, checks)| Some((*id, in_force(checks)?))),
        )
        .with_eyes(eyes)
    }

    /// A look with what its thermocouple really had, by the check of its station that was in force then.
    fn really(&self, look: &Look) -> Look {
        let Some(checks) = look.shown_by.and_then(|id| self.by_station.get(&id)) else {
            return *look;
        };
        let last = checks.iter().rfind(|c| c.at_s <= look.at_s);
        let in_force = last.or_else(|| checks.first()).cloned();
        let known = Corrections::new(look.at_s, look.shown_by.zip(in_force));
        Look {
            really_c: known.really(look.shown_by, look.really_c),
            ..*look
        }
    }

    /// The same with the looks of eyes beside a thermocouple.
    #[must_use]
    pub fn with_looks(mut self, all: impl IntoIterator<Item = (Uuid, Look)>) -> Self {
        for (eye, look) in all {
            self.looks.entry(eye).or_default().push(look);
        }
        self
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
    fn a_look_is_held_against_what_its_thermocouple_really_had() {
        use crate::process::sighting::{Glow, Light};
        let (eye, kiln) = (Uuid::from_u128(1), Uuid::from_u128(2));
        let look = |shown_by| Look {
            at_s: DAY_S,
            colour: Glow::Cherry,
            light: Light::Dim,
            really_c: Glow::Cherry.usual_c(Light::Dim) - 30.0,
            shown_by,
        };
        let offset = |shown_by| {
            let checks = Checks::from_iter([(kiln, made(0, &[[700.0, 730.0], [800.0, 830.0]]))]);
            let known = checks.with_looks([look(shown_by); 8].map(|l| (eye, l)));
            known.at(2 * DAY_S).eye(Some(eye)).offset_c
        };
        // The kiln shows 30 K too little, and the eye is right.
        assert!(offset(Some(kiln)).abs() < 2.0, "{}", offset(Some(kiln)));
        assert!(offset(None) < -15.0, "{}", offset(None));
    }

    #[test]
    fn drift_is_what_moved_between_two_checks() {
        let later =
            Calibration::parse(&[[150.0, 157.0], [250.0, 265.0]], Scale::Temperature).unwrap();
        assert!((later.drift_since(&oven()) - 3.0).abs() < 1e-9);
    }

    const DAY_S: i64 = 86_400;

    fn made(at_s: i64, points: &[[f64; 2]]) -> Check {
        Check {
            at_s,
            against: Against::Thermometer,
            points: Calibration::parse(points, Scale::Temperature).unwrap(),
        }
    }

    #[test]
    fn a_result_goes_by_the_check_of_its_time() {
        let id = Uuid::from_u128(1);
        let off = |at_s: i64, by: f64| (id, made(at_s, &[[200.0, 200.0 + by]]));
        let all: Checks = [off(100, 4.0), off(200, 9.0)].into_iter().collect();
        for (at, by) in [(50, 4.0), (150, 4.0), (200, 9.0), (999, 9.0)] {
            let really = all.at(at).really(Some(id), 200.0);
            assert!((really - 200.0 - by).abs() < 1e-3);
        }
    }

    #[test]
    fn a_station_never_checked_is_taken_at_its_word() {
        let id = Uuid::from_u128(1);
        let oven = Check {
            points: oven(),
            ..made(0, &[[150.0, 150.0]])
        };
        let all = Corrections::new(0, [(id, oven)]);
        // 50 °C from both of its points.
        assert!(
            (all.really(Some(id), 200.0) - 200.0 - 8.0 * all.tells(Some(id), 200.0)).abs() < 1e-9
        );
        assert!(all.tells(Some(id), 200.0) > 0.9);
        assert_eq!(all.really(None, 200.0), 200.0);
        assert!(all.knows(Some(id)) && !all.knows(Some(Uuid::from_u128(2))));
        assert_eq!(all.left_unknown(None, 200.0), 1.0);
        let shown = all.shown(Some(id), 210.0);
        assert!((all.really(Some(id), shown) - 210.0).abs() < 1e-3);
    }

    #[test]
    fn ice_and_steam_say_next_to_nothing_of_a_hardening_heat() {
        let id = Uuid::from_u128(1);
        let check = Check {
            against: Against::IceAndBoilingWater,
            ..made(0, &[[2.0, 0.0], [103.0, 100.0]])
        };
        let all = Corrections::new(0, [(id, check)]);
        assert!((all.really(Some(id), 815.0) - 815.0).abs() < 0.01);
        assert!(all.left_unknown(Some(id), 815.0) > 0.999);
        // Of a temper it says something, of boiling water nearly all there is to say.
        assert!((0.5..0.8).contains(&all.left_unknown(Some(id), 205.0)));
        assert!((all.left_unknown(Some(id), 100.0) - LEFT_UNKNOWN).abs() < 0.01);
    }

    #[test]
    fn a_check_tells_less_the_older_it_is() {
        let id = Uuid::from_u128(1);
        let after = |days: i64| {
            let all = Corrections::new(days * DAY_S, [(id, made(0, &[[815.0, 825.0]]))]);
            (
                all.really(Some(id), 815.0) - 815.0,
                all.left_unknown(Some(id), 815.0),
            )
        };
        assert!(after(0).0 == 10.0 && (after(0).1 - LEFT_UNKNOWN).abs() < 1e-9);
        let (by, unknown) = after(731);
        assert!((by - 5.0).abs() < 0.02 && unknown > 0.85, "{by} {unknown}");
        assert!(after(3650).1 > 0.99);
    }
}
