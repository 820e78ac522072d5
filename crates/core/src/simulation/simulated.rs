//! What the engine alone, without any record, says of the quench of a whole blade: what findings are held
//! against. Small enough to be kept with a firing.

use crate::geometry::clay::Lay;
use crate::geometry::form::Grid;
use crate::material::dissolution::Structure;
use crate::material::medium::Medium;
use crate::material::steel::{Hardening, Steel};
use crate::material::temper::parameter;
use crate::process::check::Check;
use crate::process::plan::Plan;
use crate::process::step::Step;
use crate::process::workpiece::Workpiece;
use crate::quantity::units::Kelvins;
use crate::simulation::crack::Causes;
use crate::simulation::decarburization;
use crate::simulation::grain;
use crate::simulation::hamon::{Column, Course, Hamon, Line, Moved, columns, line_of};
use crate::simulation::heat::Heat;
use crate::simulation::physics::stages;
use crate::simulation::quench::{Quenched, Setup, Stopped, quench};
use crate::simulation::straightening::{TemperClamp, first_temper};
use crate::simulation::warp::blade::{Bend, Chill, Sections};
use serde::{Deserialize, Serialize};
use std::f64::consts::FRAC_PI_2;
use std::sync::atomic::AtomicBool;

/// Goes up when the engine says something else of the same quench: what was kept before is asked anew.
pub const ENGINE: i32 = 7;
/// Cells of every quench whose numbers are shown or learned from, mm: one blade and plan have one line,
/// whatever view it is read in.
pub const STEP_MM: f64 = 2.0;

/// What the engine says of a quench.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Simulated {
    /// Each column from edge to spine, heel to tip.
    pub columns: Vec<Column>,
    /// How it bends.
    pub bend: Bend,
    /// ASTM grain size number.
    pub grain_astm: f64,
    /// What speaks for a crack.
    pub crack_causes: Causes,
    /// Share of a bow that a clamp in its first temper takes out by rule, 0 to 1; none without a temper.
    #[serde(default)]
    pub clamp_takes_out: Option<f64>,
}

impl Simulated {
    /// From its quench and how that bends it.
    #[must_use]
    pub fn from_quench(
        work: &Workpiece,
        plan: &Plan,
        steel: &Steel,
        heat: &Heat,
        (quenched, bend): (&Quenched, Bend),
    ) -> Self {
        Self {
            columns: columns(quenched, work.blade().length_mm),
            grain_astm: grain::astm_number(heat.grain_um * 1e-3),
            crack_causes: causes(work, plan, steel, heat, bend.chill),
            clamp_takes_out: first_temper(plan).map(|(temperature, hours)| {
                TemperClamp::in_temper(parameter(temperature, hours)).takes_out
            }),
            bend,
        }
    }

    /// The line that the engine alone shows.
    #[must_use]
    pub fn line(&self) -> Option<Line> {
        match line_of(&self.columns, Moved::default()) {
            Hamon::Line(line) => Some(line),
            Hamon::None { .. } => None,
        }
    }

    /// Height of the line as a share of the section where the engine shows none: 1 where most of the blade
    /// hardens through, 0 where most of it stays soft.
    #[must_use]
    pub fn share_without_line(&self) -> f64 {
        let is = |course: Course| self.columns.iter().filter(|c| c.course == course).count();
        if is(Course::Through) >= is(Course::Soft) {
            1.0
        } else {
            0.0
        }
    }

    /// From edge to spine at a place, mm; beyond the columns that of the nearest.
    #[must_use]
    pub fn section_mm(&self, x_mm: f64) -> Option<f64> {
        let nearest = |c: &&Column| (c.x_mm - x_mm).abs();
        self.columns
            .iter()
            .min_by(|a, b| nearest(a).total_cmp(&nearest(b)))
            .map(|c| c.section_mm)
    }
}

/// Asks the engine of a plan with cells of [`STEP_MM`], on two cores.
///
/// # Errors
/// [`Stopped`] when `stop` was set meanwhile.
pub fn simulated(
    work: &Workpiece,
    plan: &Plan,
    steel: &Steel,
    stop: Option<&AtomicBool>,
) -> Result<Simulated, Stopped> {
    let heat = Heat::new(work, plan, steel, Kelvins::ZERO);
    let baths = stages(plan);
    let setup = heat.whole(&work.form, &work.clay, &baths, STEP_MM);
    let (quenched, bend) = quench_and_bend(setup, work, plan, steel, &heat, stop)?;
    let with = (&quenched, bend);
    Ok(Simulated::from_quench(work, plan, steel, &heat, with))
}

