//! A whole blade: sections at stations along it, the curve they make, and what bends it sideways.

use crate::geometry::form::{Form, Grid};
use crate::material::medium::Medium;
use crate::material::properties::{DENSITY, heat_content};
use crate::process::step::Stage;
use crate::process::workpiece::Workpiece;
use crate::simulation::heat::Heat;
use crate::simulation::quench::Stopped;
use crate::simulation::warp::course::Course;
use crate::simulation::warp::driver::{
    Driver, lean_curvature, lean_times, lies_on_its_side, lying_mm, rest_mm, skin_curvature,
};
use crate::simulation::warp::mechanics::Mechanics;
use crate::simulation::warp::run::{Bent, Case, Face, bend};
use crate::simulation::warp::section::{Faces, Fineness, Section};
use serde::{Deserialize, Serialize};
use std::sync::Mutex;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};

/// Stations along a blade.
const STATIONS: usize = 6;
/// Where causes are tried, of the length.
const TRIED_AT: [f64; 2] = [0.3, 0.7];
/// Largest change of temperature in a step, K: two runs, of which the answer for ever smaller steps is guessed; and
/// that of a cause, which goes with its own size.
const STEPS_K: (f64, f64) = (12.0, 6.0);
const CAUSE_STEP_K: f64 = 8.0;
/// Division of every section. Against one of 60 × 12 cells and steps of 1.5 K: `docs/model.md`.
const FINENESS: Fineness = Fineness {
    rows: 20,
    layers: 4,
    clay_layers: 3,
};
/// Places of a curve that it is integrated over.
const PLACES: usize = 60;
/// Moments kept of how it moved.
const MOMENTS: usize = 48;
/// Sections lower than this are not bent, mm.
const LOWEST_MM: f64 = 1.0;

/// Curvature at one place along a blade.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = BendStation))]
pub struct Station {
    /// From the heel, mm.
    pub x_mm: f64,
    /// Towards the spine and to the left, 1/m: above zero edge or left face are convex.
    pub curvature: [f64; 2],
}

/// Sag at one moment of the quench.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = BendMoment))]
pub struct Moment {
    /// From entering the first medium, s.
    pub time_s: f64,
    /// Sag towards the spine, mm; the edge is convex above zero.
    pub sori_mm: f64,
}

/// Sag sideways of one cause.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = WarpCause))]
pub struct Cause {
    /// Which.
    pub driver: Driver,
    /// One standard deviation, mm.
    pub mm: f64,
}

/// How hard a quench is on a blade while martensite forms.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Chill {
    /// See [`Bent::chill_k`], at its worst place, K.
    pub worst_k: f64,
    /// Where that is, mm from the heel and above the edge.
    pub at_mm: [f64; 2],
    /// See [`Bent::left_hot`].
    pub left_hot: f64,
}

/// How a blade bends.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Bend {
    /// From heel to tip, mm.
    pub length_mm: f64,
    /// Sag of the curve from heel to tip, mm: above zero the edge is convex, spine-in.
    pub sori_mm: f64,
    /// Sag sideways of what is known to differ from face to face, mm: above zero the left face is convex.
    pub side_mm: f64,
    /// How far the sag towards the spine may be off by the steps in time, mm.
    pub numerical_mm: f64,
    /// It goes one way near the heel and the other near the tip: how much of it comes back, mm.
    pub twist_mm: f64,
    /// Sag sideways for bevels whose heights differ by a tenth, mm.
    pub bevels_mm_per_10_percent: f64,
    /// Sag that lying on its side in the fire would leave, mm.
    #[serde(default)]
    pub lying_mm: f64,
    /// What else bends it sideways.
    pub causes: Vec<Cause>,
    /// How hard the quench is on it while it turns.
    #[serde(default)]
    pub chill: Chill,
    /// Along the blade.
    pub stations: Vec<Station>,
    /// Through the quench.
    pub moments: Vec<Moment>,
}

impl Bend {
    /// All causes together, mm, one standard deviation.
    #[must_use]
    pub fn scale_mm(&self) -> f64 {
        self.causes.iter().map(|c| c.mm * c.mm).sum::<f64>().sqrt()
    }
}

/// What is computed of its own.
enum Job {
    /// A station with the smaller or the larger step.
    Station(usize, f64),
    /// A cause at one of the places it is tried at; none for the blade as it is.
    Tried(Option<Driver>, usize),
}

