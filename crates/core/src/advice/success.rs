//! How well a plan fits a blade: the chance that it comes out right.

use crate::prediction::predict::Prediction;
use crate::process::plan::Plan;
use crate::process::step::Step;
use crate::quantity::interval::{Interval, NINETY, upper_tail};
use serde::{Deserialize, Serialize};

/// Chances of what has to go right, each 0 to 1.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Fit {
    /// All of it goes right.
    pub right: f64,
    /// Hardness ends inside the wanted window.
    pub hard: f64,
    /// It does not crack.
    pub whole: f64,
    /// It stays straight enough.
    pub straight: f64,
    /// The line comes out where it is wanted; none where none is wanted.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub line: Option<f64>,
    /// Holds, soaks and drying by the plan, h.
    pub hours: f64,
    /// What it is most often lost to; none when it comes out right nearly every time.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lost_to: Option<LostTo>,
}

/// What keeps a blade from coming out right.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum LostTo {
    /// Hardness outside the wanted window.
    Hardness,
    /// A crack.
    Crack,
    /// A bend.
    Bend,
    /// A line that is not where it is wanted.
    Line,
}

/// Something that goes right more often than this goes right nearly every time.
const NEARLY_ALWAYS: f64 = 0.97;

/// A line this near to the wanted height is where it is wanted, mm.
pub const LINE_WITHIN_MM: f64 = 2.0;

/// What methods are told apart by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum ToldApartBy {
    /// The chance that it comes out right.
    Right,
    /// How long it takes.
    Hours,
    /// How fine the grain is.
    Grain,
    /// The risk of a crack.
    Crack,
    /// The risk of a bend.
    Bend,
}

/// What a method makes of a blade, in what methods can be told apart by.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Standing {
    /// Chance that it comes out right, 0 to 1.
    pub right: f64,
    /// Holds by the plan, h.
    pub hours: f64,
    /// ASTM grain size number.
    pub grain_astm: f64,
    /// Risk of a crack, 0 to 1.
    pub crack: f64,
    /// Risk of a bend beyond what can be left, 0 to 1.
    pub bend: f64,
}

/// Chances that differ by less are the same to a smith.
const SAME_CHANCE: f64 = 0.05;
/// A difference that is worth choosing by: hours as their ratio, grain numbers, chances of crack and bend.
const WORTH_HOURS: f64 = 1.5;
const WORTH_GRAIN: f64 = 1.0;
const WORTH_CRACK: f64 = 0.01;
const WORTH_BEND: f64 = 0.02;

/// What tells these methods apart best: the chance that they come out right, unless that is the same for
/// all of them; then what differs most.
#[must_use]
pub fn told_apart_by(all: &[Standing]) -> ToldApartBy {
    let spread = |value: fn(&Standing) -> f64| {
        let (low, high) = all
            .iter()
            .map(value)
            .fold((f64::MAX, f64::MIN), |(l, h), v| (l.min(v), h.max(v)));
        (high - low).max(0.0)
    };
    if all.len() < 2 || spread(|s| s.right) >= SAME_CHANCE {
        return ToldApartBy::Right;
    }
    let by = [
        (ToldApartBy::Crack, spread(|s| s.crack) / WORTH_CRACK),
        (ToldApartBy::Bend, spread(|s| s.bend) / WORTH_BEND),
        (ToldApartBy::Grain, spread(|s| s.grain_astm) / WORTH_GRAIN),
        (
            ToldApartBy::Hours,
            spread(|s| s.hours.max(0.1).ln()) / WORTH_HOURS.ln(),
        ),
    ];
    let most = by.into_iter().max_by(|a, b| a.1.total_cmp(&b.1));
    most.filter(|(_, worth)| *worth >= 1.0)
        .map_or(ToldApartBy::Right, |(by, _)| by)
}

impl Standing {
    /// Where it stands by that, the best lowest.
    #[must_use]
    pub fn rank(&self, by: ToldApartBy) -> f64 {
        match by {
            ToldApartBy::Right => -self.right,
            ToldApartBy::Hours => self.hours,
            ToldApartBy::Grain => -self.grain_astm,
            ToldApartBy::Crack => self.crack,
            ToldApartBy::Bend => self.bend,
        }
    }
}

