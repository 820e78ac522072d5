//! What next: the single change of a plan, inside safe windows, that helps most towards the wanted
//! hardness, and what it would teach.

use crate::learning::Model;
use crate::material::steel::SubZero;
use crate::material::temper::BRITTLE_C;
use crate::prediction::subject::{Subject, features};
use crate::process::change::{Change, StepField};
use crate::process::plan::Plan;
use crate::process::step::Step;
use crate::quantity::interval::upper_tail;
use crate::record::reading::When;
use crate::simulation::physics::{Shift, of_section, section, sensitivity};

use serde::{Deserialize, Serialize};

/// A proposal.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Next {
    /// The change.
    pub fix: Change,
    /// Lower end of the wanted window, HRC.
    #[serde(default)]
    pub low_hrc: f64,
    /// Upper end of the wanted window, HRC.
    #[serde(default)]
    pub high_hrc: f64,
    /// Chance of ending inside the wanted window as planned, 0 to 1.
    pub chance_now: f64,
    /// The same with the change.
    pub chance_then: f64,
    /// What it would teach.
    pub teaches: Teaches,
}

/// What a change would teach.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Teaches {
    /// How the oven runs at that temper.
    Oven,
    /// How true the fire runs.
    Fire,
    /// Whether the carbon had gone into solution.
    Solution,
    /// How much austenite was left.
    Austenite,
}

/// A change must raise the chance by this to be worth naming.
const WORTH: f64 = 0.05;

/// A plan with one change.
pub(crate) struct Candidate {
    /// The steps with it.
    pub steps: Vec<Step>,
    /// The change.
    pub change: Change,
    /// What it would teach; nothing of its own where it is a change of the work, not of a number.
    pub teaches: Option<Teaches>,
}

impl Candidate {
    pub(crate) fn new(steps: &[Step], change: Change, teaches: Option<Teaches>) -> Self {
        Self {
            steps: change.applied(steps),
            change,
            teaches,
        }
    }
}

/// Chance that the hardness a plan reaches is read inside `target`, HRC.
fn chance(subject: Subject<'_>, plan: &Plan, model: &Model, target: (f64, f64)) -> f64 {
    let subject = Subject { plan, ..subject };
    let section = section(plan, subject.steel, subject.work);
    let physics = of_section(plan, subject.steel, &section, Shift::default());
    let slopes = sensitivity(plan, subject.steel, &section, subject.work.furnace);
    let x = features(subject, When::Tempered, &physics, &slopes, None);
    let c = model.correct(&x);
    let inside = |hrc: f64, deviation: f64| {
        let z = |bound: f64| (bound - hrc - c.shift_hrc) / deviation.max(0.05);
        (upper_tail(z(target.0)) - upper_tail(z(target.1))).max(0.0)
    };
    let hrc = physics.tempered_hrc;
    if !slopes.tempered.is_wide() {
        return inside(hrc, c.deviation_hrc);
    }
    let deviation = model.correct(&x.with_heat_known()).deviation_hrc;
    let all = slopes.tempered.over_heat_hrc;
    let sum: f64 = all.iter().map(|more| inside(hrc + more, deviation)).sum();
    sum / all.len() as f64
}

/// Every single change that stays inside what is safe for the steel.
pub(crate) fn candidates(subject: Subject<'_>, advised_c: Option<f64>) -> Vec<Candidate> {
    let (steps, steel) = (subject.plan.steps(), subject.steel);
    let Some(quench) = subject.plan.last_quench() else {
        return Vec::new();
    };
    let mut all = Vec::new();
    let mut add = |change, teaches| all.push(Candidate::new(steps, change, Some(teaches)));
    let tempers = |i: usize| i > quench && matches!(steps[i], Step::Temper { .. });
    let only_temper = (0..steps.len()).filter(|i| tempers(*i)).count() == 1;
    for (i, step) in steps.iter().enumerate() {
        match step {
            Step::Temper { .. } if only_temper && tempers(i) => {
                // Not into the brittle range of carbon and low-alloy steels.
                let brittle = |t: f64| steel.analysis.chromium < 4.0 && BRITTLE_C.contains(&t);
                if let Some(t) = advised_c.filter(|t| !brittle(*t)) {
                    let change = Change::set(steps, i, StepField::TemperatureC, t);
                    add(change, Teaches::Oven);
                }
            }
            Step::Austenitize {
                temperature_c,
                soak_s,
                ..
            } if i < quench
                && !steps[i + 1..quench]
                    .iter()
                    .any(|s| matches!(s, Step::Austenitize { .. })) =>
            {
                let window = steel.austenitize;
                for t in [window.low, window.nominal, window.high] {
                    if (t.value() - temperature_c.value()).abs() >= 2.0 {
                        let change =
                            Change::set(steps, i, StepField::TemperatureC, t.value().round());
                        add(change, Teaches::Fire);
                    }
                }
                let longer = (2.0 * soak_s.value()).clamp(60.0, 3600.0);
                if longer > 1.2 * soak_s.value() {
                    let change = Change::set(steps, i, StepField::SoakS, longer);
                    add(change, Teaches::Solution);
                }
            }
            _ => {}
        }
    }
    let cold = steps[quench..]
        .iter()
        .any(|s| matches!(s, Step::SubZero { .. }));
    if steel.sub_zero != SubZero::No && !cold {
        add(Change::add_cold(quench + 1), Teaches::Austenite);
    }
    all
}