/// The quench, and how it bends the blade, side by side on two cores: whoever is done first helps with the sections.
pub(crate) fn quench_and_bend(
    setup: Setup<'_>,
    work: &Workpiece,
    plan: &Plan,
    steel: &Steel,
    heat: &Heat,
    stop: Option<&AtomicBool>,
) -> Result<(Quenched, Bend), Stopped> {
    let steps = plan.real_steps();
    let skin_mm = decarburization::depth_mm(steps, work.protection, Kelvins::ZERO);
    let relieved = relieved(plan, steel, heat);
    let sections = Sections::new(
        work,
        heat,
        setup.stages,
        relieved,
        (skin_mm, soak_s(plan)),
        stop,
    );
    let quenched = std::thread::scope(|s| {
        let other = s.spawn(|| sections.work_off());
        let quenched = quench(setup, stop)?;
        sections.work_off()?;
        other.join().map_err(|_| Stopped)??;
        Ok(quenched)
    })?;
    Ok((quenched, sections.bend()))
}

/// How long the hardening heat holds it, s.
fn soak_s(plan: &Plan) -> f64 {
    let before = &plan.real_steps()[..plan.last_quench().unwrap_or(0)];
    let soak = before.iter().rev().find_map(|s| match s {
        Step::Austenitize { soak_s, .. } => Some(soak_s.value()),
        _ => None,
    });
    soak.unwrap_or(0.0)
}

/// What speaks for a crack in this quench.
#[must_use]
pub fn causes(work: &Workpiece, plan: &Plan, steel: &Steel, heat: &Heat, chill: Chill) -> Causes {
    let (blade, d, stages) = (work.blade(), &heat.dissolved, stages(plan));
    let water = stages.iter().any(|s| s.medium.is_water());
    let milder = matches!(steel.hardening, Hardening::Oil | Hardening::Air)
        && !steel.water_then_oil
        && !steel.media.iter().any(|m| m.is_water());
    let by_chill = chill.worst_k.max(0.0).cbrt() * d.austenite;
    let carbon = ((d.composition.carbon - 0.5) / 0.1).max(0.0);
    let wrong = if water && milder { by_chill } else { 0.0 };
    let late = ((240.0 - d.martensite_start_c) / 10.0).clamp(0.0, 20.0);
    let is = |yes: bool| f64::from(u8::from(yes));
    let laid = (!work.clay.is_bare()).then(|| Grid::over(&work.form, STEP_MM));
    let laid = laid.and_then(|grid| lay(work, plan, &grid));
    let lets_go = laid.map_or(0.0, |lay| lay.lets_go);
    let skin_mm = decarburization::depth_mm(plan.real_steps(), work.protection, Kelvins::ZERO);
    let hottest = heat.temperature.value() + work.furnace.tip_hotter_c();
    let above = hottest - steel.austenitize.nominal.value();
    Causes {
        chill: by_chill,
        carbon: by_chill * carbon,
        wrong_medium: wrong,
        low_start: wrong * late,
        left_hot: by_chill * chill.left_hot * chill.left_hot,
        held: is(stages.iter().any(|s| s.medium == Medium::Plates)),
        section: ((blade.spine_mm / blade.edge_mm).ln() - 1.7).clamp(0.0, 3.0),
        raisers: f64::from(work.raisers.min(4)),
        overheated: (above / 10.0).clamp(0.0, 20.0),
        untempered: (1.0 + hours_untempered(plan)).ln() * (carbon / 2.5).min(1.5) * d.austenite,
        unnormalized: is(!relieved(plan, steel, heat)),
        requenched: is(requenched(plan)),
        coarse: (FINE_ASTM - grain::astm_number(heat.grain_um * 1e-3)).clamp(0.0, 8.0),
        skin: (10.0 * (skin_mm - USUAL_SKIN_MM)).clamp(0.0, 4.0),
        notches: notches(work),
        bared: by_chill * lets_go,
        unclean: (100.0 * steel.analysis.unclean_percent()).clamp(0.0, 10.0),
    }
}

/// Grain finer than this is no cause of cracks, ASTM number.
const FINE_ASTM: f64 = 8.0;
/// A skin thinner than this is on every blade that was heated bare, mm: the table of experience has it.
const USUAL_SKIN_MM: f64 = 0.1;