/// The sections of one quench of one blade, computed by whoever asks for work: two threads get half each.
pub struct Sections<'a> {
    work: &'a Workpiece,
    heat: &'a Heat,
    normalized: bool,
    skin_mm: f64,
    soak_s: f64,
    course: Course,
    medium_kg_m3: f64,
    apart: bool,
    jobs: Vec<Job>,
    next: AtomicUsize,
    done: Mutex<Vec<Option<(Section, Bent)>>>,
    stop: Option<&'a AtomicBool>,
}

impl<'a> Sections<'a> {
    /// A blade from `heat` through `stages` (not empty), with a skin of `skin_mm` without carbon after `soak_s` at heat.
    #[must_use]
    pub fn new(
        work: &'a Workpiece,
        heat: &'a Heat,
        stages: &[Stage],
        normalized: bool,
        (skin_mm, soak_s): (f64, f64),
        stop: Option<&'a AtomicBool>,
    ) -> Self {
        let apart = faces_of(work) == Faces::Apart;
        let mut jobs: Vec<Job> = (0..STATIONS)
            .flat_map(|i| [Job::Station(i, STEPS_K.1), Job::Station(i, STEPS_K.0)])
            .collect();
        for at in 0..TRIED_AT.len() {
            if apart {
                jobs.push(Job::Tried(None, at));
            }
            let tried = Driver::ALL.iter().filter(|d| d.set_up(work).is_some());
            jobs.extend(tried.map(|d| Job::Tried(Some(*d), at)));
        }
        let done = jobs.iter().map(|_| None).collect();
        Self {
            work,
            heat,
            normalized,
            skin_mm,
            soak_s,
            course: Course::warmed(stages, heat_j(work, heat)),
            medium_kg_m3: density(stages),
            apart,
            jobs,
            next: AtomicUsize::new(0),
            done: Mutex::new(done),
            stop,
        }
    }

    /// Computes sections until none is left.
    ///
    /// # Errors
    /// [`Stopped`] when it was told to.
    pub fn work_off(&self) -> Result<(), Stopped> {
        loop {
            let i = self.next.fetch_add(1, Ordering::Relaxed);
            let Some(job) = self.jobs.get(i) else {
                return Ok(());
            };
            let answer = self.run(job)?;
            if let Ok(mut done) = self.done.lock() {
                done[i] = answer;
            }
        }
    }

    fn length_mm(&self) -> f64 {
        self.work.blade().length_mm
    }

    fn run(&self, job: &Job) -> Result<Option<(Section, Bent)>, Stopped> {
        let usual = ([Face::default(); 2], [1.0; 2]);
        let (x, step_k, faces, (face, bevels)) = match job {
            Job::Station(i, step_k) => {
                let faces = if self.apart {
                    Faces::Apart
                } else {
                    Faces::Alike
                };
                (station_mm(*i, self.length_mm()), *step_k, faces, usual)
            }
            Job::Tried(driver, at) => {
                let set_up = driver.and_then(|d| d.set_up(self.work)).unwrap_or(usual);
                (
                    TRIED_AT[*at] * self.length_mm(),
                    CAUSE_STEP_K,
                    Faces::Apart,
                    set_up,
                )
            }
        };
        let Some(section) = section_at(self.work, x, faces, bevels) else {
            return Ok(None);
        };
        let case = Case {
            faces: face,
            ..case_at(self.work, self.heat, &self.course, x, step_k)
        };
        let bent = bend(&section, &case, self.stop)?;
        Ok(Some((section, bent)))
    }

    /// The bend, once all is computed.
    #[must_use]
    pub fn bend(mut self) -> Bend {
        let done = std::mem::take(&mut self.done)
            .into_inner()
            .unwrap_or_default();
        let length = self.length_mm();
        let found = Found::new(&self.jobs, &done, length);
        let (up, side) = (found.answer(0), found.answer(1));
        let sori_mm = sag_mm(&up, length);
        let side_mm = sag_mm(&side, length);
        let sections: Vec<&Section> = found.fine.iter().flatten().map(|s| &s.0).collect();
        let heat_c = self.heat.temperature.value();
        let lying_mm = lying_mm(&sections, length, heat_c, self.soak_s);
        Bend {
            length_mm: length,
            sori_mm,
            side_mm,
            numerical_mm: (sori_mm - sag_mm(&curve(&found.fine, 0, length), length)).abs(),
            twist_mm: twist_mm(&side, length),
            lying_mm,
            bevels_mm_per_10_percent: self.bevels_mm_per_10_percent(&found, side_mm),
            causes: self.causes(&found, lying_mm),
            chill: chill(&found.fine, |i| station_mm(i, length)),
            stations: up
                .iter()
                .zip(&side)
                .map(|(u, s)| Station {
                    x_mm: u.0,
                    curvature: [u.1, s.1],
                })
                .collect(),
            moments: moments(&found.fine, length, self.course.way_s()),
        }
    }

