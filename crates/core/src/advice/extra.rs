//! Steps that can be put in at the fire though the plan has none of their kind, ready to be pressed with no
//! network: each with what there is to do in it.

use crate::material::steel::Steel;
use crate::process::change::DRY_ICE_C;
use crate::process::step::{Step, StepKind};
use crate::quantity::units::{Celsius, Quantity, Seconds};
use crate::record::firing::{FiringAction, actions};
use serde::{Deserialize, Serialize};

/// A step that can be put in.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ExtraStep {
    /// The step.
    pub step: Step,
    /// What there is to do in it, as step 0.
    pub actions: Vec<FiringAction>,
}

/// Strain leaves carbon steel in an hour at this, °C; no closer to Ac1 than the margin below.
const STRESS_RELIEF_C: f64 = 650.0;
/// Kept below Ac1 by this, °C: fires run hot.
const BELOW_AC1_C: f64 = 50.0;
/// The first temper of a blade that has none planned, °C: it takes the brittleness and little of the hardness.
const FIRST_TEMPER_C: f64 = 175.0;
const HOUR_S: f64 = 3600.0;

/// What can be put into `steps` of a steel: of heats those that the plan lacks (those it has are done again), and
/// straightening and cooling at any time.
#[must_use]
pub fn extras(steel: Option<&Steel>, steps: &[Step]) -> Vec<ExtraStep> {
    let lacks = |kind: StepKind| !steps.iter().any(|s| s.kind() == kind);
    let mut found = Vec::new();
    if let Some(temperature_c) = steel.and_then(|s| s.normalize)
        && lacks(StepKind::Normalize)
    {
        found.push(Step::Normalize {
            temperature_c,
            hold_s: Seconds::clamped(120.0),
            by: None,
        });
    }
    if let Some(steel) = steel.filter(|_| lacks(StepKind::StressRelief)) {
        found.push(Step::StressRelief {
            by: None,
            temperature_c: Celsius::clamped(STRESS_RELIEF_C.min(steel.ac1_c - BELOW_AC1_C).round()),
            hold_s: Seconds::clamped(HOUR_S),
        });
    }
    found.push(Step::Straighten {});
    found.push(Step::Cool {
        temperature_c: Celsius::clamped(20.0),
        hold_s: Seconds::clamped(0.0),
    });
    if lacks(StepKind::SubZero) {
        found.push(Step::SubZero {
            bath: None,
            until_c: None,
            temperature_c: Celsius::clamped(DRY_ICE_C),
            hold_s: Seconds::clamped(2.0 * HOUR_S),
            wait_s: Seconds::clamped(0.0),
        });
    }
    if lacks(StepKind::Temper) {
        found.push(Step::Temper {
            by: None,
            blades: None,
            clamp: None,
            cooled: None,
            temperature_c: Celsius::clamped(FIRST_TEMPER_C),
            hold_s: Seconds::clamped(2.0 * HOUR_S),
            times: 1,
            station_id: None,
        });
    }
    let extra = |step: Step| ExtraStep {
        actions: actions(std::slice::from_ref(&step)),
        step,
    };
    found.into_iter().map(extra).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::physics::tests::plan;

    #[test]
    fn what_the_plan_has_is_done_again_and_what_it_lacks_is_put_in() {
        let steps = plan(
            r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},
                {"kind":"quench","stages":[{"medium":"fast_oil"}]},
                {"kind":"temper","temperature_c":205,"hold_s":7200}]"#,
        );
        let kinds = |key: &str| {
            let steel = Steel::built_in(key).unwrap();
            let found = extras(Some(steel), steps.steps());
            assert!(found.iter().all(|e| !e.actions.is_empty()));
            found.iter().map(|e| e.step.kind()).collect::<Vec<_>>()
        };
        use StepKind::{Cool, Normalize, Straighten, StressRelief, SubZero};
        assert_eq!(
            kinds("1084"),
            [Normalize, StressRelief, Straighten, Cool, SubZero]
        );
        // Stainless is not normalized: it would harden in the air.
        assert_eq!(kinds("x65cr13"), [StressRelief, Straighten, Cool, SubZero]);
    }
}
