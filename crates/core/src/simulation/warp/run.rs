//! One section through the quench: heat, transformation and stress, and how it curves.
//!
//! Each step: conduction across each row through clay, steel and clay, then from row to row, both implicit; what
//! turns, martensite together with its temperature; then the plane that leaves no force and no moment, found by
//! Newton's method. Transformation plasticity stands in the compliance of a fibre, so that it is implicit: added
//! to the strain of the step before it is unstable as soon as a tenth of a section turns in one step.

use crate::material::clay_mix::ClayMix;
use crate::material::properties::{CONDUCTIVITY, DENSITY, heat_content, specific_heat};
use crate::process::heat_transfer::Film;
use crate::simulation::quench::{ROOM_C, Stopped};
use crate::simulation::transformation::{Kinetics, Phases};
use crate::simulation::warp::course::{Course, Leg};
use crate::simulation::warp::mechanics::{Fibre, Mechanics, swelling};
use crate::simulation::warp::section::Section;
use std::sync::atomic::{AtomicBool, Ordering};

/// A leg without an end is over when all is this near its sink, °C.
const NEAR_C: f64 = 3.0;
/// Then it evens out to the room in so many equal steps.
const LAST_STEPS: usize = 6;
/// Shortest and longest step, s, and the first.
const STEP_S: (f64, f64) = (2e-4, 20.0);
const FIRST_STEP_S: f64 = 2e-3;
/// How much a step may be shorter or longer than the one before.
const FACTOR: (f64, f64) = (0.3, 1.3);
/// A share of a cell that turns counts as so many °C when a step is chosen.
const SHARE_AS_C: f64 = 130.0;
/// Steps after which a run is ended whatever happens.
const MAX_STEPS: usize = 20_000;
/// Rounds of Newton's method for the plane.
const ROUNDS: usize = 40;
/// Most nodes through a row, clay and all.
const NODES: usize = 64;
/// Where media are told apart by what they take while martensite forms, °C.
const BRITTLE_C: f64 = 150.0;
/// A cell with this share of austenite or more can still turn hard.
const MAY_TURN: f64 = 0.3;
/// Rounds for the film coefficient at the surface.
const FILM_ROUNDS: usize = 2;

/// One face against the other.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Face {
    /// Heat transfer against the usual.
    pub times: f64,
    /// The film behaves as on a surface so much cooler, K: above zero it collapses later.
    pub film_k: f64,
    /// It comes into the first medium so much later, s.
    pub late_s: f64,
}

impl Default for Face {
    fn default() -> Self {
        Self {
            times: 1.0,
            film_k: 0.0,
            late_s: 0.0,
        }
    }
}

/// What a section goes through.
#[derive(Debug, Clone, Copy)]
pub struct Case<'a> {
    /// How its austenite transforms.
    pub kinetics: &'a Kinetics,
    /// How it gives way.
    pub mechanics: Mechanics,
    /// Share of austenite when it leaves the fire, 0 to 1, and the hardness of the rest, HV.
    pub austenite: (f64, f64),
    /// Carbon dissolved, percent.
    pub carbon: f64,
    /// Temperature when it leaves the fire, °C.
    pub start_c: f64,
    /// The left face hotter and the right one cooler by half of this when it leaves the fire, K.
    pub across_k: f64,
    /// The media.
    pub course: &'a Course,
    /// Left and right face.
    pub faces: [Face; 2],
    /// Moment of a load sideways while it is in the quench, Nm.
    pub moment_nm: f64,
    /// What the clay is mixed of.
    pub clay: ClayMix,
    /// Where layers through the thickness differ, how each transforms and its carbon, percent; empty where all are alike.
    pub layers: &'a [(Kinetics, f64)],
    /// Height of its edge above the lowest edge, and distance from the tip, m.
    pub place: (f64, f64),
    /// Largest change of temperature of a cell in a step, K: sets the step.
    pub step_k: f64,
    /// A row that is followed through the quench.
    pub watch: Option<usize>,
}

/// The row that is followed, at one moment.
#[derive(Debug, Clone, PartialEq)]
pub struct Watched {
    /// Since it left the fire, s.
    pub time_s: f64,
    /// Temperature, °C, phases, and stress along the blade, Pa, of each layer from the left face on.
    pub cells: Vec<(f64, Phases, f64)>,
}

impl Case<'_> {
    #[inline]
    fn kinetics_of(&self, layer: usize) -> &Kinetics {
        self.layers.get(layer).map_or(self.kinetics, |l| &l.0)
    }
}

/// How a section is bent at one moment.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Moment {
    /// Since it left the fire, s.
    pub time_s: f64,
    /// Curvature in the plane of the blade and sideways, 1/m: above zero the spine is longer, and the right face.
    pub curvature: [f64; 2],
}

/// A section after the quench.
#[derive(Debug, Clone, PartialEq)]
pub struct Bent {
    /// Curvature in the plane of the blade and sideways when cold, 1/m.
    pub curvature: [f64; 2],
    /// What each cell has turned into, row by row.
    pub phases: Vec<Phases>,
    /// Stress along the blade when cold, Pa.
    pub stress: Vec<f64>,
    /// Through the quench, one for each step.
    pub history: Vec<Moment>,
    /// Steps, and rounds of Newton's method over all of them.
    pub steps: usize,
    /// Rounds of Newton's method over all steps.
    pub rounds: usize,
    /// Heat that the media took and heat that steel and clay gave up until it evened out, J for a metre.
    pub heat_j: (f64, f64),
    /// How much hotter the middle of each row was than its face while martensite formed among martensite, K: the
    /// larger of both faces. What is hard already cannot follow what turns beneath it.
    pub chill_k: Vec<f64>,
    /// The row that was followed, one for each step; empty where none was.
    pub watched: Vec<Watched>,
    /// How hot its hottest place that could still turn was when it left a bath for a milder one, as a share of the way from that bath to the
    /// martensite start, 0 to 1.
    pub left_hot: f64,
}

/// Simulates the quench of a section.
///
/// # Errors
/// [`Stopped`] when `stop` was set meanwhile.
pub fn bend(
    section: &Section,
    case: &Case<'_>,
    stop: Option<&AtomicBool>,
) -> Result<Bent, Stopped> {
    Run::new(section, case).whole(stop)
}

