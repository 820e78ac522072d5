//! The quench of a whole blade: side view, two layers (left and right half), from the fire to cold.
//!
//! Each cell conducts to its neighbours in the plane and to the other half, loses heat through its
//! face (bare, or through clay that has a heat content of its own) and transforms; the heat of
//! transformation feeds back. When both faces are alike one half stands for both.
//!
//! Time steps are split: faces and clay implicit cell by cell, then conduction along the blade, then
//! across it, both implicit, so that no step is too long to be stable and every step conserves heat
//! to rounding. The step follows the fastest cell.

use crate::geometry::clay::Clay;
use crate::geometry::form::{Form, Grid};
use crate::material::medium::Medium;
use crate::material::properties::{
    CONDUCTIVITY, DENSITY, heat_content, specific_heat, temperature,
};
use crate::process::heat_transfer::Film;
use crate::process::step::{Stage, USUAL_TRANSFER_S};
use crate::quantity::units::{Celsius, Kelvins, Quantity};
use crate::simulation::transformation::{Kinetics, Phases};
use std::sync::atomic::{AtomicBool, Ordering};

/// Room temperature that everything ends at, °C.
pub const ROOM_C: f64 = 20.0;
/// Largest change of temperature in one step, °C.
const CHANGE_C: f64 = 10.0;
/// Shortest and longest step, s.
const STEP_S: (f64, f64) = (2e-4, 4.0);
/// Steps after which a simulation is ended whatever happens.
const MAX_STEPS: usize = 40_000;
/// A stage without an end is over when the whole blade is this near the bath, °C.
const NEAR_C: f64 = 8.0;
/// Moments at which the whole map is kept, at most.
pub const MAX_FRAMES: usize = 40;

/// The simulation was told to stop.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("the simulation was stopped")]
pub struct Stopped;

/// What is quenched, and how.
#[derive(Debug, Clone, Copy)]
pub struct Setup<'a> {
    /// The blade.
    pub form: &'a Form,
    /// Clay on it.
    pub clay: &'a Clay,
    /// How its austenite transforms.
    pub kinetics: &'a Kinetics,
    /// Share of austenite when it leaves the fire, 0 to 1.
    pub austenite: f64,
    /// Hardness of the rest, HV.
    pub rest_hv: f64,
    /// Temperature when it leaves the fire, at the middle of its length.
    pub start: Celsius,
    /// How much hotter its tip is; from the middle on evenly more.
    pub tip_hotter: Kelvins,
    /// The media in order; must not be empty.
    pub stages: &'a [Stage],
    /// Width of a cell, mm.
    pub step_mm: f64,
    /// Heat transfer of the left and right face against the usual: 1.0 unless the quench is uneven.
    pub faces: [f64; 2],
    /// Steps are this much finer than usual; 1.0 for the usual ones.
    pub refine: f64,
}

impl<'a> Setup<'a> {
    /// A quench with everything usual: both faces alike.
    #[must_use]
    pub fn usual(
        form: &'a Form,
        clay: &'a Clay,
        kinetics: &'a Kinetics,
        start: Celsius,
        stages: &'a [Stage],
    ) -> Self {
        Self {
            form,
            clay,
            kinetics,
            austenite: 1.0,
            rest_hv: 200.0,
            start,
            tip_hotter: Kelvins::ZERO,
            stages,
            step_mm: 2.0,
            faces: [1.0, 1.0],
            refine: 1.0,
        }
    }

    /// Temperature of each cell when it leaves the fire, °C.
    fn start_of(&self, grid: &Grid) -> Vec<f64> {
        let half_mm = 0.5 * self.form.blade().length_mm;
        let of = |k: usize| {
            let beyond = (grid.x_mm(k / grid.rows) - half_mm) / half_mm;
            self.start.value() + self.tip_hotter.value() * beyond.clamp(0.0, 1.0)
        };
        (0..grid.thickness_mm.len()).map(of).collect()
    }
}

/// The whole blade at one moment.
#[derive(Debug, Clone, PartialEq)]
pub struct Frame {
    /// Seconds from entering the first medium.
    pub time_s: f64,
    /// Mean temperature of each cell, °C; column by column, room temperature outside the blade.
    pub temperature_c: Vec<f32>,
    /// Share hardened of each cell.
    pub martensite: Vec<f32>,
}

/// What came out.
#[derive(Debug, Clone, PartialEq)]
pub struct Quenched {
    /// The grid.
    pub grid: Grid,
    /// Left and right half; the same twice when both faces are alike.
    pub sides: [Side; 2],
    /// Moments kept for drawing.
    pub frames: Vec<Frame>,
    /// How long it took until cold, s.
    pub seconds: f64,
    /// Steps taken.
    pub steps: usize,
    /// Hottest the bath became, °C, of the last stage.
    pub bath_end_c: f64,
    /// Heat lost to media, and heat given up by steel and clay, J.
    pub energy_j: (f64, f64),
    /// When the mean of the blade passed the martensite start, s.
    pub half_start_s: f64,
}