/// Chance that a value ends inside a window.
#[must_use]
pub fn inside(found: &Interval, (low, high): (f64, f64)) -> f64 {
    let deviation = (found.width() / (2.0 * NINETY)).max(0.05);
    let z = |bound: f64| (bound - found.middle) / deviation;
    (upper_tail(z(low)) - upper_tail(z(high))).clamp(0.0, 1.0)
}

/// Hours a plan takes by its holds.
#[must_use]
pub fn hours(plan: &Plan) -> f64 {
    plan.steps()
        .iter()
        .map(|step| match step {
            Step::Normalize { hold_s, .. }
            | Step::Refine { hold_s, .. }
            | Step::Anneal { hold_s, .. }
            | Step::StressRelief { hold_s, .. }
            | Step::Clay { hold_s, .. }
            | Step::Preheat { hold_s, .. }
            | Step::Cool { hold_s, .. } => hold_s.hours(),
            Step::Austenitize { soak_s, .. } => soak_s.hours(),
            Step::SubZero { hold_s, wait_s, .. } => hold_s.hours() + wait_s.hours(),
            Step::Temper { hold_s, times, .. } => hold_s.hours() * f64::from(*times),
            _ => 0.0,
        })
        .sum()
}

impl Fit {
    /// The fit of a prediction to a wanted hardness window, HRC, and a wanted mean height of the line, mm,
    /// where one is wanted. What was not computed counts as good.
    #[must_use]
    pub fn new(
        plan: &Plan,
        found: &Prediction,
        target: (f64, f64),
        wanted_mm: Option<f64>,
    ) -> Self {
        let hard = inside(&found.hardness.tempered, target);
        let whole = found
            .outcomes
            .as_ref()
            .map_or(1.0, |o| 1.0 - o.crack.probability);
        let straight = found
            .outcomes
            .as_ref()
            .map_or(1.0, |o| 1.0 - o.bend.side_over_tolerance_probability);
        let line = wanted_mm.zip(found.outcomes.as_ref()).map(|(mm, o)| {
            let window = (mm - LINE_WITHIN_MM, mm + LINE_WITHIN_MM);
            o.ranges.hamon_mm.map_or(0.0, |line| inside(&line, window))
        });
        let right = hard * whole * straight * line.unwrap_or(1.0);
        let mut chances = [
            (hard, LostTo::Hardness),
            (whole, LostTo::Crack),
            (straight, LostTo::Bend),
            (line.unwrap_or(1.0), LostTo::Line),
        ];
        chances.sort_by(|a, b| a.0.total_cmp(&b.0));
        let (chance, what) = chances[0];
        Self {
            right,
            hard,
            whole,
            straight,
            line,
            hours: hours(plan),
            lost_to: (chance <= NEARLY_ALWAYS).then_some(what),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::learning::Model;
    use crate::learning::bias_models::BiasModels;
    use crate::material::steel::Steel;
    use crate::prediction::outcome::outcomes;
    use crate::prediction::predict::{StationNames, predict};
    use crate::prediction::subject::Subject;
    use crate::process::workpiece::Workpiece;
    use crate::simulation::physics::tests::{blade, plan};

    fn fit(steel: &str, medium: &str, target: (f64, f64)) -> Fit {
        wanting(steel, medium, target, None)
    }

    fn wanting(steel: &str, medium: &str, target: (f64, f64), wanted_mm: Option<f64>) -> Fit {
        let plan = plan(&format!(
            r#"[{{"kind":"austenitize","temperature_c":800,"soak_s":600}},{{"kind":"quench","stages":[{{"medium":"{medium}"}}]}},{{"kind":"temper","temperature_c":200,"hold_s":7200,"times":2}}]"#
        ));
        let (steel, work) = (Steel::built_in(steel).unwrap(), Workpiece::plain(&blade()));
        let subject = Subject {
            plan: &plan,
            steel,
            work: &work,
            tester: None,
            bar: None,
            operator: None,
        };
        let mut found = predict(subject, &Model::default(), &StationNames::new(), None);
        let biases = BiasModels::default();
        let whole = outcomes(&work, &plan, steel, &biases, 3.0, None).unwrap().0;
        found.outcomes = Some(whole);
        Fit::new(&plan, &found, target, wanted_mm)
    }

    #[test]
    fn a_wanted_line_is_part_of_what_has_to_come_right() {
        let wide = (40.0, 69.0);
        let without = fit("w2", "water", wide);
        assert_eq!(without.line, None);
        // An oil steel hardens through: no line at all.
        let none = wanting("o1", "medium_oil", wide, Some(12.0));
        assert_eq!((none.line, none.right), (Some(0.0), 0.0));
        assert_eq!(none.lost_to, Some(LostTo::Line));
        let chances: Vec<f64> = (1..15)
            .map(|i| wanting("w2", "fast_oil", wide, Some(2.0 * f64::from(i))))
            .map(|fit| fit.line.unwrap())
            .collect();
        let best = chances.iter().copied().fold(0.0, f64::max);
        assert!(best > 0.2 && chances[13] < 0.5 * best, "{chances:?}");
    }

    #[test]
    fn methods_that_all_come_out_right_are_told_apart_by_what_differs() {
        let standing = |right: f64, hours: f64, grain_astm: f64, crack: f64| Standing {
            right,
            hours,
            grain_astm,
            crack,
            bend: 0.01,
        };
        let by = |all: &[Standing]| told_apart_by(all);
        assert_eq!(
            by(&[standing(0.98, 4.0, 9.0, 0.0), standing(0.60, 4.0, 9.0, 0.0)]),
            ToldApartBy::Right
        );
        let crack = [
            standing(0.98, 4.0, 9.0, 0.002),
            standing(0.96, 4.0, 9.3, 0.03),
        ];
        assert_eq!(by(&crack), ToldApartBy::Crack);
        assert!(crack[0].rank(ToldApartBy::Crack) < crack[1].rank(ToldApartBy::Crack));
        let grain = [
            standing(0.98, 4.0, 7.5, 0.002),
            standing(0.97, 4.5, 10.0, 0.003),
        ];
        assert_eq!(by(&grain), ToldApartBy::Grain);
        assert!(grain[1].rank(ToldApartBy::Grain) < grain[0].rank(ToldApartBy::Grain));
        let hours = [
            standing(0.98, 1.5, 9.0, 0.002),
            standing(0.97, 4.5, 9.1, 0.003),
        ];
        assert_eq!(by(&hours), ToldApartBy::Hours);
        assert_eq!(by(&[standing(0.98, 4.0, 9.0, 0.0); 3]), ToldApartBy::Right);
    }

    #[test]
    fn a_wide_window_is_met_more_often_than_a_narrow_one() {
        let (wide, narrow) = (
            fit("1084", "fast_oil", (55.0, 66.0)),
            fit("1084", "fast_oil", (61.0, 61.5)),
        );
        assert!(wide.hard > 0.95 && narrow.hard < 0.4, "{wide:?} {narrow:?}");
        assert!(wide.right <= wide.hard.min(wide.whole).min(wide.straight));
        assert_eq!(narrow.lost_to, Some(LostTo::Hardness));
        assert!((wide.hours - 4.0 - 1.0 / 6.0).abs() < 1e-9);
    }

    #[test]
    fn the_wrong_bath_is_lost_to_cracks() {
        let water = fit("o1", "water", (50.0, 68.0));
        let oil = fit("o1", "medium_oil", (50.0, 68.0));
        assert!(water.whole < oil.whole - 0.05 && water.right < oil.right);
    }

    #[test]
    fn chances_are_chances() {
        let sure = Interval {
            middle: 60.0,
            low: 60.0,
            high: 60.0,
        };
        assert!(inside(&sure, (59.0, 61.0)) > 0.999);
        assert!(inside(&sure, (61.0, 62.0)) < 0.001);
    }
}