    /// What bends it sideways beside what is known, each with its sag, mm.
    fn causes(&self, found: &Found<'_>, lying_mm: f64) -> Vec<Cause> {
        let clamped = self.course.legs.iter().any(|l| l.clamped);
        let cause = |driver: &Driver| {
            let mm = match driver {
                Driver::Skin => {
                    found.along(&|_, s, b| skin_curvature(s, b, self.heat, self.skin_mm))
                }
                Driver::Lean if clamped => 0.0,
                Driver::Lean => found.along(&|x, s, b| {
                    let beyond = 1e-3 * (found.length_mm - x);
                    lean_times(self.work) * lean_curvature(s, b, self.medium_kg_m3, beyond)
                }),
                Driver::Rest => rest_mm(self.work, self.normalized),
                Driver::Support if lies_on_its_side(self.work) => lying_mm,
                Driver::Support => return None,
                run => {
                    run.set_up(self.work)?;
                    found.tried_mm(*run)
                }
            };
            Some(Cause {
                driver: *driver,
                mm: if mm.is_finite() { mm } else { 0.0 },
            })
        };
        Driver::ALL.iter().filter_map(cause).collect()
    }

    /// Sag for bevels whose heights differ by a tenth, mm: as tried, or as measured for as much as they are off.
    fn bevels_mm_per_10_percent(&self, found: &Found<'_>, side_mm: f64) -> f64 {
        if let Some((_, [low, high])) = Driver::Bevels.set_up(self.work) {
            return 0.1 * found.tried_mm(Driver::Bevels) / (high - low);
        }
        let percent = bevels_off_percent(&self.work.form);
        if percent > 0.5 {
            10.0 * side_mm.abs() / percent
        } else {
            0.0
        }
    }
}

/// What came of each section, by where it is.
struct Found<'a> {
    /// Stations with the smaller and with the larger step.
    fine: Vec<Option<&'a (Section, Bent)>>,
    coarse: Vec<Option<&'a (Section, Bent)>>,
    /// Curvature sideways, 1/m, of each cause at each place it was tried at; none for the blade as it is.
    tried: Vec<(Option<Driver>, usize, f64)>,
    length_mm: f64,
}

impl<'a> Found<'a> {
    fn new(jobs: &[Job], done: &'a [Option<(Section, Bent)>], length_mm: f64) -> Self {
        let mut found = Self {
            fine: vec![None; STATIONS],
            coarse: vec![None; STATIONS],
            tried: Vec::new(),
            length_mm,
        };
        for (job, answer) in jobs.iter().zip(done) {
            match job {
                Job::Station(i, step) if *step == STEPS_K.1 => found.fine[*i] = answer.as_ref(),
                Job::Station(i, _) => found.coarse[*i] = answer.as_ref(),
                Job::Tried(driver, at) => {
                    let k = answer.as_ref().map_or(0.0, |a| -a.1.curvature[1]);
                    found.tried.push((*driver, *at, k));
                }
            }
        }
        found
    }

    /// Curvature along the blade, mm and 1/m, for ever smaller steps (Richardson 1911).
    fn answer(&self, axis: usize) -> Vec<(f64, f64)> {
        let beyond = (STEPS_K.0 / STEPS_K.1 - 1.0).recip();
        curve(&self.fine, axis, self.length_mm)
            .into_iter()
            .zip(curve(&self.coarse, axis, self.length_mm))
            .map(|(f, c)| (f.0, f.1 + beyond * (f.1 - c.1)))
            .collect()
    }

    /// Sag that a cause which was run leaves beside the blade as it is, mm.
    fn tried_mm(&self, driver: Driver) -> f64 {
        let base = |at: usize| {
            let found = self.tried.iter().find(|t| t.0.is_none() && t.1 == at);
            found.map_or(0.0, |t| t.2)
        };
        let curve: Vec<(f64, f64)> = self
            .tried
            .iter()
            .filter(|t| t.0 == Some(driver))
            .map(|t| (TRIED_AT[t.1] * self.length_mm, t.2 - base(t.1)))
            .collect();
        sag_mm(&curve, self.length_mm).abs()
    }