/// The change that raises the chance of the wanted hardness most; None when nothing raises it by much.
/// `advised_c` is the temper that would reach the middle of `target`, where there is one.
#[must_use]
pub fn propose(
    subject: Subject<'_>,
    model: &Model,
    target: (f64, f64),
    advised_c: Option<f64>,
) -> Option<Next> {
    let now = chance(subject, subject.plan, model, target);
    let (then, best) = candidates(subject, advised_c)
        .into_iter()
        .map(|c| {
            let plan = subject.plan.with_steps(c.steps.clone());
            (chance(subject, &plan, model, target), c)
        })
        .max_by(|a, b| a.0.total_cmp(&b.0))?;
    if then < now + WORTH {
        return None;
    }
    Some(Next {
        fix: best.change,
        low_hrc: target.0,
        high_hrc: target.1,
        chance_now: now,
        chance_then: then,
        teaches: best.teaches?,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::steel::Steel;
    use crate::process::workpiece::Workpiece;
    use crate::simulation::physics::tests::{blade, plan};

    fn ask(steel: &str, json: &str, target: (f64, f64), advised_c: Option<f64>) -> Option<Next> {
        let (plan, work) = (plan(json), Workpiece::plain(&blade()));
        let subject = Subject {
            plan: &plan,
            steel: Steel::built_in(steel).unwrap(),
            work: &work,
            tester: None,
            bar: None,
            operator: None,
        };
        propose(subject, &Model::default(), target, advised_c)
    }

    const OIL: &str = r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},{"kind":"quench","stages":[{"medium":"fast_oil"}]},
        {"kind":"temper","temperature_c":150,"hold_s":7200,"times":2}]"#;

    #[test]
    fn too_hard_is_answered_by_the_temper() {
        let next = ask("1084", OIL, (58.5, 60.5), Some(235.0)).unwrap();
        assert!(next.chance_then > next.chance_now + 0.2, "{next:?}");
        assert!(matches!(&next.fix, Change::Set { step: 2, value, .. } if *value == 235.0));
        assert_eq!(next.teaches, Teaches::Oven);
    }

    #[test]
    fn it_does_not_send_a_carbon_steel_into_the_brittle_range() {
        if let Some(next) = ask("1084", OIL, (54.0, 56.0), Some(300.0)) {
            assert!(!matches!(&next.fix, Change::Set { value, .. } if *value == 300.0));
        }
    }

    #[test]
    fn a_heat_that_was_too_cool_is_put_right() {
        let cool = OIL.replace("815", "735").replace("150", "205");
        let next = ask("o1", &cool, (60.0, 62.0), None).unwrap();
        let Change::Set {
            step, field, value, ..
        } = &next.fix
        else {
            panic!("{next:?}")
        };
        assert_eq!((*step, *field), (0, StepField::TemperatureC));
        let window = Steel::built_in("o1").unwrap().austenitize;
        assert!((window.low.value()..=window.high.value()).contains(value));
    }

    #[test]
    fn a_good_plan_is_left_alone() {
        assert_eq!(
            ask(
                "1084",
                &OIL.replace("150", "205"),
                (60.5, 62.5),
                Some(206.0)
            ),
            None
        );
    }
}