struct Run<'a> {
    section: &'a Section,
    case: &'a Case<'a>,
    layers: usize,
    /// Temperature, °C, heat content, J/kg, and phases of each cell.
    t: Vec<f64>,
    content: Vec<f64>,
    phases: Vec<Phases>,
    /// Temperature at the start of the step, and martensite and softer products then.
    was: Vec<f64>,
    had: Vec<(f64, f64)>,
    clay_t: [Vec<f64>; 2],
    surface: [Vec<f64>; 2],
    /// Place of each cell from the middle of the section, m, and its area, m².
    y: Vec<f64>,
    z: Vec<f64>,
    area: Vec<f64>,
    /// Conduction from each row to the next, W/mK a metre.
    along: Vec<f64>,
    /// Lasting strain, back stress and stress of each cell.
    lasting: Vec<f64>,
    back: Vec<f64>,
    stress: Vec<f64>,
    fibres: Vec<Fibre>,
    swelling: Vec<[f64; 2]>,
    plane: [f64; 3],
    /// What the plane moved by in the step before, where it can be gone on with.
    moved: Option<([f64; 3], f64)>,
    taken: f64,
    rounds: usize,
    chill: Vec<f64>,
    left_hot: f64,
}

/// Largest change of temperature, K, of a share, and the hottest cell, °C.
struct Changed {
    by_k: f64,
    by_share: f64,
    hottest: f64,
}

impl<'a> Run<'a> {
    fn new(section: &'a Section, case: &'a Case<'a>) -> Self {
        let (rows, layers) = (section.rows(), section.layers);
        let n = rows * layers;
        let (mut y, mut z, mut area) = (vec![0.0; n], vec![0.0; n], vec![0.0; n]);
        let mut t = vec![0.0; n];
        for row in 0..rows {
            let (high, wide) = section.cell(row);
            for layer in 0..layers {
                let k = row * layers + layer;
                area[k] = high * wide;
                y[k] = 0.5 * (section.borders[row] + section.borders[row + 1]);
                z[k] = section.left[row] + (layer as f64 + 0.5) * wide;
                t[k] = case.start_c + case.across_k * (0.5 - (layer as f64 + 0.5) / layers as f64);
            }
        }
        let whole: f64 = area.iter().sum();
        let mean = |at: &[f64]| at.iter().zip(&area).map(|(p, a)| p * a).sum::<f64>() / whole;
        let (y0, z0) = (mean(&y), if section.half { 0.0 } else { mean(&z) });
        y.iter_mut().for_each(|v| *v -= y0);
        z.iter_mut().for_each(|v| *v -= z0);
        let along = (0..rows.saturating_sub(1))
            .map(|i| {
                let ((h0, w0), (h1, w1)) = (section.cell(i), section.cell(i + 1));
                CONDUCTIVITY / (0.5 * h0 / w0 + 0.5 * h1 / w1)
            })
            .collect();
        let clay = |side: usize| -> Vec<f64> {
            (0..rows * section.clay_layers)
                .map(|i| t[i / section.clay_layers * layers + side * (layers - 1)])
                .collect()
        };
        let clay_t = [clay(0), clay(1)];
        let face = |side: usize| {
            (0..rows)
                .map(|i| t[i * layers + side * (layers - 1)])
                .collect()
        };
        Self {
            section,
            case,
            layers,
            content: t.iter().map(|t| heat_content(*t)).collect(),
            phases: vec![Phases::hot(case.austenite.0, case.austenite.1); n],
            was: t.clone(),
            had: vec![(0.0, 0.0); n],
            clay_t,
            surface: [face(0), face(1)],
            t,
            y,
            z,
            area,
            along,
            lasting: vec![0.0; n],
            back: vec![0.0; n],
            stress: vec![0.0; n],
            fibres: vec![Fibre::default(); n],
            swelling: (0..layers)
                .map(|layer| swelling(case.layers.get(layer).map_or(case.carbon, |l| l.1)))
                .collect(),
            plane: [0.0; 3],
            moved: None,
            taken: 0.0,
            rounds: 0,
            chill: vec![0.0; rows * 2],
            left_hot: 0.0,
        }
    }

    fn whole(mut self, stop: Option<&AtomicBool>) -> Result<Bent, Stopped> {
        let began = self.heat();
        let mut history = Vec::with_capacity(512);
        let mut watched = Vec::new();
        let (mut time, mut in_media, mut dt, mut steps) = (0.0, 0.0, FIRST_STEP_S, 0);
        let legs = &self.case.course.legs;
        let mut first_wet = true;
        for (n, leg) in legs.iter().enumerate() {
            let last = n + 1 == legs.len();
            let air = leg.seconds.is_some() && leg.film == self.case.course.air;
            let wet: Vec<bool> = (0..self.section.rows())
                .map(|i| {
                    let middle = 0.5 * (self.section.borders[i] + self.section.borders[i + 1]);
                    leg.wets(self.case.place.0 + middle, self.case.place.1)
                })
                .collect();
            let sink = if wet.iter().all(|w| *w) {
                leg.sink_c
            } else {
                leg.sink_c.max(ROOM_C)
            };
            let ends = match leg.seconds {
                Some(s) if !last => time + s,
                _ => f64::INFINITY,
            };
            dt = dt.min(FIRST_STEP_S.max(0.01 * (ends - time).min(10.0)));
            loop {
                if stop.is_some_and(|s| s.load(Ordering::Relaxed)) {
                    return Err(Stopped);
                }
                let this = dt.min(ends - time).max(1e-6);
                let late = if first_wet && !air {
                    in_media
                } else {
                    f64::INFINITY
                };
                self.conduct(leg, &wet, late, this);
                let changed = self.turn(this);
                self.balance(leg.clamped, self.case.moment_nm, this);
                time += this;
                in_media += if air { 0.0 } else { this };
                steps += 1;
                history.push(self.moment(time));
                watched.extend(self.watched(time));
                let rise = (self.case.step_k / changed.by_k.max(1e-9))
                    .min(self.case.step_k / (SHARE_AS_C * changed.by_share).max(1e-9));
                dt = (dt * rise.clamp(FACTOR.0, FACTOR.1)).clamp(STEP_S.0, STEP_S.1);
                if time >= ends - 1e-9 || changed.hottest - sink < NEAR_C || steps > MAX_STEPS {
                    break;
                }
            }
            if !air && !last && leg.seconds.is_some() {
                self.left_hot = self.left_at(leg, &legs[n + 1..]);
            }
            first_wet &= air;
        }
        let heat_j = (self.taken, began - self.heat());
        self.moved = None;
        for step in 0..LAST_STEPS {
            let share = 1.0 / (LAST_STEPS - step) as f64;
            for k in 0..self.t.len() {
                self.was[k] = self.t[k];
                let to = self.t[k] + (ROOM_C - self.t[k]) * share;
                self.had[k] = products(&self.phases[k]);
                self.case.kinetics_of(k % self.layers).advance(
                    &mut self.phases[k],
                    self.was[k],
                    to,
                    0.0,
                );
                self.t[k] = to;
            }
            self.balance(false, 0.0, 1.0);
            self.moved = None;
            time += 1.0;
            history.push(self.moment(time));
            watched.extend(self.watched(time));
        }
        let chill_k = self.chill_k();
        Ok(Bent {
            curvature: [self.plane[1], self.plane[2]],
            phases: self.phases,
            stress: self.stress,
            history,
            steps,
            rounds: self.rounds,
            heat_j,
            chill_k,
            watched,
            left_hot: self.left_hot,
        })
    }