    /// Sag of a curvature that follows from each station in closed form, mm.
    fn along(&self, of: &dyn Fn(f64, &Section, &Bent) -> f64) -> f64 {
        let stations = self.fine.iter().enumerate();
        let curve: Vec<(f64, f64)> = stations
            .filter_map(|(i, s)| {
                let x = station_mm(i, self.length_mm);
                s.map(|s| (x, of(x, &s.0, &s.1)))
            })
            .collect();
        sag_mm(&curve, self.length_mm).abs()
    }
}

/// Where a station lies, mm from the heel.
fn station_mm(i: usize, length_mm: f64) -> f64 {
    length_mm * (i as f64 + 0.5) / STATIONS as f64
}

/// Curvature at each station, mm and 1/m.
fn curve(of: &[Option<&(Section, Bent)>], axis: usize, length_mm: f64) -> Vec<(f64, f64)> {
    of.iter()
        .enumerate()
        .map(|(i, s)| {
            let k = s.map_or(0.0, |s| -s.1.curvature[axis]);
            (station_mm(i, length_mm), k)
        })
        .collect()
}

/// What a section of a blade goes through at a place, mm from the heel, as is usual: both faces alike, no load; in steps
/// of at most so many K.
#[must_use]
pub fn case_at<'a>(
    work: &'a Workpiece,
    heat: &'a Heat,
    course: &'a Course,
    x_mm: f64,
    step_k: f64,
) -> Case<'a> {
    let form = &work.form;
    let above = form.outline().section(x_mm).map_or(0.0, |s| s.0) - lowest_mm(form);
    Case {
        kinetics: &heat.kinetics,
        mechanics: Mechanics::default(),
        austenite: (heat.dissolved.austenite, heat.dissolved.soft_hv),
        carbon: heat.dissolved.composition.carbon,
        start_c: heat.temperature.value(),
        across_k: 0.0,
        course,
        faces: [Face::default(); 2],
        moment_nm: 0.0,
        clay: work.clay.mix(),
        layers: &[],
        place: (
            1e-3 * above.max(0.0),
            1e-3 * (form.outline().tip_mm() - x_mm).max(0.0),
        ),
        step_k,
        watch: None,
    }
}

/// Heat that a blade brings from the fire, J.
pub(super) fn heat_j(work: &Workpiece, heat: &Heat) -> f64 {
    const COUNTED_MM: f64 = 4.0;
    let volume = Grid::over(&work.form, COUNTED_MM).volume_m3();
    DENSITY * volume * heat_content(heat.temperature.value())
}

/// Whether the faces of a blade differ by what is known of it.
pub(super) fn faces_of(work: &Workpiece) -> Faces {
    let apart = !work.clay.is_even() || work.form.bevels_off_mm().is_some_and(|mm| mm > 0.0);
    if apart { Faces::Apart } else { Faces::Alike }
}

/// The section of a blade at a place; none where it is too low to matter.
pub(super) fn section_at(
    work: &Workpiece,
    x_mm: f64,
    faces: Faces,
    bevels: [f64; 2],
) -> Option<Section> {
    let (edge, spine) = work.form.outline().section(x_mm)?;
    if spine - edge < LOWEST_MM {
        return None;
    }
    Section::of_blade(&work.form, &work.clay, x_mm, FINENESS, faces, bevels)
}

/// Lowest place of the edge ahead of the heel, mm.
fn lowest_mm(form: &Form) -> f64 {
    let length = form.blade().length_mm;
    (0..24)
        .filter_map(|i| form.outline().section(length * (f64::from(i) + 0.5) / 24.0))
        .map(|s| s.0)
        .fold(f64::INFINITY, f64::min)
}

/// Largest difference of measured bevels, percent of their height.
fn bevels_off_percent(form: &Form) -> f64 {
    let length = form.blade().length_mm;
    (0..12)
        .filter_map(|i| form.bevels_mm(length * (f64::from(i) + 0.5) / 12.0))
        .map(|(l, r)| 200.0 * (l - r).abs() / (l + r))
        .fold(0.0, f64::max)
}

