//! A change to a plan, small enough to be applied with one press.

use crate::process::step::{Step, StepKind};
use crate::quantity::units::{Celsius, Quantity, Seconds};
use serde::{Deserialize, Serialize};

/// Dry ice in alcohol, °C.
pub const DRY_ICE_C: f64 = -75.0;

/// A change to a plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "change", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Change {
    /// Give a number of a step another value.
    Set {
        /// Position of the step.
        step: usize,
        /// Its kind.
        kind: StepKind,
        /// Which number.
        field: StepField,
        /// New value, in the unit that the field's name says.
        value: f64,
    },
    /// Put a new step in.
    Insert {
        /// Position it takes.
        at: usize,
        /// The step.
        step: Step,
    },
    /// Put another step in the place of one.
    Replace {
        /// Its position.
        at: usize,
        /// The step.
        with: Step,
    },
    /// Take a step out.
    Remove {
        /// Position of the step.
        step: usize,
    },
}

/// A number of a step, by its name in the API.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum StepField {
    /// Temperature, °C.
    TemperatureC,
    /// Soak, s.
    SoakS,
    /// Hold, s.
    HoldS,
    /// Wait before the cold, s.
    WaitS,
}

impl Change {
    /// Sets a number of one of `steps`.
    #[must_use]
    pub fn set(steps: &[Step], step: usize, field: StepField, value: f64) -> Self {
        Self::Set {
            step,
            kind: steps[step].kind(),
            field,
            value,
        }
    }

    /// Puts dry ice for two hours at a position.
    #[must_use]
    pub fn add_cold(at: usize) -> Self {
        let step = Step::SubZero {
            bath: None,
            until_c: None,
            temperature_c: Celsius::clamped(DRY_ICE_C),
            hold_s: Seconds::clamped(7200.0),
            wait_s: Seconds::clamped(0.0),
        };
        Self::Insert { at, step }
    }

    /// The steps with it. A position beyond the plan changes nothing.
    #[must_use]
    pub fn applied(&self, steps: &[Step]) -> Vec<Step> {
        let mut changed = steps.to_vec();
        match self {
            Self::Set {
                step, field, value, ..
            } => {
                if let Some(step) = changed.get_mut(*step) {
                    set(step, *field, *value);
                }
            }
            Self::Insert { at, step } if *at <= changed.len() => changed.insert(*at, step.clone()),
            Self::Replace { at, with } if *at < changed.len() => changed[*at] = with.clone(),
            Self::Remove { step } if *step < changed.len() => {
                changed.remove(*step);
            }
            _ => {}
        }
        changed
    }
}

/// Sets a number of a step that has it.
fn set(step: &mut Step, field: StepField, value: f64) {
    if field == StepField::TemperatureC
        && let Some((by, _)) = step.judged()
    {
        // A heat in degrees is by an instrument.
        *by = None;
    }
    if field == StepField::TemperatureC
        && let Step::Temper { by, .. } | Step::TorchTemper { by, .. } = step
    {
        *by = None;
    }
    match (field, step) {
        (
            StepField::TemperatureC,
            Step::Normalize { temperature_c, .. }
            | Step::Anneal { temperature_c, .. }
            | Step::StressRelief { temperature_c, .. }
            | Step::Refine { temperature_c, .. }
            | Step::Clay { temperature_c, .. }
            | Step::Preheat { temperature_c, .. }
            | Step::Austenitize { temperature_c, .. }
            | Step::Cool { temperature_c, .. }
            | Step::SubZero { temperature_c, .. }
            | Step::Temper { temperature_c, .. }
            | Step::TorchTemper { temperature_c, .. },
        ) => *temperature_c = Celsius::clamped(value),
        (StepField::SoakS, Step::Austenitize { soak_s, .. }) => *soak_s = Seconds::clamped(value),
        (
            StepField::HoldS,
            Step::Normalize { hold_s, .. }
            | Step::Anneal { hold_s, .. }
            | Step::StressRelief { hold_s, .. }
            | Step::Refine { hold_s, .. }
            | Step::Clay { hold_s, .. }
            | Step::Preheat { hold_s, .. }
            | Step::Cool { hold_s, .. }
            | Step::SubZero { hold_s, .. }
            | Step::Temper { hold_s, .. },
        ) => *hold_s = Seconds::clamped(value),
        (StepField::WaitS, Step::SubZero { wait_s, .. }) => *wait_s = Seconds::clamped(value),
        _ => {}
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::physics::tests::plan;

    const STEPS: &str = r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},{"kind":"quench","stages":[{"medium":"fast_oil"}]},
        {"kind":"sub_zero","temperature_c":-75,"hold_s":7200,"wait_s":43200},{"kind":"temper","temperature_c":205,"hold_s":7200}]"#;

    #[test]
    fn a_wait_is_set_and_the_hold_beside_it_stays() {
        let plan = plan(STEPS);
        let changed = Change::set(plan.steps(), 2, StepField::WaitS, 0.0).applied(plan.steps());
        let Step::SubZero { hold_s, wait_s, .. } = changed[2] else {
            panic!("{changed:?}")
        };
        assert_eq!(
            (hold_s, wait_s),
            (Seconds::clamped(7200.0), Seconds::clamped(0.0))
        );
    }

    #[test]
    fn every_change_is_of_the_step_it_names() {
        let plan = plan(STEPS);
        let steps = plan.steps();
        let hotter = Change::set(steps, 3, StepField::TemperatureC, 230.0);
        let kinds = |c: &Change| c.applied(steps).iter().map(Step::kind).collect::<Vec<_>>();
        let as_it_was: Vec<_> = steps.iter().map(Step::kind).collect();
        assert_eq!(kinds(&hotter), as_it_was);
        assert_ne!(hotter.applied(steps), steps);
        assert_eq!(kinds(&Change::Remove { step: 2 }).len(), 3);
        assert_eq!(kinds(&Change::add_cold(2))[2..4], [StepKind::SubZero; 2]);
        assert_eq!(kinds(&Change::Remove { step: 9 }), as_it_was);
    }
}