/// The phases of each cell of one half of the blade.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Side {
    /// At its face, where hardness is read and a line shows.
    pub face: Vec<Phases>,
    /// At the middle of the blade.
    pub middle: Vec<Phases>,
}

/// A place of the blade from face to middle, both sides together.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Through {
    /// At the face.
    pub face: Phases,
    /// In the middle.
    pub middle: Phases,
}

impl Through {
    /// How much of half the thickness is hardened from the face on, 0 to 1: between the two the hardened share
    /// is taken to go with the square of the distance from the middle, as temperature does.
    #[must_use]
    pub fn case(&self) -> f64 {
        let (face, middle) = (self.face.hardened(), self.middle.hardened());
        if middle >= 0.5 {
            1.0
        } else if face < 0.5 {
            0.0
        } else {
            1.0 - ((0.5 - middle) / (face - middle)).sqrt()
        }
    }
}

impl Quenched {
    /// Share of a cell that hardened at its faces, both together.
    #[must_use]
    pub fn hardened(&self, cell: usize) -> f64 {
        0.5 * (self.sides[0].face[cell].hardened() + self.sides[1].face[cell].hardened())
    }

    /// A cell from face to middle.
    #[must_use]
    pub fn through(&self, cell: usize) -> Through {
        let [left, right] = &self.sides;
        Through {
            face: Phases::mixed(&left.face[cell], &right.face[cell], 0.5),
            middle: Phases::mixed(&left.middle[cell], &right.middle[cell], 0.5),
        }
    }

    /// Hardness of a cell at its faces, HRC, when its hardened part has `hard_hrc`.
    #[must_use]
    pub fn hrc(&self, cell: usize, hard_hrc: f64) -> f64 {
        0.5 * (self.sides[0].face[cell].hrc(hard_hrc) + self.sides[1].face[cell].hrc(hard_hrc))
    }

    /// Share of the whole side view that hardened.
    #[must_use]
    pub fn mean_hardened(&self) -> f64 {
        let cells = self.grid.thickness_mm.iter().enumerate();
        let (n, sum) = cells
            .filter(|(_, t)| **t > 0.0)
            .fold((0.0, 0.0), |(n, sum), (k, _)| {
                (n + 1.0, sum + self.hardened(k))
            });
        sum / f64::max(n, 1.0)
    }

    /// The cell at a place, when it is on the blade.
    #[must_use]
    pub fn cell_at(&self, x_mm: f64, y_mm: f64) -> Option<usize> {
        let g = &self.grid;
        let (i, j) = ((x_mm - g.x0_mm) / g.step_mm, (y_mm - g.y0_mm) / g.step_mm);
        if i < 0.0 || j < 0.0 || i >= g.columns as f64 || j >= g.rows as f64 {
            return None;
        }
        let cell = i as usize * g.rows + j as usize;
        (g.thickness_mm[cell] > 0.0).then_some(cell)
    }
}

/// One half of the blade.
pub(crate) struct Half {
    /// Temperature, °C.
    pub t: Vec<f64>,
    /// Heat content, J/kg.
    content: Vec<f64>,
    /// Temperature of the surface that the medium sees, °C.
    surface: Vec<f64>,
    /// Temperature of the clay, °C.
    clay_t: Vec<f64>,
    /// Resistances of the face.
    skin: Vec<Skin>,
    /// What it has turned into at the face and in the middle.
    face: Vec<Phases>,
    middle: Vec<Phases>,
    /// How much the face was cooler than the mean of the half at the end of the last step, and is now, K.
    cooler: Vec<f64>,
    cooler_now: Vec<f64>,
    /// One over the heat transfer against the usual.
    per_factor: f64,
}

impl Half {
    /// As it leaves the fire, with clay of these thicknesses (mm) and heat transfer so many times the usual.
    fn new(setup: &Setup<'_>, grid: &Grid, clay: &[f64], factor: f64) -> Self {
        let n = grid.thickness_mm.len();
        let start = setup.start_of(grid);
        let skin = |k: usize| {
            let clay = clay[k] * 1e-3;
            // From the mean of half a section to its face: a third of the way, not half, since the profile
            // is a parabola.
            let inside = grid.thickness_mm[k].max(0.1) * 1e-3 / (6.0 * CONDUCTIVITY);
            let half_clay = 0.5 * clay / setup.clay.mix().conductivity();
            Skin {
                inside,
                half_clay,
                inner: 1.0 / (inside + half_clay),
                store: setup.clay.mix().capacity() * clay,
            }
        };
        let hot = Phases::hot(setup.austenite, setup.rest_hv);
        Self {
            content: start.iter().map(|t| heat_content(*t)).collect(),
            surface: start.clone(),
            clay_t: start.clone(),
            t: start,
            skin: (0..n).map(skin).collect(),
            face: vec![hot; n],
            middle: vec![hot; n],
            cooler: vec![0.0; n],
            cooler_now: vec![0.0; n],
            per_factor: 1.0 / factor.max(1e-3),
        }
    }