    /// What [`Bent::left_hot`] says when a leg ends and others follow; nothing where they are no milder.
    fn left_at(&self, leg: &Leg, then: &[Leg]) -> f64 {
        let milder = then.last().is_some_and(|next| {
            next.film.at(BRITTLE_C) * (BRITTLE_C - next.sink_c)
                < 0.7 * leg.film.at(BRITTLE_C) * (BRITTLE_C - leg.sink_c)
        });
        if !milder {
            return self.left_hot;
        }
        let span = (self.case.kinetics.martensite_start_c() - leg.sink_c).max(20.0);
        // Only what can still turn counts.
        let cells = self.t.iter().zip(&self.phases);
        let hot = cells.map(|(t, p)| {
            let left = (p.austenite / MAY_TURN).min(1.0);
            left * ((t - leg.sink_c) / span).clamp(0.0, 1.0)
        });
        hot.fold(0.0, f64::max)
    }

    fn chill_k(&self) -> Vec<f64> {
        let rows = self.section.rows();
        let diffusivity = CONDUCTIVITY / (DENSITY * specific_heat(BRITTLE_C));
        (0..rows)
            .map(|row| {
                let larger = self.chill[row].max(self.chill[rows + row]);
                larger * self.section.thickness(row).powi(2) / (8.0 * diffusivity)
            })
            .collect()
    }

    fn watched(&self, time_s: f64) -> Option<Watched> {
        let row = self.case.watch.filter(|row| *row < self.section.rows())?;
        let cells = row * self.layers..(row + 1) * self.layers;
        Some(Watched {
            time_s,
            cells: cells
                .map(|k| (self.t[k], self.phases[k], self.stress[k]))
                .collect(),
        })
    }

    fn moment(&self, time_s: f64) -> Moment {
        Moment {
            time_s,
            curvature: [self.plane[1], self.plane[2]],
        }
    }

    /// Heat of steel, less what transformation set free, and of clay, J for a metre.
    fn heat(&self) -> f64 {
        use crate::material::properties::{MARTENSITE_HEAT, PEARLITE_HEAT};
        let never = 1.0 - self.case.austenite.0;
        let steel: f64 = (0..self.t.len())
            .map(|k| {
                let p = &self.phases[k];
                let free = PEARLITE_HEAT * (p.pearlite + p.bainite - never)
                    + MARTENSITE_HEAT * p.martensite;
                DENSITY * self.area[k] * (self.content[k] - free)
            })
            .sum();
        let s = self.section;
        let sides = if s.half { 1 } else { 2 };
        let clay: f64 = (0..sides)
            .flat_map(|side| (0..s.rows()).map(move |row| (side, row)))
            .filter(|(side, row)| s.clay[*side][*row] > 0.0)
            .map(|(side, row)| {
                let node = self.case.clay.capacity() * s.clay[side][row] / s.clay_layers as f64
                    * s.cell(row).0;
                let from = row * s.clay_layers;
                node * self.clay_t[side][from..from + s.clay_layers]
                    .iter()
                    .sum::<f64>()
            })
            .sum();
        steel + clay
    }

    /// Conductance from the outermost node of a face to the medium, W/m²K, and the surface as it is now.
    fn face(&mut self, side: usize, row: usize, film: &Film, sink: f64, node: (f64, f64)) -> f64 {
        let face = self.case.faces[side];
        let (t, inside) = node;
        let mut surface = self.surface[side][row];
        let mut resistance = film.resistance(surface - face.film_k) / face.times;
        for _ in 0..FILM_ROUNDS {
            surface = sink + (t - sink) * resistance / (resistance + inside);
            resistance = film.resistance(surface - face.film_k) / face.times;
        }
        self.surface[side][row] = surface;
        1.0 / (resistance + inside)
    }

