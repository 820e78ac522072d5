//! How well a plan fits a blade: the chance that it comes out right.

use crate::interval::{Interval, NINETY, upper_tail};
use crate::plan::{Plan, Step};
use crate::prediction::Prediction;
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
    /// Holds, soaks and drying by the plan, h.
    pub hours: f64,
    /// In a sentence: what it is most often lost to.
    pub text: String,
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
    /// The fit of a prediction to a wanted hardness window, HRC. What was not computed counts as good.
    #[must_use]
    pub fn of(plan: &Plan, found: &Prediction, target: (f64, f64)) -> Self {
        let hard = inside(&found.hardness.tempered, target);
        let whole = found
            .outcomes
            .as_ref()
            .map_or(1.0, |o| 1.0 - o.crack.probability);
        let straight = found
            .outcomes
            .as_ref()
            .map_or(1.0, |o| 1.0 - o.bend.side_over_tolerance_probability);
        let right = hard * whole * straight;
        let percent = |lost: f64| (100.0 * (1.0 - lost)).round();
        let mut lost = [
            (hard, "hardness outside what you want"),
            (whole, "a crack"),
            (straight, "a bend"),
        ];
        lost.sort_by(|a, b| a.0.total_cmp(&b.0));
        let (worst, name) = lost[0];
        let text = if worst > 0.97 {
            "Comes out right nearly every time.".to_owned()
        } else {
            format!(
                "Comes out right {:.0} times in 10; most often lost to {name} ({:.0} %).",
                (10.0 * right).round(),
                percent(worst)
            )
        };
        Self {
            right,
            hard,
            whole,
            straight,
            hours: hours(plan),
            text,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::learn::Model;
    use crate::outcome::{Habits, outcomes};
    use crate::physics::tests::{blade, plan};
    use crate::prediction::{StationNames, Subject, predict};
    use crate::steel::Steel;
    use crate::work::Work;

    fn fit(steel: &str, medium: &str, target: (f64, f64)) -> Fit {
        let plan = plan(&format!(
            r#"[{{"kind":"austenitize","temperature_c":800,"soak_s":600}},{{"kind":"quench","stages":[{{"medium":"{medium}"}}]}},{{"kind":"temper","temperature_c":200,"hold_s":7200,"times":2}}]"#
        ));
        let (steel, work) = (Steel::built_in(steel).unwrap(), Work::plain(&blade()));
        let subject = Subject {
            plan: &plan,
            steel,
            work: &work,
            tester: None,
            bar: None,
            hand: None,
        };
        let mut found = predict(subject, &Model::default(), &StationNames::new(), None);
        let habits = Habits::default();
        let whole = outcomes(&work, &plan, steel, &habits, 3.0, None).unwrap().0;
        found.outcomes = Some(whole);
        Fit::of(&plan, &found, target)
    }

    #[test]
    fn a_wide_window_is_met_more_often_than_a_narrow_one() {
        let (wide, narrow) = (
            fit("1084", "fast_oil", (55.0, 66.0)),
            fit("1084", "fast_oil", (61.0, 61.5)),
        );
        assert!(wide.hard > 0.95 && narrow.hard < 0.4, "{wide:?} {narrow:?}");
        assert!(wide.right <= wide.hard.min(wide.whole).min(wide.straight));
        assert!(narrow.text.contains("hardness"), "{}", narrow.text);
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