    /// Takes face and middle of a cell along when its mean goes from one temperature to another, °C. The
    /// profile between them is a parabola: the middle is half as much hotter than the mean as the face is
    /// cooler. Returns the heat set free, J/kg.
    #[inline]
    fn transform(&mut self, kinetics: &Kinetics, cell: usize, mean: (f64, f64), dt: f64) -> f64 {
        let (was, now) = (self.cooler[cell], self.cooler_now[cell]);
        self.cooler[cell] = now;
        let face = &mut self.face[cell];
        let at_face = kinetics.advance(face, mean.0 - was, mean.1 - now, dt);
        let (was, now) = (0.5 * was, 0.5 * now);
        let middle = &mut self.middle[cell];
        let within = kinetics.advance(middle, mean.0 + was, mean.1 + now, dt);
        (2.0 * within + at_face) / 3.0
    }

    /// The phases of a cell on the mean of its thickness.
    #[inline]
    fn mean(&self, cell: usize) -> Phases {
        Phases::mixed(&self.face[cell], &self.middle[cell], 1.0 / 3.0)
    }
}

/// One face of one cell during a step: what leaves the steel is `loss·T' − source`, W/m², T' the steel's
/// new temperature. The rest is kept for what follows from T'.
#[derive(Clone, Copy, Default)]
struct Answer {
    loss: f64,
    source: f64,
    /// Conductance from clay, or from steel when bare, to the medium, W/m²K.
    outer: f64,
    /// Share of the clay's new temperature that comes from the steel's, and the rest, °C.
    clay: Option<(f64, f64)>,
}

/// What a face of a cell always has: resistance of the steel inside it and of half its clay, m²K/W; the
/// conductance of both together, W/m²K; and the heat content of the clay, J/m²K.
#[derive(Clone, Copy)]
struct Skin {
    inside: f64,
    half_clay: f64,
    inner: f64,
    store: f64,
}

struct Bath {
    film: Film,
    now: f64,
    /// Heat it takes to warm it by a degree, J/K; none when it is as good as endless.
    capacity: Option<f64>,
    stage: Stage,
}

impl Bath {
    fn new(stage: Stage) -> Self {
        let capacity = stage.capacity_j_k();
        Self {
            film: Film::of_stage(&stage),
            now: stage.bath_c.value(),
            capacity,
            stage,
        }
    }

    fn warm(&mut self, joules: f64) {
        let Some(capacity) = self.capacity else {
            return;
        };
        self.now = (self.now + joules / capacity).min(300.0);
        if (self.now - self.film.bath_c()).abs() > 2.0 {
            self.film = Film::of_stage(&Stage {
                bath_c: Celsius::clamped(self.now),
                ..self.stage
            });
        }
    }
}

/// What a step did: heat the medium took, J; largest change, hottest and mean, °C.
struct Stepped {
    taken: f64,
    largest: f64,
    high: f64,
    mean: f64,
}

struct Simulation<'a> {
    setup: Setup<'a>,
    grid: Grid,
    /// Cells of the blade.
    cells: Vec<usize>,
    halves: Vec<Half>,
    /// Mass of half a cell by face area, kg/m²; 1 outside.
    mass: Vec<f64>,
    /// Conduction to the other half, to the column before and to the row below, W/m²K.
    between: Vec<f64>,
    along: Vec<f64>,
    across: Vec<f64>,
    /// Work space of the sweeps.
    inertia: Vec<f64>,
    c: Vec<f64>,
    d: Vec<f64>,
    /// Temperatures of each half at the start of a step.
    before: Vec<Vec<f64>>,
    lost: f64,
}

impl<'a> Simulation<'a> {
    /// What is left cools to the room without hurry.
    fn rest(&mut self) {
        for half in &mut self.halves {
            for &cell in &self.cells {
                let from = half.t[cell];
                if from > ROOM_C {
                    half.cooler_now[cell] = 0.0;
                    half.transform(self.setup.kinetics, cell, (from, ROOM_C), 1.0);
                }
                half.t[cell] = ROOM_C;
            }
        }
    }