/// Sharp inside corners beyond the heel, each by how far it turns against a right angle; none where they were looked
/// over before the fire: chamfered, or counted among what was left.
fn notches(work: &Workpiece) -> f64 {
    if work.checks.contains_key(&Check::CornersChamfered) {
        return 0.0;
    }
    let corners = work.form.outline().inside_corners();
    let sum: f64 = corners.iter().map(|c| c.1 / FRAC_PI_2).sum();
    sum.min(3.0)
}

/// What laying the clay on amounts to on a grid, dried as the plan has it; as long as it needs where no step dries it.
/// None when bare.
#[must_use]
pub fn lay(work: &Workpiece, plan: &Plan, grid: &Grid) -> Option<Lay> {
    if work.clay.is_bare() {
        return None;
    }
    let lay = work.clay.lay(grid)?;
    let lets_go = lay.lets_go_dried(dried_s(plan).unwrap_or(lay.dry_oven_s));
    Some(Lay { lets_go, ..lay })
}

/// How long the plan dries clay in an oven before the last quench, s; none without such a step.
fn dried_s(plan: &Plan) -> Option<f64> {
    let before = &plan.real_steps()[..plan.last_quench().unwrap_or(0)];
    before.iter().rev().find_map(|s| match s {
        Step::Clay { hold_s, .. } => Some(hold_s.value()),
        _ => None,
    })
}

/// Whether the stresses of forging are out of it: it was normalized, annealed or relieved before the last quench, came
/// with its carbides in balls, or is of a steel that is never normalized.
#[must_use]
pub fn relieved(plan: &Plan, steel: &Steel, heat: &Heat) -> bool {
    let before = &plan.real_steps()[..plan.last_quench().unwrap_or(0)];
    steel.normalize.is_none()
        || heat.structure == Structure::Spheroidized
        || before.iter().any(|s| {
            matches!(
                s,
                Step::Normalize { .. } | Step::Anneal { .. } | Step::StressRelief { .. }
            )
        })
}

/// Whether it was quenched before the last quench and not normalized or annealed since.
fn requenched(plan: &Plan) -> bool {
    let steps = &plan.real_steps()[..plan.last_quench().unwrap_or(0)];
    let since = steps.iter().rposition(|s| matches!(s, Step::Quench { .. }));
    since.is_some_and(|i| {
        !steps[i..]
            .iter()
            .any(|s| matches!(s, Step::Normalize { .. } | Step::Anneal { .. }))
    })
}

/// Hours between the quench and the first temper: as they were lived, or by the plan what sub-zero waits and
/// holds, and a day where no temper follows at all.
#[must_use]
pub fn hours_untempered(plan: &Plan) -> f64 {
    if let Some(lived) = plan.untempered() {
        return lived.hours();
    }
    let after = plan.last_quench().map_or(0, |i| i + 1);
    let mut hours = 0.0;
    for step in &plan.steps()[after..] {
        match step {
            Step::Temper { .. } => return hours,
            Step::SubZero { hold_s, wait_s, .. } => hours += hold_s.hours() + wait_s.hours(),
            _ => {}
        }
    }
    24.0
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::learning::bias_models::BiasModels;
    use crate::prediction::outcome::outcomes;
    use crate::simulation::physics::tests::{blade, nominal};

    #[test]
    fn it_is_what_a_prediction_without_records_is_made_of_and_survives_being_kept() {
        let steel = Steel::built_in("w2").unwrap();
        let plan = nominal(steel, "fast_oil");
        let work = Workpiece::plain(&blade());
        let alone = simulated(&work, &plan, steel, None).unwrap();
        let whole = outcomes(&work, &plan, steel, &BiasModels::default(), STEP_MM, None);
        let whole = whole.unwrap().0;
        let line = whole.hamon.line().unwrap();
        let heights = |l: &Line| l.points.iter().map(|p| p.height_mm).collect::<Vec<_>>();
        assert!(heights(&alone.line().unwrap()) == heights(line));
        assert_eq!(alone.grain_astm, whole.grain_astm);
        assert_eq!(alone.crack_causes, whole.crack_causes);
        assert_eq!(alone.bend.sori_mm, whole.bend.sori_mm);
        let text = serde_json::to_string(&alone).unwrap();
        assert!(text.len() < 16_000, "{}", text.len());
        let back: Simulated = serde_json::from_str(&text).unwrap();
        assert_eq!(back.line().unwrap().height_mm, line.height_mm);
        assert!((back.section_mm(90.0).unwrap() - 30.0).abs() < 1.0);
    }
}
