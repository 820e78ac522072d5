//! What next: the single change of a plan, inside safe windows, that helps most towards the wanted
//! hardness, and what it would teach.

use crate::interval::upper_tail;
use crate::learn::Model;
use crate::physics::{Shift, of_section, section, sensitivity};
use crate::plan::{Plan, Step};
use crate::prediction::{Subject, features};
use crate::reading::When;
use crate::steel::SubZero;
use crate::units::{Celsius, Quantity, Seconds};
use crate::warning::{Change, Fix};
use serde::{Deserialize, Serialize};

/// A proposal.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Next {
    /// The change.
    pub fix: Fix,
    /// Chance of ending inside the wanted window as planned, 0 to 1.
    pub chance_now: f64,
    /// The same with the change.
    pub chance_then: f64,
    /// In a sentence, with what it would teach.
    pub text: String,
}

/// A change must raise the chance by this to be worth a sentence.
const WORTH: f64 = 0.05;

/// A plan with one change.
pub(crate) struct Candidate {
    /// The steps with it.
    pub steps: Vec<Step>,
    /// The change.
    pub fix: Fix,
    /// What it would teach.
    pub teaches: &'static str,
}

/// Chance that the hardness a plan reaches is read inside `target`, HRC.
fn chance(subject: Subject<'_>, plan: &Plan, model: &Model, target: (f64, f64)) -> f64 {
    let subject = Subject { plan, ..subject };
    let section = section(plan, subject.steel, subject.work);
    let physics = of_section(plan, subject.steel, &section, Shift::default());
    let slopes = sensitivity(plan, subject.steel, &section);
    let x = features(subject, When::Tempered, &physics, &slopes, None);
    let c = model.correct(&x);
    let mean = physics.tempered_hrc + c.shift_hrc;
    let z = |bound: f64| (bound - mean) / c.deviation_hrc.max(0.05);
    (upper_tail(z(target.0)) - upper_tail(z(target.1))).max(0.0)
}

fn set(
    steps: &[Step],
    i: usize,
    step: Step,
    field: &str,
    value: f64,
    label: String,
) -> (Vec<Step>, Fix) {
    let mut changed = steps.to_vec();
    changed[i] = step;
    let change = Change::Set {
        step: i,
        field: field.to_owned(),
        value,
    };
    (changed, Fix { label, change })
}

