//! What a prediction is made for, and what of it is learned by.

use crate::learning::Features;
use crate::learning::record::HeatSpread;
use crate::material::steel::Steel;
use crate::process::operator::Operator;
use crate::process::plan::{KILN_C, Plan};
use crate::process::step::Step;
use crate::process::workpiece::Workpiece;
use crate::quantity::units::Celsius;
use crate::record::reading::When;
use crate::simulation::physics::{self, Physics, Sensitivity};
use uuid::Uuid;

/// What a prediction is made for.
#[derive(Debug, Clone, Copy)]
pub struct Subject<'a> {
    /// The plan.
    pub plan: &'a Plan,
    /// The steel.
    pub steel: &'a Steel,
    /// The blade and what is around it.
    pub work: &'a Workpiece,
    /// The tester it will be read with, when known.
    pub tester: Option<Uuid>,
    /// The bar it is made from, when known.
    pub bar: Option<Uuid>,
    /// Who quenches it, when known.
    pub operator: Option<&'a Operator>,
}

/// Kiln of the hardening heat and oven of the last temper that the plan names.
#[must_use]
pub fn stations(plan: &Plan) -> (Option<Uuid>, Option<Uuid>) {
    let find = |read: &dyn Fn(&Step) -> Option<Option<Uuid>>| {
        plan.steps().iter().rev().find_map(read).flatten()
    };
    (
        find(&|s| match s {
            Step::Austenitize { station_id, .. } => Some(*station_id),
            _ => None,
        }),
        find(&|s| match s {
            Step::Temper { station_id, .. } => Some(*station_id),
            _ => None,
        }),
    )
}

/// What the kiln of the hardening heat and the oven of the last temper are set to, °C.
pub(crate) fn heats_shown(plan: &Plan) -> (Option<f64>, Option<f64>) {
    let find = |read: fn(&Step) -> Option<f64>| plan.steps().iter().rev().find_map(read);
    (
        find(|s| match s {
            Step::Austenitize { temperature_c, .. } => Some(temperature_c.value()),
            _ => None,
        }),
        find(|s| match s {
            Step::Temper { temperature_c, .. } => Some(temperature_c.value()),
            _ => None,
        }),
    )
}

/// Features of a result of this subject, for learning and for predicting.
#[must_use]
pub fn features(
    subject: Subject<'_>,
    when: When,
    physics: &Physics,
    slopes: &Sensitivity,
    blade_id: Option<Uuid>,
) -> Features {
    let (_, oven) = stations(subject.plan);
    let doubt = subject.plan.heat_doubt(subject.work.furnace);
    let by_eye = subject.plan.is_judged_by_eye();
    let by_colour = subject.plan.temper_sighting();
    let tempered = when == When::Tempered;
    // Of a station that was checked less is left to be learned, where its check tells of this heat.
    let known = subject.plan.corrections();
    let (_, temper_c) = heats_shown(subject.plan);
    let unknown =
        |station, shown: Option<f64>| shown.map_or(1.0, |shown| known.left_unknown(station, shown));
    let of = if tempered {
        &slopes.tempered
    } else {
        &slopes.as_quenched
    };
    Features {
        when,
        blade: blade_id,
        steel: subject.steel.key.clone(),
        steel_spread_hrc: subject.steel.spread_hrc(),
        bar: subject.bar,
        kiln: doubt.known_by,
        oven: if tempered && by_colour.is_none() {
            oven
        } else {
            None
        },
        tester: subject.tester,
        tank: physics::stages(subject.plan).first().map(|s| s.medium),
        operator: subject.operator.cloned(),
        temper_c: if tempered {
            physics.hottest_temper.map(Celsius::value)
        } else {
            None
        },
        spine_mm: subject.work.blade().spine_mm,
        per_kiln_c: doubt.lasting_c / KILN_C * of.per_kiln_c,
        heat: HeatSpread {
            by_eye,
            lasting: doubt.lasting_c / KILN_C,
            once_hrc: doubt.once_c * of.per_kiln_c,
            rest_hrc: of.heat_rest_hrc,
            temper_once_hrc: match by_colour {
                Some(by) if tempered => by.deviation_c() * of.per_oven_c,
                _ => 0.0,
            },
        },
        per_oven_c: if tempered && by_colour.is_none() {
            unknown(oven, temper_c) * of.per_oven_c
        } else {
            0.0
        },
        quench: of.quench,
    }
}