    fn new(setup: Setup<'a>) -> Self {
        let grid = Grid::over(setup.form, setup.step_mm);
        let n = grid.thickness_mm.len();
        let cells: Vec<usize> = (0..n).filter(|k| grid.thickness_mm[*k] > 0.0).collect();
        let clay = setup.clay.shielding(&grid);
        let even = setup.clay.is_even() && setup.faces[0] == setup.faces[1];
        let start = setup.start_of(&grid);
        let halves = (0..if even { 1 } else { 2 })
            .map(|side| Half::new(&setup, &grid, &clay[side], setup.faces[side]))
            .collect::<Vec<_>>();
        let half_mm = |k: usize| 0.5 * grid.thickness_mm[k];
        let mass = (0..n)
            .map(|k| {
                if grid.thickness_mm[k] > 0.0 {
                    DENSITY * half_mm(k) * 1e-3
                } else {
                    1.0
                }
            })
            .collect();
        let square = (grid.step_mm * 1e-3).powi(2);
        let between = |a: usize, b: usize| {
            if grid.thickness_mm[a] > 0.0 && grid.thickness_mm[b] > 0.0 {
                CONDUCTIVITY * 0.5 * (half_mm(a) + half_mm(b)) * 1e-3 / square
            } else {
                0.0
            }
        };
        let rows = grid.rows;
        let along = (0..n)
            .map(|k| if k >= rows { between(k - rows, k) } else { 0.0 })
            .collect();
        let across = (0..n)
            .map(|k| if k % rows > 0 { between(k - 1, k) } else { 0.0 })
            .collect();
        let half_to_half = |t: &f64| 2.0 * CONDUCTIVITY / (t.max(0.1) * 1e-3);
        let to_other = grid.thickness_mm.iter().map(half_to_half).collect();
        Self {
            setup,
            cells,
            halves,
            mass,
            between: to_other,
            along,
            across,
            inertia: vec![1.0; n],
            c: vec![0.0; n],
            d: vec![0.0; n],
            before: vec![start; if even { 1 } else { 2 }],
            lost: 0.0,
            grid,
        }
    }

    /// What a face answers during a step, with the medium's resistance at surface temperature `at`.
    #[inline]
    fn answer(half: &Half, cell: usize, film: &Film, sink: f64, per_s: f64, at: f64) -> Answer {
        let skin = half.skin[cell];
        let resistance = film.resistance(at) * half.per_factor;
        if skin.store <= 0.0 {
            let loss = 1.0 / (resistance + skin.inside);
            return Answer {
                loss,
                source: loss * sink,
                outer: loss,
                clay: None,
            };
        }
        let outer = 1.0 / (resistance + skin.half_clay);
        let store = skin.store * per_s;
        let divide = 1.0 / (store + skin.inner + outer);
        let share = skin.inner * divide;
        let rest = (store * half.clay_t[cell] + outer * sink) * divide;
        Answer {
            loss: skin.inner * (1.0 - share),
            source: skin.inner * rest,
            outer,
            clay: Some((share, rest)),
        }
    }

    /// What a face has come to when the steel is at `t`: surface and clay, °C, what flows, W/m², and how much
    /// the face of the steel is cooler than `t`, K.
    #[inline]
    fn outcome(half: &Half, cell: usize, t: f64, a: &Answer, sink: f64) -> [f64; 4] {
        let skin = half.skin[cell];
        let Some((share, rest)) = a.clay else {
            let flux = a.outer * (t - sink);
            let cooler = flux * skin.inside;
            return [t - cooler, t, flux, cooler];
        };
        let clay = share * t + rest;
        let flux = a.outer * (clay - sink);
        let cooler = skin.inner * (t - clay) * skin.inside;
        [clay - flux * skin.half_clay, clay, flux, cooler]
    }