/// Every single change that stays inside what is safe for the steel.
pub(crate) fn candidates(subject: Subject<'_>, advised_c: Option<f64>) -> Vec<Candidate> {
    let (steps, steel) = (subject.plan.steps(), subject.steel);
    let mut all = Vec::new();
    let mut add = |(steps, fix): (Vec<Step>, Fix), teaches| {
        all.push(Candidate {
            steps,
            fix,
            teaches,
        });
    };
    let Some(quench) = subject.plan.last_quench() else {
        return all;
    };
    let tempers = |i: usize| i > quench && matches!(steps[i], Step::Temper { .. });
    let only_temper = (0..steps.len()).filter(|i| tempers(*i)).count() == 1;
    for (i, step) in steps.iter().enumerate() {
        match step {
            Step::Temper {
                hold_s,
                times,
                station_id,
                ..
            } if only_temper && tempers(i) => {
                // Not into the brittle range of carbon and low-alloy steels.
                let brittle =
                    |t: f64| steel.analysis.chromium < 4.0 && (260.0..=370.0).contains(&t);
                if let Some(t) = advised_c.filter(|t| !brittle(*t)) {
                    let to = Step::Temper {
                        temperature_c: Celsius::clamped(t),
                        hold_s: *hold_s,
                        times: *times,
                        station_id: *station_id,
                    };
                    let label = format!("Temper at {t:.0} °C");
                    add(
                        set(steps, i, to, "temperature_c", t, label),
                        "how your oven runs there",
                    );
                }
            }
            Step::Austenitize {
                temperature_c,
                soak_s,
                station_id,
            } if i < quench
                && !steps[i + 1..quench]
                    .iter()
                    .any(|s| matches!(s, Step::Austenitize { .. })) =>
            {
                let window = steel.austenitize;
                for t in [window.low, window.nominal, window.high] {
                    if (t.value() - temperature_c.value()).abs() < 2.0 {
                        continue;
                    }
                    let to = Step::Austenitize {
                        temperature_c: t,
                        soak_s: *soak_s,
                        station_id: *station_id,
                    };
                    let value = t.value().round();
                    let label = format!("Austenitize at {value:.0} °C");
                    add(
                        set(steps, i, to, "temperature_c", value, label),
                        "how true your fire runs",
                    );
                }
                let longer = (2.0 * soak_s.value()).clamp(60.0, 3600.0);
                if longer > 1.2 * soak_s.value() {
                    let to = Step::Austenitize {
                        temperature_c: *temperature_c,
                        soak_s: Seconds::clamped(longer),
                        station_id: *station_id,
                    };
                    let label = format!("Soak {:.0} min", longer / 60.0);
                    add(
                        set(steps, i, to, "soak_s", longer, label),
                        "whether the carbon had gone into solution",
                    );
                }
            }
            _ => {}
        }
    }
    let cold = steps[quench..]
        .iter()
        .any(|s| matches!(s, Step::SubZero { .. }));
    if steel.sub_zero != SubZero::No && !cold {
        let step = Step::SubZero {
            temperature_c: Celsius::clamped(-75.0),
            hold_s: Seconds::clamped(7200.0),
            wait_s: Seconds::clamped(0.0),
        };
        let mut changed = steps.to_vec();
        changed.insert(quench + 1, step.clone());
        let fix = Fix {
            label: "Add −75 °C".to_owned(),
            change: Change::Insert {
                at: quench + 1,
                step,
            },
        };
        add((changed, fix), "how much austenite was left");
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
    let percent = |share: f64| (100.0 * share).round();
    Some(Next {
        text: format!(
            "{} raises the chance of {:.0} to {:.0} HRC from {:.0} to {:.0} %, and would show {}.",
            best.fix.label,
            target.0,
            target.1,
            percent(now),
            percent(then),
            best.teaches
        ),
        fix: best.fix,
        chance_now: now,
        chance_then: then,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::physics::tests::{blade, plan};
    use crate::steel::Steel;
    use crate::work::Work;

    fn ask(steel: &str, json: &str, target: (f64, f64), advised_c: Option<f64>) -> Option<Next> {
        let (plan, work) = (plan(json), Work::plain(&blade()));
        let subject = Subject {
            plan: &plan,
            steel: Steel::built_in(steel).unwrap(),
            work: &work,
            tester: None,
            bar: None,
            hand: None,
        };
        propose(subject, &Model::default(), target, advised_c)
    }

    const OIL: &str = r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},{"kind":"quench","stages":[{"medium":"fast_oil"}]},
        {"kind":"temper","temperature_c":150,"hold_s":7200,"times":2}]"#;

    #[test]
    fn too_hard_is_answered_by_the_temper() {
        let next = ask("1084", OIL, (58.5, 60.5), Some(235.0)).unwrap();
        assert!(next.chance_then > next.chance_now + 0.2, "{next:?}");
        assert!(matches!(&next.fix.change, Change::Set { step: 2, value, .. } if *value == 235.0));
        assert!(next.text.contains("oven"), "{}", next.text);
    }

    #[test]
    fn it_does_not_send_a_carbon_steel_into_the_brittle_range() {
        if let Some(next) = ask("1084", OIL, (54.0, 56.0), Some(300.0)) {
            assert!(!matches!(&next.fix.change, Change::Set { value, .. } if *value == 300.0));
        }
    }

    #[test]
    fn a_heat_that_was_too_cool_is_put_right() {
        let cool = OIL.replace("815", "735").replace("150", "205");
        let next = ask("o1", &cool, (60.0, 62.0), None).unwrap();
        let Change::Set { step, field, value } = &next.fix.change else {
            panic!("{next:?}")
        };
        assert_eq!((*step, field.as_str()), (0, "temperature_c"));
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