    /// Heat across each row, then from row to row.
    fn conduct(&mut self, leg: &Leg, wet: &[bool], late: f64, dt: f64) {
        let s = self.section;
        let (layers, clays) = (self.layers, s.clay_layers);
        let course = self.case.course;
        let k_clay = self.case.clay.conductivity();
        let capacity = self.case.clay.capacity();
        self.was.copy_from_slice(&self.t);
        for (row, in_it) in wet.iter().enumerate() {
            let (high, wide) = s.cell(row);
            let from = row * layers;
            let film_of = |side: usize| {
                if *in_it && late >= self.case.faces[side].late_s {
                    (&leg.film, leg.sink_c)
                } else {
                    (&course.air, ROOM_C)
                }
            };
            let (left_clay, right_clay) = (s.clay[0][row] > 0.0, s.clay[1][row] > 0.0 && !s.half);
            let thick = |side: usize| s.clay[side][row] / clays as f64;
            let inside = |side: usize, has: bool| {
                if has {
                    0.5 * thick(side) / k_clay
                } else {
                    0.5 * wide / CONDUCTIVITY
                }
            };
            // Nodes: clay of the left face from outside in, steel, clay of the right face from inside out.
            let (mut b, mut up, mut d) = ([0.0; NODES], [0.0; NODES], [0.0; NODES]);
            let mut n = 0;
            let (left_film, left_sink) = film_of(0);
            let outer = if left_clay {
                self.clay_t[0][row * clays]
            } else {
                self.t[from]
            };
            let g_left = self.face(0, row, left_film, left_sink, (outer, inside(0, left_clay)));
            if left_clay {
                let (thick, joint) = (
                    thick(0),
                    1.0 / (inside(0, true) + 0.5 * wide / CONDUCTIVITY),
                );
                let store = capacity * thick / dt;
                for i in 0..clays {
                    b[n] = store;
                    d[n] = store * self.clay_t[0][row * clays + i];
                    up[n] = if i + 1 < clays { k_clay / thick } else { joint };
                    n += 1;
                }
            }
            let first = n;
            for layer in 0..layers {
                let store = DENSITY * specific_heat(self.t[from + layer]) * wide / dt;
                b[n] = store;
                d[n] = store * self.t[from + layer];
                up[n] = CONDUCTIVITY / wide;
                n += 1;
            }
            up[n - 1] = 0.0;
            let mut g_right = 0.0;
            let mut right_sink = ROOM_C;
            if right_clay {
                let thick = thick(1);
                up[n - 1] = 1.0 / (inside(1, true) + 0.5 * wide / CONDUCTIVITY);
                let store = capacity * thick / dt;
                for i in 0..clays {
                    b[n] = store;
                    d[n] = store * self.clay_t[1][row * clays + i];
                    up[n] = if i + 1 < clays { k_clay / thick } else { 0.0 };
                    n += 1;
                }
            }
            if !s.half {
                let (film, sink) = film_of(1);
                right_sink = sink;
                let outer = if right_clay {
                    self.clay_t[1][(row + 1) * clays - 1]
                } else {
                    self.t[from + layers - 1]
                };
                g_right = self.face(1, row, film, sink, (outer, inside(1, right_clay)));
            }
            b[0] += g_left;
            d[0] += g_left * left_sink;
            b[n - 1] += g_right;
            d[n - 1] += g_right * right_sink;
            tridiagonal(&mut b[..n], &up[..n], &mut d[..n]);
            self.taken +=
                high * dt * (g_left * (d[0] - left_sink) + g_right * (d[n - 1] - right_sink));
            if left_clay {
                self.clay_t[0][row * clays..(row + 1) * clays].copy_from_slice(&d[..clays]);
            }
            self.t[from..from + layers].copy_from_slice(&d[first..first + layers]);
            if right_clay {
                self.clay_t[1][row * clays..(row + 1) * clays].copy_from_slice(&d[n - clays..n]);
            }
        }
        self.conduct_along(dt);
    }

    fn conduct_along(&mut self, dt: f64) {
        let (rows, layers) = (self.section.rows(), self.layers);
        let mut lanes = [[0.0; 3]; 256];
        let rows = rows.min(lanes.len());
        for layer in 0..layers {
            let at = |row: usize| row * layers + layer;
            let store = |row: usize, was: &[f64]| {
                DENSITY * self.area[at(row)] * specific_heat(was[at(row)]) / dt
            };
            for row in 0..rows {
                let m = store(row, &self.was);
                let below = if row > 0 { self.along[row - 1] } else { 0.0 };
                let above = if row + 1 < rows { self.along[row] } else { 0.0 };
                let before = if row > 0 { lanes[row - 1] } else { [0.0; 3] };
                // lanes: share of the next row, constant.
                let divide = 1.0 / (m + below + above - below * before[0]);
                lanes[row] = [
                    above * divide,
                    (m * self.t[at(row)] + below * before[1]) * divide,
                    0.0,
                ];
            }
            for row in (0..rows).rev() {
                let next = if row + 1 < rows {
                    self.t[at(row + 1)]
                } else {
                    0.0
                };
                self.t[at(row)] = lanes[row][1] + lanes[row][0] * next;
            }
        }
    }

    /// What turns at the temperatures that conduction left.
    fn turn(&mut self, dt: f64) -> Changed {
        let mut changed = Changed {
            by_k: 0.0,
            by_share: 0.0,
            hottest: f64::NEG_INFINITY,
        };
        for k in 0..self.t.len() {
            let was = self.was[k];
            self.had[k] = products(&self.phases[k]);
            self.content[k] += specific_heat(was) * (self.t[k] - was);
            let content = &mut self.content[k];
            let kinetics = self.case.kinetics_of(k % self.layers);
            let now = kinetics.settle(&mut self.phases[k], was, content, dt);
            self.t[k] = now;
            let (hard, soft) = products(&self.phases[k]);
            let formed = hard - self.had[k].0;
            if formed > 0.0 {
                let (row, layer) = (k / self.layers, k % self.layers);
                let cooling = formed * hard * (was - now).max(0.0) / dt;
                if layer == 0 {
                    self.chill[row] += cooling;
                }
                if layer + 1 == self.layers && !self.section.half {
                    self.chill[self.section.rows() + row] += cooling;
                }
            }
            changed.by_k = changed.by_k.max((now - was).abs());
            changed.by_share = changed
                .by_share
                .max(hard - self.had[k].0 + soft - self.had[k].1);
            changed.hottest = changed.hottest.max(now);
        }
        changed
    }

    /// Finds the plane without force and moment, or held straight sideways, and takes the strains along.
    fn balance(&mut self, clamped: bool, moment: f64, dt: f64) {
        let (mechanics, layers) = (self.case.mechanics, self.layers);
        for k in 0..self.t.len() {
            let f = mechanics.fibre(
                self.t[k],
                self.had[k],
                &self.phases[k],
                self.swelling[k % layers],
            );
            self.back[k] *= f.back_kept;
            self.fibres[k] = f;
        }
        let before = self.plane;
        match self.moved {
            // On as in the step before, at most half as far again.
            Some((by, took)) => {
                let times = (dt / took).min(1.5);
                for (at, by) in self.plane.iter_mut().zip(by) {
                    *at += times * by;
                }
            }
            None if self.plane == [0.0; 3] => {
                let (sum, area) = self
                    .fibres
                    .iter()
                    .zip(&self.area)
                    .fold((0.0, 0.0), |(sum, area), (f, a)| {
                        (sum + a * f.free, area + a)
                    });
                self.plane[0] = sum / area;
            }
            None => {}
        }
        let flat = self.section.half || clamped;
        if flat {
            self.plane[2] = 0.0;
        }
        self.seek(flat, moment);
        let first = self.moved.is_none() && before == [0.0; 3];
        self.moved = (!first).then(|| ([0, 1, 2].map(|i| self.plane[i] - before[i]), dt));
        for k in 0..self.t.len() {
            let elastic = self.strain(k) - self.fibres[k].free - self.lasting[k];
            let (back, f) = (self.back[k], &self.fibres[k]);
            let (stress, _) = f.stress(elastic, back);
            self.back[k] += f.back_change(elastic, back);
            let kept = mechanics.relaxed(stress, self.t[k], &self.phases[k], dt);
            let modulus = super::mechanics::stiffness(self.t[k]);
            self.lasting[k] += elastic - kept / modulus;
            self.stress[k] = kept;
        }
    }