    /// Faces and clay: the first part of a step. `dry` are the cells outside the medium. The boiling
    /// curve is steep, so a face whose surface changed much is solved again, with the heat transfer of
    /// the middle of the step.
    fn faces(&mut self, wet: &Film, bath: f64, air: &Film, dry: &[bool], dt: f64) -> f64 {
        const CHANGED_C: f64 = 2.0;
        let mut taken = 0.0;
        let sides = self.halves.len();
        let share = 2.0 / sides as f64;
        let area = (self.grid.step_mm * 1e-3).powi(2);
        let per_s = 1.0 / dt;
        for n in 0..self.cells.len() {
            let cell = self.cells[n];
            let wetted = dry.is_empty() || !dry[cell];
            let (film, sink) = if wetted { (wet, bath) } else { (air, ROOM_C) };
            let mut at = [0.0; 2];
            let mut store = [0.0; 2];
            for (side, half) in self.halves.iter().enumerate() {
                at[side] = half.surface[cell];
                store[side] = self.mass[cell] * specific_heat(half.t[cell]) * per_s;
            }
            let mut t = [0.0; 2];
            let mut out = [[0.0; 4]; 2];
            for pass in 0..2 {
                let first = &self.halves[0];
                let a = Self::answer(first, cell, film, sink, per_s, at[0]);
                let ra = store[0] * first.t[cell] + a.source;
                let mut b = Answer::default();
                if sides == 2 {
                    let second = &self.halves[1];
                    b = Self::answer(second, cell, film, sink, per_s, at[1]);
                    let rb = store[1] * second.t[cell] + b.source;
                    let g = self.between[cell];
                    let (aa, bb) = (store[0] + a.loss + g, store[1] + b.loss + g);
                    let divide = 1.0 / (aa * bb - g * g);
                    t = [(ra * bb + g * rb) * divide, (aa * rb + g * ra) * divide];
                } else {
                    t[0] = ra / (store[0] + a.loss);
                }
                let mut changed = false;
                for (side, half) in self.halves.iter().enumerate() {
                    let answer = if side == 0 { &a } else { &b };
                    out[side] = Self::outcome(half, cell, t[side], answer, sink);
                    changed |= (out[side][0] - at[side]).abs() > CHANGED_C;
                    at[side] = 0.5 * (at[side] + out[side][0]);
                }
                if pass == 0 && !changed {
                    break;
                }
            }
            let mut flux = 0.0;
            for (side, half) in self.halves.iter_mut().enumerate() {
                half.t[cell] = t[side];
                half.surface[cell] = out[side][0];
                half.clay_t[cell] = out[side][1];
                half.cooler_now[cell] = out[side][3];
                flux += share * out[side][2];
            }
            if wetted {
                taken += flux;
            } else {
                self.lost += flux * dt * area;
            }
        }
        let joules = taken * dt * area;
        self.lost += joules;
        joules
    }

    /// Conduction along the blade and then across it, implicit.
    fn conduct(&mut self, side: usize) {
        let (rows, columns) = (self.grid.rows, self.grid.columns);
        let n = rows * columns;
        let t = &mut self.halves[side].t;
        let (m, c, d) = (&self.inertia, &mut self.c, &mut self.d);
        // All rows of a column go together, so that the inner loop runs over neighbours in memory.
        for j in 0..rows {
            let after = if columns > 1 {
                self.along[rows + j]
            } else {
                0.0
            };
            let divide = 1.0 / (m[j] + after);
            c[j] = after * divide;
            d[j] = m[j] * t[j] * divide;
        }
        for i in 1..columns {
            let (done, now) = (i * rows - rows, i * rows);
            let last = i + 1 == columns;
            let (c0, c1) = c.split_at_mut(now);
            let (d0, d1) = d.split_at_mut(now);
            let (c0, d0) = (&c0[done..], &d0[done..]);
            let before = &self.along[now..now + rows];
            let mm = &m[now..now + rows];
            let tt = &t[now..now + rows];
            for j in 0..rows {
                let after = if last {
                    0.0
                } else {
                    self.along[now + rows + j]
                };
                let divide = 1.0 / (mm[j] + before[j] + after - before[j] * c0[j]);
                c1[j] = after * divide;
                d1[j] = (mm[j] * tt[j] + before[j] * d0[j]) * divide;
            }
        }
        t[n - rows..].copy_from_slice(&d[n - rows..]);
        for k in (0..n - rows).rev() {
            t[k] = d[k] + c[k] * t[k + rows];
        }
        for i in 0..columns {
            let range = i * rows..(i + 1) * rows;
            let (t, g) = (&mut t[range.clone()], &self.across[range.clone()]);
            let (m, c, d) = (&m[range], &mut c[..rows], &mut d[..rows]);
            let after = |j: usize| if j + 1 < rows { g[j + 1] } else { 0.0 };
            let divide = 1.0 / (m[0] + after(0));
            c[0] = after(0) * divide;
            d[0] = m[0] * t[0] * divide;
            for j in 1..rows {
                let divide = 1.0 / (m[j] + g[j] + after(j) - g[j] * c[j - 1]);
                c[j] = after(j) * divide;
                d[j] = (m[j] * t[j] + g[j] * d[j - 1]) * divide;
            }
            t[rows - 1] = d[rows - 1];
            for j in (0..rows - 1).rev() {
                t[j] = d[j] + c[j] * t[j + 1];
            }
        }
    }