/// Density of what it is in while martensite forms: the last medium, kg/m³.
fn density(stages: &[Stage]) -> f64 {
    match stages
        .iter()
        .rev()
        .map(|s| s.medium)
        .find(|m| m.is_liquid())
    {
        Some(Medium::Salt) => 1900.0,
        Some(m) if m.is_water() => 1000.0,
        Some(_) => 870.0,
        None => 0.0,
    }
}

/// A curve through places (mm, 1/m), constant beyond the ends.
fn at(curve: &[(f64, f64)], x: f64) -> f64 {
    let Some(first) = curve.first() else {
        return 0.0;
    };
    let i = curve.partition_point(|c| c.0 <= x);
    if i == 0 {
        return first.1;
    }
    let Some((a, b)) = curve.get(i - 1).zip(curve.get(i)) else {
        return curve[i - 1].1;
    };
    a.1 + (b.1 - a.1) * (x - a.0) / (b.0 - a.0)
}

/// Heights above the chord from heel to tip, mm, where curvature above zero bulges up.
fn heights_mm(curve: &[(f64, f64)], length_mm: f64) -> Vec<f64> {
    let step = 1e-3 * length_mm / PLACES as f64;
    let (mut slope, mut height) = (0.0, 0.0);
    let mut heights = vec![0.0];
    for i in 0..PLACES {
        let k = at(curve, length_mm * (i as f64 + 0.5) / PLACES as f64);
        slope -= 0.5 * k * step;
        height += slope * step;
        slope -= 0.5 * k * step;
        heights.push(height);
    }
    let end = height;
    heights
        .iter()
        .enumerate()
        .map(|(i, h)| 1e3 * (h - end * i as f64 / PLACES as f64))
        .collect()
}

/// Largest distance of the curve from the chord between its ends, mm, with the sign of the curvature that makes it.
fn sag_mm(curve: &[(f64, f64)], length_mm: f64) -> f64 {
    heights_mm(curve, length_mm)
        .into_iter()
        .fold(0.0, |a: f64, b| if b.abs() > a.abs() { b } else { a })
}

/// Where it bulges to both sides of the chord, the smaller of the two, mm.
fn twist_mm(curve: &[(f64, f64)], length_mm: f64) -> f64 {
    let heights = heights_mm(curve, length_mm);
    let high = heights.iter().copied().fold(0.0, f64::max);
    let low = heights.iter().copied().fold(0.0, f64::min);
    high.min(-low)
}

/// The worst place along the blade.
fn chill(stations: &[Option<&(Section, Bent)>], x_of: impl Fn(usize) -> f64) -> Chill {
    let mut worst = Chill::default();
    for (i, station) in stations.iter().enumerate() {
        let Some((section, bent)) = station else {
            continue;
        };
        worst.left_hot = worst.left_hot.max(bent.left_hot);
        for (row, k) in bent.chill_k.iter().enumerate() {
            if *k > worst.worst_k {
                worst.worst_k = *k;
                let middle = 0.5 * (section.borders[row] + section.borders[row + 1]);
                worst.at_mm = [x_of(i), 1e3 * middle];
            }
        }
    }
    worst
}