    #[inline]
    fn strain(&self, k: usize) -> f64 {
        self.plane[0] + self.plane[1] * self.y[k] + self.plane[2] * self.z[k]
    }

    fn seek(&mut self, flat: bool, moment: f64) {
        let (mut way, mut residual_then) = ([0.0; 3], [0.0; 3]);
        let mut share = 1.0;
        for round in 0..ROUNDS {
            self.rounds += 1;
            let (mut force, mut k) = ([0.0; 3], [[0.0; 3]; 3]);
            for c in 0..self.area.len() {
                let elastic = self.strain(c) - self.fibres[c].free - self.lasting[c];
                let (stress, slope) = self.fibres[c].stress(elastic, self.back[c]);
                let (a, y, z) = (self.area[c], self.y[c], self.z[c]);
                let (s, t) = (stress * a, slope * a);
                force[0] += s;
                force[1] += s * y;
                force[2] += s * z;
                k[0][0] += t;
                k[0][1] += t * y;
                k[1][1] += t * y * y;
                k[0][2] += t * z;
                k[1][2] += t * y * z;
                k[2][2] += t * z * z;
            }
            force[2] -= moment;
            if flat {
                (force[2], k[0][2], k[1][2], k[2][2]) = (0.0, 0.0, 0.0, 1.0);
            }
            let onward: f64 = (0..3).map(|i| way[i] * force[i]).sum();
            let then: f64 = (0..3).map(|i| way[i] * residual_then[i]).sum();
            if round > 0 && share > 0.06 && onward < -0.5 * then.abs() {
                // Too far along the last way: half of it back.
                share *= 0.5;
                for (at, by) in self.plane.iter_mut().zip(way) {
                    *at += share * by;
                }
                continue;
            }
            let change = solve(k, force);
            (way, residual_then, share) = (change, force, 1.0);
            for (at, by) in self.plane.iter_mut().zip(change) {
                *at -= by;
            }
            if change[0].abs() < 1e-10
                && (0.03 * change[1]).abs() < 1e-10
                && (0.002 * change[2]).abs() < 1e-10
            {
                break;
            }
        }
    }
}

/// Martensite, and pearlite with bainite.
fn products(p: &Phases) -> (f64, f64) {
    (p.martensite, p.pearlite + p.bainite)
}

/// Solves rows `−up[i−1]·x[i−1] + (b[i] + up[i−1] + up[i])·x[i] − up[i]·x[i+1] = d[i]`; the answer is in `d`.
fn tridiagonal(b: &mut [f64], up: &[f64], d: &mut [f64]) {
    let n = b.len();
    let mut below = 0.0;
    // b becomes the share of the next node.
    let (mut share, mut constant) = (0.0, 0.0);
    for i in 0..n {
        let above = if i + 1 < n { up[i] } else { 0.0 };
        let divide = 1.0 / (b[i] + below + above - below * share);
        constant = (d[i] + below * constant) * divide;
        share = above * divide;
        (b[i], d[i]) = (share, constant);
        below = above;
    }
    for i in (0..n.saturating_sub(1)).rev() {
        d[i] += b[i] * d[i + 1];
    }
}