    /// One step.
    fn step(&mut self, bath: &Bath, air: &Film, dry: &[bool], dt: f64) -> Stepped {
        for (before, half) in self.before.iter_mut().zip(&self.halves) {
            before.copy_from_slice(&half.t);
        }
        let taken = self.faces(&bath.film, bath.now, air, dry, dt);
        let mut done = Stepped {
            taken,
            largest: 0.0,
            high: f64::NEG_INFINITY,
            mean: 0.0,
        };
        for side in 0..self.halves.len() {
            // Lent out for the loop, so that the rest of the simulation can be changed meanwhile.
            let before = std::mem::take(&mut self.before[side]);
            for &cell in &self.cells {
                self.inertia[cell] = self.mass[cell] * specific_heat(before[cell]) / dt;
            }
            self.conduct(side);
            let half = &mut self.halves[side];
            for &cell in &self.cells {
                let was = before[cell];
                half.content[cell] += specific_heat(was) * (half.t[cell] - was);
                let cooled = temperature(half.content[cell]);
                let heat = half.transform(self.setup.kinetics, cell, (was, cooled), dt);
                half.content[cell] += heat;
                let now = if heat > 0.0 {
                    temperature(half.content[cell])
                } else {
                    cooled
                };
                half.t[cell] = now;
                done.largest = done.largest.max((now - was).abs());
                done.high = done.high.max(now);
                done.mean += now;
            }
            self.before[side] = before;
        }
        done.mean /= (self.cells.len() * self.halves.len()).max(1) as f64;
        done
    }

    /// In air on the way into a bath: for as long as the stage says, or `usual` seconds.
    fn carry(&mut self, air: &Film, stage: Option<&Stage>, usual: f64) {
        let seconds = stage.map_or(0.0, |s| s.transfer_s.map_or(usual, |t| t.value()));
        let air_bath = Bath {
            film: air.clone(),
            now: ROOM_C,
            capacity: None,
            stage: Stage::until_cold(Medium::StillAir),
        };
        let change = CHANGE_C / self.setup.refine;
        let (mut gone, mut dt) = (0.0, 0.02_f64);
        while gone < seconds - 1e-9 {
            let this = dt.min(seconds - gone);
            let largest = self.step(&air_bath, air, &[], this).largest;
            gone += this;
            dt = (dt * (change / largest.max(1e-9)).clamp(0.4, 1.6)).clamp(1e-3, 1.0);
        }
    }

    fn frame(&self, time_s: f64) -> Frame {
        let n = self.grid.thickness_mm.len();
        let mut frame = Frame {
            time_s,
            temperature_c: vec![ROOM_C as f32; n],
            martensite: vec![0.0; n],
        };
        let share = 1.0 / self.halves.len() as f64;
        for &cell in &self.cells {
            let (mut t, mut hard) = (0.0, 0.0);
            for half in &self.halves {
                t += share * half.t[cell];
                hard += share * half.face[cell].martensite;
            }
            frame.temperature_c[cell] = t as f32;
            frame.martensite[cell] = hard as f32;
        }
        frame
    }

    /// Heat content of steel (less what transformation set free) and clay above the start, J.
    fn content(&self) -> f64 {
        let area = (self.grid.step_mm * 1e-3).powi(2);
        let share = 2.0 / self.halves.len() as f64;
        let mut sum = 0.0;
        for half in &self.halves {
            for &cell in &self.cells {
                let p = half.mean(cell);
                let free = crate::material::properties::PEARLITE_HEAT
                    * (p.pearlite + p.bainite - (1.0 - self.setup.austenite))
                    + crate::material::properties::MARTENSITE_HEAT * p.martensite;
                sum += self.mass[cell] * (half.content[cell] - free)
                    + half.skin[cell].store * half.clay_t[cell];
            }
        }
        sum * area * share
    }
}

/// Cells that stay outside the medium of a stage; empty when the whole blade goes in.
fn outside(grid: &Grid, stage: &Stage) -> Vec<bool> {
    let tip = grid.x0_mm + grid.columns as f64 * grid.step_mm;
    let depth = stage
        .edge_depth_mm
        .map(crate::quantity::units::Millimetres::value);
    let length = stage
        .tip_length_mm
        .map(crate::quantity::units::Millimetres::value);
    if depth.is_none() && length.is_none() {
        return Vec::new();
    }
    // The edge goes in level: its lowest point ahead of the heel touches first.
    let lowest = (0..grid.columns)
        .filter(|i| grid.x_mm(*i) >= 0.0)
        .filter_map(|i| grid.sections[i].map(|s| s.0))
        .fold(f64::INFINITY, f64::min);
    (0..grid.thickness_mm.len())
        .map(|k| {
            let (x, y) = (grid.x_mm(k / grid.rows), grid.y_mm(k % grid.rows));
            depth.is_some_and(|d| y > lowest + d) || length.is_some_and(|l| x < tip - l)
        })
        .collect()
}