/// How the sag went through the quench: stations at common moments, further apart the later, from the end of the
/// way to it (s).
fn moments(stations: &[Option<&(Section, Bent)>], length_mm: f64, way_s: f64) -> Vec<Moment> {
    let known: Vec<(f64, &Bent)> = stations
        .iter()
        .enumerate()
        .filter_map(|(i, s)| {
            let x = length_mm * (i as f64 + 0.5) / STATIONS as f64;
            s.map(|s| (x, &s.1))
        })
        .collect();
    let end = known
        .iter()
        .filter_map(|k| k.1.history.last())
        .map(|m| m.time_s)
        .fold(0.0, f64::max)
        - way_s;
    if end <= 0.0 {
        return Vec::new();
    }
    let first = 0.2_f64.min(end);
    (0..MOMENTS)
        .map(|i| {
            let time = first * (end / first).powf(i as f64 / (MOMENTS - 1) as f64);
            let curve: Vec<(f64, f64)> = known
                .iter()
                .map(|(x, bent)| {
                    let next = bent.history.partition_point(|m| m.time_s - way_s < time);
                    let last = bent.history.len() - 1;
                    (*x, -bent.history[next.min(last)].curvature[0])
                })
                .collect();
            Moment {
                time_s: time,
                sori_mm: sag_mm(&curve, length_mm),
            }
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::blade::Blade;
    use crate::geometry::clay::Clay;
    use crate::geometry::form::Bevel;
    use crate::material::steel::Steel;
    use crate::quantity::units::Kelvins;
    use crate::simulation::physics::stages;
    use crate::simulation::physics::tests::{blade, nominal};

    pub(crate) fn bend_of(work: &Workpiece, steel: &str, medium: &str) -> Bend {
        let steel = Steel::built_in(steel).unwrap();
        let plan = nominal(steel, medium);
        let heat = Heat::new(work, &plan, steel, Kelvins::ZERO);
        let sections = Sections::new(work, &heat, &stages(&plan), true, (0.04, 300.0), None);
        sections.work_off().unwrap();
        sections.bend()
    }

    fn long(mm: f64) -> Blade {
        Blade {
            length_mm: mm,
            width_mm: 45.0,
            spine_mm: 2.0,
            edge_mm: 0.5,
            ..blade()
        }
    }

    #[test]
    fn an_even_curve_has_the_sag_of_a_circle() {
        // 1 m radius over 200 mm: L²/8R = 5 mm.
        assert!((sag_mm(&[(100.0, 1.0)], 200.0) - 5.0).abs() < 0.01);
        assert_eq!(sag_mm(&[], 200.0), 0.0);
        assert_eq!(twist_mm(&[(100.0, 1.0)], 200.0), 0.0);
        let s = [(40.0, 1.0), (160.0, -1.0)];
        assert!(twist_mm(&s, 200.0) > 0.5);
    }

    #[test]
    fn one_section_at_three_lengths_sags_with_the_square() {
        // A bar of one section: 120, 240 and 480 mm as 1 : 4 : 16.
        let [a, b, c] = [120.0, 240.0, 480.0].map(|mm| sag_mm(&[(0.0, 0.1)], mm));
        assert!((b / a - 4.0).abs() < 1e-9 && (c / a - 16.0).abs() < 1e-9);
    }

    #[test]
    fn what_a_bolster_holds_does_not_reach_the_first_section() {
        // Sections know nothing of what lies beside them along the blade: a block 14 mm thick up to the heel, on a blade of
        // 180 mm, must not tell at the first of them, 15 mm further on. It would by √(αt), 5 mm in the five seconds that
        // oil takes to the martensite start.
        use crate::geometry::outline::OutlineDraft;
        use crate::process::ready::Ready;
        use crate::simulation::quench::quench;
        let steel = Steel::built_in("1084").unwrap();
        let plan = nominal(steel, "fast_oil");
        let cooled = |block_mm: f64| {
            let thick = |x_mm: f64, spine_mm: f64, edge_mm: f64| crate::geometry::form::Thickness {
                x_mm,
                spine_mm,
                edge_mm,
            };
            let ready = Ready {
                outline: Some(OutlineDraft::Points(vec![
                    [-24.0, 0.0],
                    [-24.0, 30.0],
                    [180.0, 30.0],
                    [180.0, 0.0],
                ])),
                taper: vec![
                    thick(-24.0, block_mm, block_mm),
                    thick(-1.0, block_mm, block_mm),
                    thick(0.0, 4.0, 0.8),
                    thick(180.0, 4.0, 0.8),
                ],
                ..Ready::default()
            };
            let work = ready.work(&blade(), None).unwrap();
            let heat = Heat::new(&work, &plan, steel, Kelvins::ZERO);
            let stages = stages(&plan);
            let q = quench(heat.whole(&work.form, &work.clay, &stages, 2.0), None).unwrap();
            let at = |x: f64| q.cell_at(x, 20.0).unwrap();
            let after = q.frames.iter().position(|f| f.time_s >= 5.0).unwrap();
            let (a, b) = (&q.frames[after - 1], &q.frames[after]);
            let share = (5.0 - a.time_s) / (b.time_s - a.time_s);
            let hot = |x: f64| {
                let of = |f: &crate::simulation::quench::Frame| f64::from(f.temperature_c[at(x)]);
                of(a) + share * (of(b) - of(a))
            };
            (hot(station_mm(0, 180.0)), q.hardened(at(15.0)), hot(2.0))
        };
        let (plain, with) = (cooled(4.0), cooled(14.0));
        assert!((plain.0 - with.0).abs() < 8.0, "{plain:?} {with:?}");
        assert!((plain.1 - with.1).abs() < 0.02, "{plain:?} {with:?}");
        // It does at the heel itself.
        assert!(with.2 > plain.2 + 15.0, "{plain:?} {with:?}");
    }

    #[test]
    fn what_is_even_has_causes_and_no_known_sag() {
        let bend = bend_of(&Workpiece::plain(&long(240.0)), "1084", "fast_oil");
        assert_eq!(bend.side_mm, 0.0);
        // All but having lain on its side, which nobody said.
        assert_eq!(bend.causes.len() + 1, Driver::ALL.len());
        for c in &bend.causes {
            println!("{:?} {:.3}", c.driver, c.mm);
        }
        println!(
            "{} {} {}",
            bend.sori_mm, bend.numerical_mm, bend.bevels_mm_per_10_percent
        );
        // As tried, mm per 240 at 2 mm of spine: film 30 °C .07, so 20 °C .05;
        // coefficient 10 % .03, so 8 % .024; lean 10° .17; the rest .26.
        let of = |d| bend.causes.iter().find(|c| c.driver == d).unwrap().mm;
        // Ground to the spine, bevels that differ are little more than a section that leans.
        assert!(
            (0.01..0.1).contains(&of(Driver::Bevels)),
            "{}",
            of(Driver::Bevels)
        );
        assert!(
            (0.1..0.25).contains(&of(Driver::Lean)),
            "{}",
            of(Driver::Lean)
        );
        assert!(
            (0.01..0.15).contains(&of(Driver::Film)),
            "{}",
            of(Driver::Film)
        );
        assert!(
            (0.005..0.06).contains(&of(Driver::Cooling)),
            "{}",
            of(Driver::Cooling)
        );
        assert!((of(Driver::Rest) - 0.26).abs() < 1e-9);
        assert!(
            (0.4..0.75).contains(&of(Driver::Skin)),
            "{}",
            of(Driver::Skin)
        );
    }

    #[test]
    fn bevels_that_were_measured_are_known_and_turn_it_over() {
        let with = |left: f64, right: f64| {
            let b = long(240.0);
            let form = Form::parse(
                &b,
                None,
                &[],
                &[Bevel {
                    x_mm: 0.0,
                    left_mm: left,
                    right_mm: right,
                }],
            );
            let work = Workpiece {
                form: form.unwrap(),
                ..Workpiece::plain(&b)
            };
            bend_of(&work, "1084", "fast_oil")
        };
        let (a, b, even) = (with(35.0, 10.0), with(10.0, 35.0), with(30.0, 30.0));
        // As tried: three quarters of the height ± 5 %: .27 mm.
        let tenth = with(0.95 * 33.75, 1.05 * 33.75);
        println!("bevels tenth {}", tenth.side_mm);
        assert!(
            (0.20..0.34).contains(&tenth.side_mm.abs()),
            "{}",
            tenth.side_mm
        );
        println!("bevels 35/10: {} {}", a.side_mm, a.sori_mm);
        // It was said to bend it 0.0 mm.
        assert!(
            a.side_mm.abs() > 0.3
                && (a.side_mm + b.side_mm).abs() < 1e-9 * a.side_mm.abs().max(1.0)
        );
        assert!(even.side_mm.abs() < 1e-9);
        assert!(a.causes.iter().all(|c| c.driver != Driver::Bevels));
    }

    #[test]
    fn clay_on_one_face_bends_it_sideways() {
        let b = blade();
        let draft = |mm: f64| crate::geometry::clay::Face {
            band: Some(crate::geometry::clay::Band {
                from_edge_mm: 12.0,
                thickness_mm: mm,
            }),
            ..Default::default()
        };
        let clay = Clay::parse(&crate::geometry::clay::ClayDraft {
            left: draft(3.0),
            right: Some(draft(2.0)),
            ..Default::default()
        })
        .unwrap();
        let work = Workpiece {
            clay,
            ..Workpiece::plain(&b)
        };
        let bend = bend_of(&work, "w2", "water");
        assert!(
            (0.01..3.0).contains(&bend.side_mm.abs()),
            "{}",
            bend.side_mm
        );
        assert!(bend.sori_mm > 0.2, "{}", bend.sori_mm);
        assert!(bend.moments.windows(2).all(|w| w[0].time_s < w[1].time_s));
        assert!((bend.moments.last().unwrap().sori_mm - bend.sori_mm).abs() < 0.4);
    }
}