/// Solves a symmetric 3 × 3 system of which the upper half is given.
fn solve(k: [[f64; 3]; 3], f: [f64; 3]) -> [f64; 3] {
    let [[a, b, c], [_, d, e], [_, _, g]] = k;
    let (ma, mb, mc) = (d * g - e * e, b * g - e * c, b * e - d * c);
    let det = a * ma - b * mb + c * mc;
    [
        (f[0] * ma - f[1] * (b * g - c * e) + f[2] * (b * e - c * d)) / det,
        (-f[0] * mb + f[1] * (a * g - c * c) - f[2] * (a * e - b * c)) / det,
        (f[0] * mc - f[1] * (a * e - b * c) + f[2] * (a * d - b * b)) / det,
    ]
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::analysis::Analysis;
    use crate::material::medium::Medium;
    use crate::process::heat_transfer::Agitation;
    use crate::process::step::Stage;
    use crate::quantity::units::{Quantity, Seconds};
    use crate::simulation::warp::section::{Faces, Fineness};
    use rstest::rstest;

    /// Straight from the fire into a medium until cold.
    pub fn into(medium: Medium) -> Course {
        Course::new(&[Stage {
            transfer_s: Some(Seconds::clamped(0.0)),
            agitation: Some(if medium == Medium::Water {
                Agitation::Still
            } else {
                Agitation::Moved
            }),
            ..Stage::until_cold(medium)
        }])
    }

    fn kinetics(steel: &str) -> (Kinetics, f64, f64) {
        let steel = crate::material::steel::Steel::built_in(steel).unwrap();
        let d = steel.nominal_dissolved();
        let k = Kinetics::new(&d.composition, steel.ac1_c, 9.0, d.martensite_start_c);
        (k, d.composition.carbon, steel.austenitize.nominal.value())
    }

    fn inert() -> Kinetics {
        let stable = Analysis {
            carbon: 0.8,
            nickel: 40.0,
            ..Analysis::default()
        };
        Kinetics::new(&stable, -200.0, 9.0, -500.0)
    }

    fn case<'a>(kinetics: &'a Kinetics, course: &'a Course, carbon: f64, start_c: f64) -> Case<'a> {
        Case {
            kinetics,
            mechanics: Mechanics::default(),
            austenite: (1.0, 200.0),
            carbon,
            start_c,
            across_k: 0.0,
            course,
            faces: [Face::default(); 2],
            moment_nm: 0.0,
            clay: ClayMix::default(),
            watch: None,
            layers: &[],
            place: (0.0, 0.1),
            step_k: 8.0,
        }
    }

    /// A wedge `mm` high, flat ground over `bevel` of it.
    fn wedge(
        mm: f64,
        spine: f64,
        edge: f64,
        bevel: f64,
        of: (usize, usize),
        faces: Faces,
    ) -> Section {
        clayed(mm, (spine, edge, bevel), None, of, faces)
    }

    fn clayed(
        mm: f64,
        (spine, edge, bevel): (f64, f64, f64),
        clay: Option<(f64, f64)>,
        (rows, layers): (usize, usize),
        faces: Faces,
    ) -> Section {
        let fineness = Fineness {
            rows,
            layers,
            clay_layers: 3,
        };
        let half = move |y: f64| 0.5 * (edge + (spine - edge) * (y / (mm * bevel)).min(1.0));
        let thick =
            move |y: f64| clay.map_or(0.0, |(from, thick)| if y >= from { thick } else { 0.0 });
        Section::new(
            mm,
            None,
            fineness,
            faces,
            |y| (half(y), half(y)),
            |y| (thick(y), thick(y)),
        )
    }

    fn sag_mm(curvature: f64, mm: f64) -> f64 {
        curvature * (1e-3 * mm).powi(2) / 8.0 * 1e3
    }

    /// Sag of `mm` towards the spine, from two step sizes.
    fn sori(section: &Section, case: Case<'_>, mm: f64) -> f64 {
        let at = |step_k: f64| {
            -sag_mm(
                bend(section, &Case { step_k, ..case }, None)
                    .unwrap()
                    .curvature[0],
                mm,
            )
        };
        2.0 * at(4.0) - at(8.0)
    }

    #[rstest]
    #[case("1084", Medium::FastOil, None)]
    #[case("w2", Medium::Water, Some((12.0, 3.0)))]
    fn heat_is_conserved(
        #[case] steel: &str,
        #[case] medium: Medium,
        #[case] clay: Option<(f64, f64)>,
    ) {
        let (k, c, t) = kinetics(steel);
        let course = into(medium);
        for faces in [Faces::Alike, Faces::Apart] {
            let s = clayed(30.0, (5.0, 0.6, 1.0), clay, (16, 6), faces);
            let b = bend(&s, &case(&k, &course, c, t), None).unwrap();
            let (taken, given) = b.heat_j;
            assert!((taken / given - 1.0).abs() < 1e-6, "{taken} {given}");
        }
    }

    #[test]
    fn what_is_even_stays_straight_and_half_stands_for_all() {
        let (k, c, t) = kinetics("1084");
        let course = into(Medium::FastOil);
        let of = |faces| {
            let s = wedge(45.0, 2.5, 0.5, 0.75, (16, 6), faces);
            bend(&s, &case(&k, &course, c, t), None).unwrap()
        };
        let (half, whole) = (of(Faces::Alike), of(Faces::Apart));
        assert_eq!(half.curvature[1], 0.0);
        assert!(whole.curvature[1].abs() < 1e-12, "{}", whole.curvature[1]);
        assert!((half.curvature[0] - whole.curvature[0]).abs() < 1e-10);
        assert!(half.rounds <= 12 * (half.steps + 6));
    }

    #[test]
    fn faces_changed_over_bend_it_the_other_way() {
        let (k, c, t) = kinetics("1084");
        let course = into(Medium::FastOil);
        let s = wedge(45.0, 2.5, 0.5, 0.75, (16, 6), Faces::Apart);
        let more = Face {
            times: 1.1,
            film_k: -15.0,
            late_s: 0.0,
        };
        let of = |faces| {
            bend(
                &s,
                &Case {
                    faces,
                    ..case(&k, &course, c, t)
                },
                None,
            )
            .unwrap()
            .curvature
        };
        let (a, b) = (of([more, Face::default()]), of([Face::default(), more]));
        assert!(
            (a[1] + b[1]).abs() < 1e-10 && a[1].abs() > 1e-6,
            "{a:?} {b:?}"
        );
        assert!((a[0] - b[0]).abs() < 1e-10);
    }

    #[test]
    fn a_rectangle_and_a_leaning_section_stay_straight() {
        let (k, c, t) = kinetics("1084");
        let course = into(Medium::FastOil);
        let bar = wedge(30.0, 3.0, 3.0, 1.0, (8, 6), Faces::Alike);
        let b = bend(&bar, &case(&k, &course, c, t), None).unwrap();
        assert!(b.curvature[0].abs() < 1e-12, "{}", b.curvature[0]);
        // The edge off the middle line, evenly from edge to spine.
        let mut leaning = wedge(45.0, 2.5, 0.5, 0.75, (16, 6), Faces::Apart);
        for i in 0..leaning.rows() {
            let off = 1e-4 * (1.0 - (i as f64 + 0.5) / 16.0);
            leaning.left[i] += off;
            leaning.right[i] += off;
        }
        let b = bend(&leaning, &case(&k, &course, c, t), None).unwrap();
        assert!(b.curvature[1].abs() < 1e-12, "{}", b.curvature[1]);
    }

    #[test]
    fn what_neither_turns_nor_yields_ends_straight() {
        let (k, course) = (inert(), into(Medium::Water));
        let s = wedge(30.0, 5.0, 0.6, 1.0, (20, 6), Faces::Alike);
        let elastic = Mechanics {
            transformation_plasticity: [0.0; 2],
            yields: false,
            creeps: false,
        };
        let c = case(&k, &course, 0.8, 800.0);
        let straight = sori(
            &s,
            Case {
                mechanics: elastic,
                ..c
            },
            180.0,
        );
        assert!(straight.abs() < 1e-9, "{straight}");
        // Tried in another language and on another grid: +0.49 mm (5 %).
        let yielding = sori(&s, c, 180.0);
        println!("inert, plastic: {yielding}");
        assert!((yielding / 0.49 - 1.0).abs() < 0.05, "{yielding}");
    }

    #[test]
    fn two_steels_bend_as_a_bimetal() {
        // Timoshenko 1925: two layers of half the thickness and one stiffness: κ = 1.5·Δε/t.
        let (_, c, t) = kinetics("1084");
        let course = into(Medium::StillAir);
        let of = |carbon: f64| {
            let a = Analysis {
                carbon,
                manganese: 6.0,
                ..Analysis::default()
            };
            let ms = crate::material::critical::martensite_start_c(&a);
            (Kinetics::new(&a, 0.0, 9.0, ms), carbon)
        };
        let (left, right) = (of(0.7), of(0.8));
        let layers: Vec<_> = (0..20)
            .map(|i| if i < 10 { left.clone() } else { right.clone() })
            .collect();
        let s = Section::new(
            20.0,
            None,
            Fineness {
                rows: 4,
                layers: 20,
                clay_layers: 1,
            },
            Faces::Apart,
            |_| (1.5, 1.5),
            |_| (0.0, 0.0),
        );
        let elastic = Mechanics {
            transformation_plasticity: [0.0; 2],
            yields: false,
            creeps: false,
        };
        let k = inert();
        let b = bend(
            &s,
            &Case {
                layers: &layers,
                mechanics: elastic,
                ..case(&k, &course, c, t)
            },
            None,
        )
        .unwrap();
        let of = |k: usize, carbon: f64| b.phases[k].martensite * swelling(carbon)[0];
        let theory = 1.5 * (of(19, 0.8) - of(0, 0.7)) / 3e-3;
        assert!(b.phases[0].martensite > 0.2);
        assert!(
            (b.curvature[1] / theory - 1.0).abs() < 5e-3,
            "{} {theory}",
            b.curvature[1]
        );
    }

    const KNIFE: (f64, f64, (f64, f64, f64)) = (30.0, 180.0, (5.0, 0.6, 1.0));
    const SWORD: (f64, f64, (f64, f64, f64)) = (30.0, 700.0, (7.0, 1.5, 1.0));

    /// Sori of a clayed blade, 3 mm thick above 12 mm of its height.
    fn of_clayed(
        steel: &str,
        (mm, length, shape): (f64, f64, (f64, f64, f64)),
        course: &Course,
        hotter: f64,
    ) -> f64 {
        let (k, c, t) = kinetics(steel);
        let s = clayed(mm, shape, Some((12.0, 3.0)), (20, 6), Faces::Alike);
        sori(&s, case(&k, course, c, t + hotter), length)
    }

    #[rstest]
    #[case("1050")]
    #[case("1075")]
    #[case("1095")]
    #[case("w1")]
    #[case("w2")]
    fn clay_and_water_curve_a_blade_towards_the_spine(#[case] steel: &str) {
        // What every smith of such blades sees, in still water and moved, a little too cool and too hot.
        for agitation in [Agitation::Still, Agitation::Moved] {
            let course = Course::new(&[Stage {
                transfer_s: Some(Seconds::clamped(0.0)),
                agitation: Some(agitation),
                ..Stage::until_cold(Medium::Water)
            }]);
            for blade in [KNIFE, SWORD] {
                for hotter in [-15.0, 0.0, 20.0] {
                    let got = of_clayed(steel, blade, &course, hotter);
                    assert!(got > 0.3, "{steel} {agitation:?} {hotter}: {got}");
                }
            }
        }
    }

    #[rstest]
    #[case("1075")]
    #[case("1084")]
    #[case("1095")]
    fn clay_and_fast_oil_curve_it_towards_the_edge(#[case] steel: &str) {
        for blade in [KNIFE, SWORD] {
            let got = of_clayed(steel, blade, &into(Medium::FastOil), 0.0);
            assert!(got < -0.1, "{steel}: {got}");
        }
    }

    #[test]
    fn on_its_way_a_long_blade_goes_both_ways() {
        // Edge first down, back, down again while the spine turns, and up in the end: the order that Inoue and others
        // published (Materials Science Research International 3, 1997). Figures of the tried model: −18.5, −0.9, −9.1, +15.8.
        let (k, c, t) = kinetics("w2");
        let course = into(Medium::Water);
        let (mm, length, shape) = SWORD;
        let s = clayed(mm, shape, Some((12.0, 3.0)), (20, 6), Faces::Alike);
        let b = bend(
            &s,
            &Case {
                step_k: 4.0,
                ..case(&k, &course, c, t)
            },
            None,
        )
        .unwrap();
        let sag: Vec<f64> = b
            .history
            .iter()
            .map(|m| -sag_mm(m.curvature[0], length))
            .collect();
        let before = |s: f64| b.history.iter().take_while(|m| m.time_s < s).count();
        let lowest = (0..before(6.0))
            .min_by(|a, b| sag[*a].total_cmp(&sag[*b]))
            .unwrap();
        let back = (lowest..before(14.0))
            .max_by(|a, b| sag[*a].total_cmp(&sag[*b]))
            .unwrap();
        let again = (back..sag.len())
            .min_by(|a, b| sag[*a].total_cmp(&sag[*b]))
            .unwrap();
        let (low, up, down, end) = (sag[lowest], sag[back], sag[again], sag[sag.len() - 1]);
        println!("w2 sword {low:.1} {up:.1} {down:.1} {end:.1}");
        assert!((-19.5..-16.5).contains(&low), "{low}");
        assert!(up > low + 10.0 && down < up - 4.0, "{up} {down}");
        assert!((15.0..16.6).contains(&end), "{end}");
    }

    #[rstest]
    #[case("w2", Medium::Water, SWORD)]
    #[case("w2", Medium::Water, KNIFE)]
    #[case("w2", Medium::FastOil, KNIFE)]
    fn finer_sections_give_the_same(
        #[case] steel: &str,
        #[case] medium: Medium,
        #[case] (mm, length, shape): (f64, f64, (f64, f64, f64)),
    ) {
        let (k, c, t) = kinetics(steel);
        let course = into(medium);
        let of = |rows, layers| {
            let s = clayed(mm, shape, Some((12.0, 3.0)), (rows, layers), Faces::Alike);
            sori(&s, case(&k, &course, c, t), length)
        };
        let (fine, usual, coarse) = (of(50, 10), of(30, 8), of(20, 6));
        let within =
            |got: f64, share: f64, mm: f64| (got - fine).abs() <= (share * fine.abs()).max(mm);
        assert!(within(usual, 0.05, 0.02), "{usual} {fine}");
        assert!(within(coarse, 0.10, 0.04), "{coarse} {fine}");
    }

    #[test]
    fn a_bare_thin_blade_in_oil_curves_towards_the_edge() {
        // Tried: −0.59 mm with the kinetics of then; these give −0.58.
        let (k, c, t) = kinetics("1084");
        let s = wedge(45.0, 2.5, 0.5, 0.75, (16, 6), Faces::Alike);
        let got = sori(&s, case(&k, &into(Medium::FastOil), c, t), 240.0);
        assert!((got + 0.59).abs() < 0.04, "{got}");
    }

    #[test]
    fn a_load_while_martensite_forms_bends_ten_times_as_much_as_on_cold_steel() {
        let (k, c, t) = kinetics("1084");
        let course = into(Medium::FastOil);
        // κ/M of 3.08 and .485 1/(Nm²)… per metre as tried, at 2 and 4 mm of spine.
        for (spine, wanted) in [(2.0, 3.08), (4.0, 0.485)] {
            let s = wedge(45.0, spine, 0.5, 0.75, (16, 6), Faces::Apart);
            let b = bend(
                &s,
                &Case {
                    moment_nm: 0.02,
                    step_k: 5.0,
                    ..case(&k, &course, c, t)
                },
                None,
            )
            .unwrap();
            let got = b.curvature[1].abs() / 0.02;
            println!("load {spine}: {got}");
            assert!((got / wanted - 1.0).abs() < 0.08, "{spine}: {got}");
            let elastic = 1.0 / (210e9 * s.sideways_inertia());
            assert!(got > 5.0 * elastic, "{got} {elastic}");
        }
    }

    #[test]
    fn bevels_that_differ_bend_it_in_proportion() {
        // Within two percent from half of it to all of it, where it hardens through.
        let (k, c, t) = kinetics("1084");
        let course = into(Medium::FastOil);
        let side = |percent: f64| {
            let fineness = Fineness {
                rows: 16,
                layers: 6,
                clay_layers: 3,
            };
            let half =
                |y: f64, times: f64| 0.5 * (0.5 + 1.5 * (y / (45.0 * 0.75 * times)).min(1.0));
            let section = Section::new(
                45.0,
                None,
                fineness,
                Faces::Apart,
                |y| (half(y, 1.0 + 0.01 * percent), half(y, 1.0 - 0.01 * percent)),
                |_| (0.0, 0.0),
            );
            let bent = bend(
                &section,
                &Case {
                    step_k: 4.0,
                    ..case(&k, &course, c, t)
                },
                None,
            );
            bent.unwrap().curvature[1]
        };
        let (half, all) = (side(2.5), side(5.0));
        assert!((all / half - 2.0).abs() < 0.04, "{}", all / half);
    }

    #[test]
    fn a_face_that_comes_late_or_is_hotter_hardly_bends_it() {
        // As tried: a tenth of a second, or 20 °C across, under 0.005 mm over 240.
        let (k, c, t) = kinetics("1084");
        let course = into(Medium::FastOil);
        let s = wedge(45.0, 2.5, 0.5, 0.75, (16, 6), Faces::Apart);
        let late = Face {
            late_s: 0.1,
            ..Face::default()
        };
        let usual = Case {
            step_k: 6.0,
            ..case(&k, &course, c, t)
        };
        let side =
            |case: &Case<'_>| sag_mm(bend(&s, case, None).unwrap().curvature[1], 240.0).abs();
        let delayed = side(&Case {
            faces: [late, Face::default()],
            ..usual
        });
        let across = side(&Case {
            across_k: 20.0,
            ..usual
        });
        println!("late {delayed} across {across}");
        assert!(delayed > 0.0 && delayed < 0.005, "{delayed}");
        assert!(across > 0.0 && across < 0.005, "{across}");
    }

    #[test]
    fn a_face_that_lost_carbon_bends_a_plate_as_the_rule_says() {
        // A fortieth of 2 mm with six tenths of the carbon, on one face: the rule of `driver::skin_curvature`.
        let (_, c, t) = kinetics("1084");
        let course = into(Medium::FastOil);
        let of = |carbon: f64| {
            let steel = crate::material::steel::Steel::built_in("1084").unwrap();
            let d = steel.nominal_dissolved().with_carbon(carbon);
            (
                Kinetics::new(&d.composition, steel.ac1_c, 9.0, d.martensite_start_c),
                carbon,
            )
        };
        let (sound, lean) = (of(c), of(0.6 * c));
        let layers: Vec<_> = (0..40)
            .map(|i| if i == 0 { lean.clone() } else { sound.clone() })
            .collect();
        let fineness = Fineness {
            rows: 4,
            layers: 40,
            clay_layers: 1,
        };
        let s = Section::new(
            45.0,
            None,
            fineness,
            Faces::Apart,
            |_| (1.0, 1.0),
            |_| (0.0, 0.0),
        );
        let whole = Case {
            layers: &layers,
            step_k: 4.0,
            ..case(&sound.0, &course, c, t)
        };
        let b = bend(&s, &whole, None).unwrap();
        let strain = b.phases[20].martensite
            * ((4.64 - 0.53 * c) / 300.0 - 10e-6 * (sound.0.martensite_start_c() - 20.0));
        let rule = 0.42 * 6.0 * strain * (2e-3 / 40.0) / 2e-3_f64.powi(2);
        let got = b.curvature[1].abs();
        println!("skin {got} {rule}");
        assert!((got / rule - 1.0).abs() < 0.25, "{got} {rule}");
    }

    proptest::proptest! {
        #![proptest_config(proptest::prelude::ProptestConfig::with_cases(150))]
        #[test]
        fn any_section_ends_somewhere(
            mm in 0.3..300.0_f64,
            spine in 0.05..25.0_f64,
            thin in 0.01..1.0_f64,
            bevel in 0.2..1.0_f64,
            clay in proptest::option::of((0.0..1.0_f64, 0.1..10.0_f64)),
            medium in 0..9_usize,
            times in 0.7..1.4_f64,
        ) {
            let medium = Medium::ALL[medium % Medium::ALL.len()];
            let (k, c, t) = kinetics(["1084", "w2", "o1"][(mm as usize) % 3]);
            let s = clayed(mm, (spine, thin * spine, bevel), clay.map(|(at, thick)| (at * mm, thick)), (12, 4), Faces::Apart);
            let course = into(medium);
            let left = Face { times, ..Face::default() };
            let b = bend(&s, &Case { step_k: 10.0, faces: [left, Face::default()], ..case(&k, &course, c, t) }, None).unwrap();
            proptest::prop_assert!(b.curvature.iter().all(|k| k.is_finite()));
            proptest::prop_assert!(b.stress.iter().all(|s| s.is_finite()));
            proptest::prop_assert!(b.steps < MAX_STEPS, "{}", b.steps);
            proptest::prop_assert!(b.rounds <= 12 * (b.steps + LAST_STEPS), "{} {}", b.rounds, b.steps);
        }
    }
}