/// Moments kept for drawing, further apart the later.
struct Frames {
    kept: Vec<Frame>,
    next_s: f64,
}

impl From<Frame> for Frames {
    fn from(first: Frame) -> Self {
        Self {
            kept: vec![first],
            next_s: 0.1,
        }
    }
}

impl Frames {
    /// Keeps this moment when it is time for one.
    fn offer(&mut self, s: &Simulation<'_>, time: f64) {
        if time >= self.next_s && self.kept.len() < MAX_FRAMES {
            self.kept.push(s.frame(time));
            self.next_s = (self.next_s * 1.32).max(self.next_s + 0.1);
        }
    }

    /// With the last moment at the end; each is later than the one before.
    fn ending(mut self, last: Frame) -> Vec<Frame> {
        let full = self.kept.len() >= MAX_FRAMES;
        if full || self.kept.last().is_some_and(|f| f.time_s >= last.time_s) {
            self.kept.pop();
        }
        self.kept.push(last);
        self.kept
    }
}

/// Simulates a quench.
///
/// # Errors
/// [`Stopped`] when `stop` was set meanwhile.
pub fn quench(setup: Setup<'_>, stop: Option<&AtomicBool>) -> Result<Quenched, Stopped> {
    let mut s = Simulation::new(setup);
    let began = s.content();
    let air = Film::new(
        Medium::StillAir,
        Celsius::clamped(ROOM_C),
        crate::process::heat_transfer::Agitation::Moved,
    );
    let ms = setup.kinetics.martensite_start_c();
    let change = CHANGE_C / setup.refine;
    let (mut time, mut dt, mut steps) = (0.0, 1e-3 / setup.refine, 0);
    s.carry(&air, setup.stages.first(), USUAL_TRANSFER_S);
    let mut frames = Frames::from(s.frame(0.0));
    let mut half_start = None;
    let mut bath_end = ROOM_C;
    for (n, stage) in setup.stages.iter().enumerate() {
        let last = n + 1 == setup.stages.len();
        let mut bath = Bath::new(*stage);
        let dry = outside(&s.grid, stage);
        if n > 0 {
            s.carry(&air, Some(stage), 0.0);
            time += stage.transfer_s.map_or(0.0, |t| t.value());
        }
        let ends = if last {
            f64::INFINITY
        } else {
            time + stage.for_s.map_or(f64::INFINITY, |t| t.value())
        };
        dt = dt.min(5e-3 / setup.refine);
        while steps < MAX_STEPS {
            if stop.is_some_and(|s| s.load(Ordering::Relaxed)) {
                return Err(Stopped);
            }
            let this = dt.min(ends - time).max(1e-6);
            let Stepped {
                taken,
                largest,
                high,
                mean,
            } = s.step(&bath, &air, &dry, this);
            bath.warm(taken);
            time += this;
            steps += 1;
            if half_start.is_none() && mean < ms {
                half_start = Some(time);
            }
            frames.offer(&s, time);
            dt = (dt * (change / largest.max(1e-9)).clamp(0.4, 1.25))
                .clamp(STEP_S.0 / setup.refine, STEP_S.1 / setup.refine);
            // What stands out of the bath cools to the room at best.
            let sink = bath.now.max(if dry.is_empty() { f64::MIN } else { ROOM_C });
            if time >= ends - 1e-9 || high - sink < NEAR_C {
                break;
            }
        }
        bath_end = bath.now;
    }
    let energy = (s.lost, began - s.content());
    s.rest();
    let frames = frames.ending(s.frame(time));
    let mut halves = s.halves.into_iter().map(|h| Side {
        face: h.face,
        middle: h.middle,
    });
    let left = halves.next().unwrap_or_default();
    let right = halves.next().unwrap_or_else(|| left.clone());
    Ok(Quenched {
        grid: s.grid,
        sides: [left, right],
        frames,
        seconds: time,
        steps,
        bath_end_c: bath_end,
        energy_j: energy,
        half_start_s: half_start.unwrap_or(time),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::blade::{Blade, Grind};
    use crate::material::analysis::Analysis;
    use crate::simulation::physics::tests::blade;

    /// Austenite that never turns into anything.
    fn inert() -> Kinetics {
        let stable = Analysis {
            carbon: 0.8,
            nickel: 40.0,
            ..Analysis::default()
        };
        Kinetics::new(&stable, -200.0, 9.0, -500.0)
    }

    fn plate(mm: f64) -> Form {
        Form::from_blade(&Blade {
            grind: Grind::None,
            spine_mm: mm,
            edge_mm: mm,
            ..blade()
        })
    }

    /// Mean temperature of a plate above its bath, as a share of the start: the series solution of the
    /// heat equation (Carslaw and Jaeger 1959, 3.11), with the roots of λ·tan λ = Bi by bisection.
    fn series(biot: f64, fourier: f64) -> f64 {
        (0..6)
            .map(|n| {
                let from = f64::from(n) * std::f64::consts::PI;
                let (mut low, mut high) = (from + 1e-9, from + std::f64::consts::FRAC_PI_2 - 1e-9);
                for _ in 0..80 {
                    let l = 0.5 * (low + high);
                    if l * l.tan() < biot {
                        low = l;
                    } else {
                        high = l;
                    }
                }
                let l = 0.5 * (low + high);
                let weight = 2.0 * biot * biot / (l * l * (biot * biot + biot + l * l));
                weight * (-l * l * fourier).exp()
            })
            .sum()
    }

    #[rstest::rstest]
    #[case(4.0, 500.0)]
    #[case(5.0, 2000.0)]
    #[case(3.0, 4000.0)]
    fn a_plate_cools_as_the_series_solution_says(#[case] mm: f64, #[case] h: f64) {
        let (form, clay, kinetics) = (plate(mm), Clay::default(), inert());
        let stages = [Stage::until_cold(Medium::FastOil)];
        let setup = Setup {
            refine: 4.0,
            ..Setup::usual(&form, &clay, &kinetics, Celsius::clamped(1100.0), &stages)
        };
        let mut s = Simulation::new(setup);
        // Between 1100 and 700 °C the specific heat is constant.
        let bath = Bath {
            film: Film::constant(h),
            now: 700.0,
            capacity: None,
            stage: stages[0],
        };
        let cell = s.cells[s.cells.len() / 2];
        let half = 0.5e-3 * mm;
        let diffusivity = CONDUCTIVITY / (DENSITY * specific_heat(900.0));
        let dt = 0.004;
        for n in 1..=600_u32 {
            s.step(&bath, &Film::constant(1.0), &[], dt);
            let time = dt * f64::from(n);
            let exact = series(h * half / CONDUCTIVITY, diffusivity * time / (half * half));
            let got = (s.halves[0].t[cell] - 700.0) / 400.0;
            assert!((got - exact).abs() < 0.01, "{time} s: {got} not {exact}");
        }
    }

    #[test]
    fn a_bath_warms_by_what_the_blade_lost() {
        let stage = Stage {
            litres: Some(crate::quantity::units::Litres::clamped(2.0)),
            ..Stage::until_cold(Medium::FastOil)
        };
        let (form, clay) = (plate(5.0), Clay::default());
        let kinetics = inert();
        let start = Celsius::clamped(815.0);
        let stages = [stage];
        let q = quench(Setup::usual(&form, &clay, &kinetics, start, &stages), None).unwrap();
        let expected = 50.0 + q.energy_j.0 / (2.0 * 1750.0);
        assert!(
            (q.bath_end_c - expected).abs() < 0.5,
            "{} {expected}",
            q.bath_end_c
        );
        assert!(q.bath_end_c > 65.0);
    }

    #[test]
    fn a_simulation_stops_when_told_to() {
        let (form, clay, kinetics) = (plate(4.0), Clay::default(), inert());
        let stages = [Stage::until_cold(Medium::Water)];
        let setup = Setup::usual(&form, &clay, &kinetics, Celsius::clamped(800.0), &stages);
        let stop = AtomicBool::new(true);
        assert_eq!(quench(setup, Some(&stop)).unwrap_err(), Stopped);
    }

    #[test]
    fn only_what_is_in_the_medium_cools_fast() {
        let (form, clay, kinetics) = (plate(4.0), Clay::default(), inert());
        let depth = |mm| Stage {
            edge_depth_mm: Some(crate::quantity::units::Millimetres::clamped(mm)),
            ..Stage::until_cold(Medium::Water)
        };
        let stages = [
            Stage {
                for_s: Some(crate::quantity::units::Seconds::clamped(3.0)),
                ..depth(10.0)
            },
            Stage::until_cold(Medium::StillAir),
        ];
        let setup = Setup::usual(&form, &clay, &kinetics, Celsius::clamped(800.0), &stages);
        let q = quench(setup, None).unwrap();
        let frame = q.frames.iter().find(|f| f.time_s > 2.5).unwrap();
        let at = |y: f64| frame.temperature_c[q.cell_at(90.0, y).unwrap()];
        assert!(
            at(3.0) < 400.0 && at(27.0) > 600.0,
            "{} {}",
            at(3.0),
            at(27.0)
        );
    }
}
