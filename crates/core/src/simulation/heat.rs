//! What leaves the fire for the last quench: the austenite, its grain, and how it will transform.

use crate::geometry::clay::Clay;
use crate::geometry::form::{Form, Thickness};
use crate::geometry::outline::Outline;
use crate::material::dissolution::{Dissolved, Structure, dissolve};
use crate::material::steel::Steel;
use crate::process::plan::Plan;
use crate::process::step::{Stage, Step};
use crate::quantity::units::{Celsius, Kelvins, Quantity, Seconds};
use crate::simulation::grain;
use crate::simulation::quench::{Quenched, Setup, quench};
use crate::simulation::transformation::{Kinetics, Phases};

/// The hardening heat of a plan, at the moment of the quench.
#[derive(Debug, Clone, PartialEq)]
pub struct Heat {
    /// Real temperature.
    pub temperature: Celsius,
    /// Structure before it.
    pub structure: Structure,
    /// What is in solution.
    pub dissolved: Dissolved,
    /// Mean grain, µm.
    pub grain_um: f64,
    /// How it transforms on cooling.
    pub kinetics: Kinetics,
}

fn structure_before(steps: &[Step], steel: &Steel) -> Structure {
    steps
        .iter()
        .rev()
        .find_map(|step| match step {
            Step::Normalize { .. } | Step::Refine { .. } | Step::Quench { .. } => {
                Some(Structure::Normalized)
            }
            Step::Anneal { .. } => Some(Structure::Spheroidized),
            _ => None,
        })
        .unwrap_or_else(|| steel.usual_structure())
}

/// Temperature, structure before, and what is in solution at the last quench of `plan`, with the fire
/// `kiln_c` hotter than set.
#[must_use]
pub fn solution(plan: &Plan, steel: &Steel, kiln: Kelvins) -> (Celsius, Structure, Dissolved) {
    let steps = plan.real_steps();
    let before = &steps[..plan.last_quench().unwrap_or(steps.len())];
    let heat = before
        .iter()
        .rposition(|s| matches!(s, Step::Austenitize { .. }));
    let (temperature, soak) = match heat.map(|i| &before[i]) {
        Some(Step::Austenitize {
            temperature_c,
            soak_s,
            ..
        }) => (*temperature_c, *soak_s),
        _ => (Celsius::clamped(20.0), Seconds::clamped(0.0)),
    };
    let temperature = temperature.plus(kiln);
    let structure = structure_before(&before[..heat.unwrap_or(0)], steel);
    (
        temperature,
        structure,
        dissolve(&steel.limits(), temperature, soak, structure),
    )
}

impl Heat {
    /// The last austenitize before the last quench of `plan`, with the fire `kiln_c` hotter than set.
    #[must_use]
    pub fn new(plan: &Plan, steel: &Steel, kiln: Kelvins) -> Self {
        let (temperature, structure, dissolved) = solution(plan, steel, kiln);
        let steps = plan.real_steps();
        let grain_um = grain::at_quench_um(steps, steel, kiln);
        let kinetics = Kinetics::new(
            &dissolved.composition,
            steel.ac1_c,
            steel.ac3_or_acm_c,
            grain::astm_number(grain_um * 1e-3),
            dissolved.martensite_start_c,
        );
        Self {
            temperature,
            structure,
            dissolved,
            grain_um,
            kinetics,
        }
    }

    fn setup<'a>(&'a self, form: &'a Form, clay: &'a Clay, stages: &'a [Stage]) -> Setup<'a> {
        Setup {
            austenite: self.dissolved.austenite,
            carbon: self.dissolved.composition.carbon,
            ..Setup::usual(form, clay, &self.kinetics, self.temperature, stages)
        }
    }

    /// Quench of a whole blade with cells of `step_mm`, everything else usual. A coarse grid is a preview:
    /// it is stepped through time as coarsely.
    #[must_use]
    pub fn whole<'a>(
        &'a self,
        form: &'a Form,
        clay: &'a Clay,
        stages: &'a [Stage],
        step_mm: f64,
    ) -> Setup<'a> {
        Setup {
            step_mm,
            bend: true,
            refine: if step_mm >= PREVIEW_MM { 0.5 } else { 1.0 },
            ..self.setup(form, clay, stages)
        }
    }

    /// Thickest plate whose middle is half martensite in this quench, 0.2 to 150 mm.
    #[must_use]
    pub fn reach_mm(&self, form: &Form, stages: &[Stage]) -> f64 {
        let whole: Vec<Stage> = stages
            .iter()
            .map(|s| Stage {
                edge_depth_mm: None,
                tip_length_mm: None,
                ..*s
            })
            .collect();
        let (mut low, mut high) = (0.2_f64.ln(), 150.0_f64.ln());
        for _ in 0..10 {
            let middle = 0.5 * (low + high);
            let strip = strip(form, 2.0, middle.exp(), middle.exp(), (0.0, 2.0));
            let hard = self
                .run(&strip, &Clay::default(), &whole, 2.0)
                .last()
                .map_or(0.0, Phases::hardened);
            if hard >= 0.5 {
                low = middle;
            } else {
                high = middle;
            }
        }
        (0.5 * (low + high)).exp()
    }

    /// Quench of the strip across the blade where it is read: fast, and the same as the whole blade but
    /// for what flows along it.
    #[must_use]
    pub fn across(&self, form: &Form, clay: &Clay, stages: &[Stage]) -> Option<Quenched> {
        let (strip, step_mm) = reading_strip(form);
        self.cool(&strip, clay, stages, step_mm)
    }

    fn cool(&self, strip: &Form, clay: &Clay, stages: &[Stage], step_mm: f64) -> Option<Quenched> {
        let setup = Setup {
            step_mm,
            ..self.setup(strip, clay, stages)
        };
        // Nothing tells it to stop.
        quench(setup, None).ok()
    }

    /// Phases of a strip one cell wide, from edge to spine, both halves together.
    fn run(&self, strip: &Form, clay: &Clay, stages: &[Stage], step_mm: f64) -> Vec<Phases> {
        let Some(q) = self.cool(strip, clay, stages, step_mm) else {
            return Vec::new();
        };
        let cells = q.grid.thickness_mm.iter().enumerate();
        cells
            .filter(|(_, t)| **t > 0.0)
            .map(|(k, _)| Phases::mean(&q.halves[0][k], &q.halves[1][k]))
            .collect()
    }
}

