//! What leaves the fire for the last quench: the austenite, its grain, and how it will transform.

use crate::geometry::clay::Clay;
use crate::geometry::form::{Form, Thickness};
use crate::geometry::outline::Outline;
use crate::material::dissolution::{Dissolved, Structure, dissolve};
use crate::material::medium::Medium;
use crate::material::properties::{DENSITY, radiation, specific_heat};
use crate::material::steel::Steel;
use crate::material::temper::{Treatment, combined, equivalent_hours};
use crate::process::furnace::{Load, dissolving_while_heating_s};
use crate::process::heat_transfer::{Agitation, EMISSIVITY, Film};
use crate::process::plan::Plan;
use crate::process::step::{Stage, Step, USUAL_TRANSFER_S};
use crate::process::workpiece::Workpiece;
use crate::quantity::units::{Celsius, Kelvins, Quantity, Seconds};
use crate::simulation::grain;
use crate::simulation::quench::{Quenched, ROOM_C, Setup, Through, quench};
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
    /// What heating counted for of the soak, s.
    pub heating_s: f64,
    /// How much hotter the tip is in this fire.
    pub tip_hotter: Kelvins,
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

/// Real temperature and time at heat of the last austenitize before the last quench of `plan`, with the fire
/// `kiln` hotter than set, and the structure before it; cold and no time where there is none.
fn hardening_heat(plan: &Plan, steel: &Steel, kiln: Kelvins) -> (Celsius, Seconds, Structure) {
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
    let structure = structure_before(&before[..heat.unwrap_or(0)], steel);
    (temperature.plus(kiln), soak, structure)
}

/// Time at the hardening heat that dissolves as much as heating the spine up to it does, s.
#[must_use]
pub fn heating_s(work: &Workpiece, plan: &Plan, steel: &Steel) -> f64 {
    let set_c = hardening_heat(plan, steel, Kelvins::ZERO).0.value();
    if set_c <= steel.ac1_c {
        return 0.0;
    }
    let load = Load {
        furnace: work.furnace,
        set_c,
        start_c: 20.0,
        mass_kg: work.mass_kg(),
        blades: work.together,
    };
    dissolving_while_heating_s(load, steel.ac1_c, work.blade().spine_mm)
}

/// Temperature, structure before, and what is in solution at the last quench of `plan`, with the fire
/// `kiln` hotter than set; heating counts for so many seconds of the soak, and all of it for so many times
/// its length.
#[must_use]
pub fn solution(
    plan: &Plan,
    steel: &Steel,
    kiln: Kelvins,
    (heating_s, times): (f64, f64),
) -> (Celsius, Structure, Dissolved) {
    let (temperature, soak, structure) = hardening_heat(plan, steel, kiln);
    let time = Seconds::clamped(times * (soak.value() + heating_s));
    (
        temperature,
        structure,
        dissolve(&steel.limits(), temperature, time, structure),
    )
}

impl Heat {
    /// The last austenitize before the last quench of `plan`, with the fire `kiln` hotter than set.
    #[must_use]
    pub fn new(work: &Workpiece, plan: &Plan, steel: &Steel, kiln: Kelvins) -> Self {
        let heating_s = heating_s(work, plan, steel);
        let (temperature, structure, dissolved) = solution(plan, steel, kiln, (heating_s, 1.0));
        let steps = plan.real_steps();
        let grain_um = grain::at_quench_um(steps, steel, kiln);
        let kinetics = Kinetics::new(
            &dissolved.composition,
            steel.ac1_c,
            grain::astm_number(grain_um * 1e-3),
            dissolved.martensite_start_c,
        );
        Self {
            temperature,
            structure,
            dissolved,
            grain_um,
            kinetics,
            heating_s,
            tip_hotter: Kelvins::of(work.furnace.tip_hotter_c()),
        }
    }

    fn setup<'a>(&'a self, form: &'a Form, clay: &'a Clay, stages: &'a [Stage]) -> Setup<'a> {
        Setup {
            austenite: self.dissolved.austenite,
            rest_hv: self.dissolved.soft_hv,
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
            refine: if step_mm >= PREVIEW_MM { 0.5 } else { 1.0 },
            tip_hotter: self.tip_hotter,
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
            let hard = self
                .plate(form, &whole, middle.exp())
                .map_or(0.0, |cell| cell.middle.hardened());
            if hard >= 0.5 {
                low = middle;
            } else {
                high = middle;
            }
        }
        (0.5 * (low + high)).exp()
    }