/// A strip of a blade `width` mm wide at `x`, with edge and spine at `heights`.
fn strip(form: &Form, width: f64, spine: f64, edge: f64, heights: (f64, f64)) -> Form {
    let (low, high) = heights;
    let x = STRIP_AT * form.blade().length_mm;
    let outline = Outline::trusted(vec![
        [x, low],
        [x, high],
        [x + width, high],
        [x + width, low],
    ]);
    form.cut(
        outline,
        Thickness {
            x_mm: x,
            spine_mm: spine,
            edge_mm: edge,
        },
    )
}

/// The strip across a blade where it is read, and its cell size, mm.
fn reading_strip(form: &Form) -> (Form, f64) {
    let x = STRIP_AT * form.blade().length_mm;
    let heights = form
        .outline()
        .section(x)
        .unwrap_or((0.0, form.blade().width_mm));
    let step = ((heights.1 - heights.0) / STRIP_CELLS).max(0.25);
    let (spine, edge) = form.ends_mm(x);
    (strip(form, step, spine, edge, heights), step)
}

/// Cells at least this wide make a preview, mm.
pub const PREVIEW_MM: f64 = 1.6;
/// Hardness is read about here: this share of the way from heel to tip.
pub const STRIP_AT: f64 = 0.45;
/// And this share of the way from the edge to the spine.
pub const READING_SPOT: f64 = 0.25;
/// Cells from edge to spine of a strip.
const STRIP_CELLS: f64 = 16.0;

/// The section where a blade is read, after the quench.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Section {
    /// Where hardness is read.
    pub reading: Phases,
    /// At the spine.
    pub spine: Phases,
}

impl Section {
    /// Quenches one strip across the blade, see [`Heat::across`].
    #[must_use]
    pub fn of_blade(heat: &Heat, form: &Form, clay: &Clay, stages: &[Stage]) -> Self {
        let (strip, step) = reading_strip(form);
        let cells = heat.run(&strip, clay, stages, step);
        let at = |share: f64| {
            let i = (share * cells.len() as f64) as usize;
            let last = cells.len().saturating_sub(1);
            cells
                .get(i.min(last))
                .copied()
                .unwrap_or_else(|| Phases::hot(0.0))
        };
        Self {
            reading: at(READING_SPOT),
            spine: at(0.97),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::medium::Medium;
    use crate::simulation::physics::tests::{blade, nominal};
    use crate::simulation::quench::quench;
    use rstest::rstest;

    fn heat(steel: &str) -> Heat {
        let steel = Steel::built_in(steel).unwrap();
        Heat::new(&nominal(steel, "fast_oil"), steel, Kelvins::ZERO)
    }

    // What checks.csv says of plates, and common experience: how thick a plate each medium hardens.
    #[rstest]
    #[case("o1", Medium::MediumOil, 8.0, 150.0)]
    #[case("1084", Medium::FastOil, 5.0, 15.0)]
    #[case("w2", Medium::SlowOil, 0.2, 3.0)]
    #[case("1095", Medium::FastOil, 1.0, 4.5)]
    #[case("w2", Medium::Brine, 5.0, 10.0)]
    #[case("5160", Medium::MediumOil, 6.0, 40.0)]
    #[case("a2", Medium::StillAir, 6.0, 150.0)]
    #[case("1084", Medium::StillAir, 0.2, 1.5)]
    fn how_thick_a_plate_hardens(
        #[case] steel: &str,
        #[case] medium: Medium,
        #[case] low: f64,
        #[case] high: f64,
    ) {
        let form = Form::from_blade(&blade());
        let got = heat(steel).reach_mm(&form, &[Stage::until_cold(medium)]);
        assert!((low..=high).contains(&got), "{steel} {medium:?}: {got} mm");
    }

    #[rstest]
    #[case("1084", Medium::FastOil)]
    #[case("w2", Medium::FastOil)]
    #[case("w2", Medium::Water)]
    fn the_strip_says_what_the_whole_blade_says(#[case] steel: &str, #[case] medium: Medium) {
        let (heat, form, clay) = (
            heat(steel),
            Form::from_blade(&blade()),
            Clay::band(18.0, 2.0),
        );
        let stages = [Stage::until_cold(medium)];
        let section = Section::of_blade(&heat, &form, &clay, &stages);
        let q = quench(heat.whole(&form, &clay, &stages, 1.0), None).unwrap();
        let x = STRIP_AT * 180.0;
        let (edge, spine) = form.outline().section(x).unwrap();
        let whole = |share: f64| {
            let y = edge + share * (spine - edge);
            q.hardened(q.cell_at(x, y).unwrap())
        };
        assert!((section.reading.hardened() - whole(READING_SPOT)).abs() < 0.08);
        assert!((section.spine.hardened() - whole(0.97)).abs() < 0.08);
    }
}