    /// Quench of a plate, mm thick, until cold: far from its edges; None when it cannot be quenched.
    #[must_use]
    pub fn plate(&self, form: &Form, stages: &[Stage], thickness_mm: f64) -> Option<Through> {
        let strip = strip(form, 2.0, thickness_mm, thickness_mm, (0.0, 2.0));
        self.run(&strip, &Clay::default(), stages, 2.0)
            .last()
            .copied()
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

    /// Where the strip is read had it been [`LATER_S`] longer in air; none where it is nowhere near turning by then.
    fn late(&self, strip: &Form, clay: &Clay, stages: &[Stage], step_mm: f64) -> Option<Phases> {
        let usual = stages
            .first()?
            .transfer_s
            .map_or(USUAL_TRANSFER_S, |s| s.value());
        let (spine_mm, edge_mm) = strip.ends_mm(STRIP_AT * strip.blade().length_mm);
        let mm = edge_mm + READING_SPOT * (spine_mm - edge_mm);
        let start = self.temperature.value();
        let air = radiation(EMISSIVITY, start, ROOM_C) + 9.0;
        let per_s = 2.0 * air * (start - ROOM_C) / (DENSITY * specific_heat(start) * 1e-3 * mm);
        if start - per_s * (usual + LATER_S) > self.kinetics.starts_c() {
            return None;
        }
        let mut later = stages.to_vec();
        later[0].transfer_s = Some(Seconds::clamped(usual + LATER_S));
        let cells = self.run(strip, clay, &later, step_mm);
        let i = (READING_SPOT * cells.len() as f64) as usize;
        cells.get(i).map(|cell| cell.face)
    }

    /// A strip one cell wide, from edge to spine, both halves together.
    fn run(&self, strip: &Form, clay: &Clay, stages: &[Stage], step_mm: f64) -> Vec<Through> {
        let Some(q) = self.cool(strip, clay, stages, step_mm) else {
            return Vec::new();
        };
        cells_of(&q)
    }
}

/// The cells of a strip one cell wide, from edge to spine.
fn cells_of(q: &Quenched) -> Vec<Through> {
    let cells = q.grid.thickness_mm.iter().enumerate();
    cells
        .filter(|(_, t)| **t > 0.0)
        .map(|(k, _)| q.through(k))
        .collect()
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
/// How much longer a way to the bath is tried for what it costs, s.
pub const LATER_S: f64 = 1.5;
/// Cells from edge to spine of a strip.
const STRIP_CELLS: f64 = 16.0;

/// The section where a blade is read, after the quench.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Section {
    /// Where hardness is read.
    pub reading: Through,
    /// At the spine.
    pub spine: Through,
    /// Thickness where it is read and at the spine, mm.
    pub thickness_mm: (f64, f64),
    /// What heating counted for of the soak, s.
    pub heating_s: f64,
    /// What slow cooling through the martensite range tempers, where it is read.
    pub slow_cooling: Option<Treatment>,
    /// Exponent of the reactions that make it soft where it is read.
    pub exponent: f64,
    /// Where it is read had it been [`LATER_S`] longer in air, where that makes a difference.
    pub later: Option<Phases>,
}

impl Section {
    /// Quenches one strip across the blade, see [`Heat::across`].
    #[must_use]
    pub fn of_blade(heat: &Heat, form: &Form, clay: &Clay, stages: &[Stage]) -> Self {
        Self::with_film(heat, form, clay, stages, 1.0)
    }

    /// The same in a bath that takes heat so many times as fast as its kind.
    #[must_use]
    pub fn with_film(heat: &Heat, form: &Form, clay: &Clay, stages: &[Stage], film: f64) -> Self {
        let (strip, step) = reading_strip(form);
        let setup = Setup {
            step_mm: step,
            faces: [film; 2],
            ..heat.setup(&strip, clay, stages)
        };
        // Nothing tells it to stop.
        let quenched = quench(setup, None).ok();
        let cells = quenched.as_ref().map(cells_of).unwrap_or_default();
        let at = |share: f64| {
            let i = (share * cells.len() as f64) as usize;
            let last = cells.len().saturating_sub(1);
            cells.get(i.min(last)).copied().unwrap_or_else(|| {
                let soft = Phases::hot(0.0, heat.dissolved.soft_hv);
                Through {
                    face: soft,
                    middle: soft,
                }
            })
        };
        let reading = at(READING_SPOT);
        let exponent = heat.kinetics.exponent(&reading.face);
        let later = heat.late(&strip, clay, stages, step);
        let (spine_mm, edge_mm) = form.ends_mm(STRIP_AT * form.blade().length_mm);
        let reading_mm = edge_mm + READING_SPOT * (spine_mm - edge_mm);
        let stage = quenched
            .as_ref()
            .and_then(|q| stage_at(stages, q.half_start_s));
        Self {
            reading,
            spine: at(0.97),
            thickness_mm: (reading_mm, spine_mm),
            heating_s: heat.heating_s,
            exponent,
            later,
            slow_cooling: stage.and_then(|s| slow_cooling(&heat.kinetics, s, reading_mm)),
        }
    }
}

/// The stage that is going on at a time after entering the first, s.
#[must_use]
pub fn stage_at(stages: &[Stage], time: f64) -> Option<&Stage> {
    let mut ends = 0.0;
    stages
        .iter()
        .find(|s| {
            ends += s.for_s.map_or(f64::INFINITY, |t| t.value());
            time <= ends
        })
        .or(stages.last())
}

/// Cooling that is worth following, °C.
const COLD_C: f64 = 60.0;

/// What cooling a plate of `mm` in a bath from where half of the martensite has formed tempers: the bath, or air
/// where the bath is hotter than that. None where it is over at once.
fn slow_cooling(kinetics: &Kinetics, stage: &Stage, mm: f64) -> Option<Treatment> {
    let half = kinetics.martensite_start_c() - std::f64::consts::LN_2 / kinetics.martensite_rate();
    let in_bath = half > stage.bath_c.value() + 10.0;
    let (film, sink) = if in_bath {
        (Film::of_stage(stage), stage.bath_c.value())
    } else {
        let room = Celsius::clamped(ROOM_C);
        (Film::new(Medium::StillAir, room, Agitation::Still), ROOM_C)
    };
    let mut holds = Vec::new();
    let mut t = half;
    while t > (sink + 10.0).max(COLD_C) {
        const DOWN_K: f64 = 10.0;
        let flux = film.at(t) * (t - sink);
        let seconds = DENSITY * specific_heat(t) * 0.5e-3 * mm * DOWN_K / flux;
        holds.push((Celsius::clamped(t), Seconds::clamped(seconds)));
        t -= DOWN_K;
    }
    let temperature = holds.first()?.0;
    let hours = equivalent_hours(combined(&holds)?, temperature);
    Some(Treatment::SlowCooling {
        temperature,
        time: Seconds::clamped(3600.0 * hours),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::physics::tests::{blade, nominal};
    use crate::simulation::quench::quench;
    use rstest::rstest;

    fn heat(steel: &str) -> Heat {
        let steel = Steel::built_in(steel).unwrap();
        let work = Workpiece::plain(&blade());
        Heat::new(&work, &nominal(steel, "fast_oil"), steel, Kelvins::ZERO)
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

    // A leg of clay right where hardness is read, as wide as the steel beside it still cools, and wider.
    #[rstest]
    #[case(2.0, 1.0)]
    #[case(3.0, 2.0)]
    #[case(12.0, 2.0)]
    fn a_leg_under_the_reading_place_counts_as_the_whole_blade_has_it(
        #[case] width_mm: f64,
        #[case] thickness_mm: f64,
    ) {
        let (heat, form) = (heat("1084"), Form::from_blade(&blade()));
        let x = STRIP_AT * 180.0;
        let left = crate::geometry::clay::Face {
            strokes: vec![crate::geometry::clay::Stroke {
                points: vec![[x, 0.0], [x, 30.0]],
                width_mm,
                thickness_mm,
            }],
            ..Default::default()
        };
        let draft = crate::geometry::clay::ClayDraft {
            left,
            ..Default::default()
        };
        let clay = Clay::parse(&draft).unwrap();
        let stages = [Stage::until_cold(Medium::FastOil)];
        let strip = Section::of_blade(&heat, &form, &clay, &stages);
        let q = quench(heat.whole(&form, &clay, &stages, 1.0), None).unwrap();
        let (edge, spine) = form.outline().section(x).unwrap();
        let cell = q.cell_at(x, edge + READING_SPOT * (spine - edge)).unwrap();
        let (strip, whole) = (strip.reading.face.hardened(), q.hardened(cell));
        assert!((strip - whole).abs() < 0.25, "{strip} {whole}");
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
        assert!((section.reading.face.hardened() - whole(READING_SPOT)).abs() < 0.08);
        assert!((section.spine.face.hardened() - whole(0.97)).abs() < 0.08);
    }
}
