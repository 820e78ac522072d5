//! How a quench bends a blade: edge to spine (sori) and sideways.
//!
//! At stations along the blade the section is a bundle of fibres that stay plane: strain
//! `e + ky·y + kz·z`. Heat and transformation change each fibre's own length; what the plane does not
//! allow becomes stress, beyond the yield stress it becomes lasting strain, and while a fibre
//! transforms even small stress leaves a strain (transformation plasticity, Greenwood and Johnson
//! 1965). Axial force and both moments are zero at every moment. Strains by phase as for low-alloy
//! steel (volume changes after Thelning 1984, "Steel and its Heat Treatment").

use crate::geometry::form::Grid;
use crate::simulation::transformation::Phases;

/// Distance between stations, mm.
const STATION_MM: f64 = 8.0;
/// Thermal expansion of austenite, pearlite and martensite, 1/K.
const EXPANSION: [f64; 3] = [22e-6, 14.5e-6, 12e-6];
/// Strain left by a stress while all of a fibre transforms, 1/Pa: martensite and pearlite.
const TRANSFORMATION_PLASTICITY: [f64; 2] = [6e-11, 8e-11];
/// Share of the elastic stiffness that a yielding fibre keeps.
const HARDENING: f64 = 0.03;
/// Times the plane is sought again after fibres yield.
const ROUNDS: usize = 40;

/// The bend of a blade.
#[derive(Debug, Clone, PartialEq)]
pub struct Bend {
    /// Sag of the edge–spine curve, mm: positive when the edge is convex (spine-in).
    pub sori_mm: f64,
    /// Sag sideways, mm: positive when the left face is convex.
    pub side_mm: f64,
    /// Curvature of each station: x (mm), towards the spine and sideways (1/m).
    pub stations: Vec<(f64, f64, f64)>,
}

struct Fibre {
    cell: usize,
    half: usize,
    /// From the middle of the section, m.
    y: f64,
    z: f64,
    area: f64,
    /// Lasting strain.
    plastic: f64,
    stress: f64,
    soft: f64,
    martensite: f64,
}

struct Station {
    x_mm: f64,
    fibres: Vec<Fibre>,
    /// Each fibre left to itself, as of now.
    free: Vec<Free>,
    plane: [f64; 3],
}

/// The fibre bundles of all stations.
pub(crate) struct Beams {
    stations: Vec<Station>,
    /// Strain of pearlite and martensite against austenite at 20 °C.
    swelling: [f64; 2],
    sideways: bool,
}

/// Young's modulus, Pa.
fn stiffness(t: f64) -> f64 {
    (210.0 - 0.125 * (t - 20.0)).clamp(60.0, 215.0) * 1e9
}

/// Yield stress of a mixture, Pa: soft when austenite, hard when martensite, weak when hot.
fn yield_stress(t: f64, p: &Phases) -> f64 {
    let line = |cold: f64, hot: f64, at: f64| {
        cold + (hot - cold) * ((t - 20.0) / (at - 20.0)).clamp(0.0, 1.0)
    };
    let austenite = line(220.0, 45.0, 850.0);
    let pearlite = line(650.0, 70.0, 750.0);
    let martensite = line(1700.0, 900.0, 400.0);
    1e6 * (p.austenite * austenite
        + (p.pearlite + p.bainite) * pearlite
        + p.martensite * martensite)
}

impl Beams {
    pub(crate) fn new(grid: &Grid, halves: usize, carbon: f64) -> Self {
        let every = (STATION_MM / grid.step_mm).round().max(1.0) as usize;
        let stations = (0..grid.columns)
            .filter(|i| grid.x_mm(*i) >= 0.0)
            .step_by(every)
            .filter_map(|i| Station::new(grid, i, halves))
            .collect();
        let c = carbon.clamp(0.0, 1.2);
        Self {
            stations,
            swelling: [(4.64 - 2.21 * c) / 300.0, (4.64 - 0.53 * c) / 300.0],
            sideways: halves == 2,
        }
    }

    /// Takes every station to the temperatures (°C) and phases of now, given by half of the blade and cell.
    pub(crate) fn follow(&mut self, now: impl Fn(usize, usize) -> (f64, Phases)) {
        for station in &mut self.stations {
            station.follow(&now, self.swelling, self.sideways);
        }
    }

    /// The bend once cold.
    pub(crate) fn finish(self, grid: &Grid) -> Bend {
        let stations: Vec<(f64, f64, f64)> = self
            .stations
            .iter()
            .map(|s| (s.x_mm, -s.plane[1], s.plane[2]))
            .collect();
        let step = STATION_MM.max(grid.step_mm) * 1e-3;
        let sag = |side: fn(&(f64, f64, f64)) -> f64| sag_mm(stations.iter().map(side), step);
        Bend {
            sori_mm: sag(|s| s.1),
            side_mm: sag(|s| s.2),
            stations,
        }
    }
}

/// Largest distance of a curve from the chord between its ends, mm, with its sign, from curvatures
/// (1/m) at even steps (m).
fn sag_mm(curvatures: impl Iterator<Item = f64>, step: f64) -> f64 {
    let (mut slope, mut height) = (0.0, 0.0);
    let mut heights = vec![0.0];
    for k in curvatures {
        slope += 0.5 * k * step;
        height += slope * step;
        slope += 0.5 * k * step;
        heights.push(height);
    }
    let n = heights.len() - 1;
    // A curve that rises at both ends sags in the middle: its depth below the chord is the sag.
    heights
        .iter()
        .enumerate()
        .map(|(i, h)| 1e3 * (height * i as f64 / n as f64 - h))
        .fold(0.0, |a: f64, b| if b.abs() > a.abs() { b } else { a })
}

impl Station {
    fn new(grid: &Grid, column: usize, halves: usize) -> Option<Self> {
        let cells: Vec<usize> = (column * grid.rows..(column + 1) * grid.rows)
            .filter(|k| grid.thickness_mm[*k] > 0.0)
            .collect();
        if cells.len() < 3 {
            return None;
        }
        let area = |k: usize| 0.5 * grid.thickness_mm[k] * grid.step_mm * 1e-6;
        let total: f64 = cells.iter().map(|k| area(*k)).sum();
        let middle = cells
            .iter()
            .map(|k| area(*k) * grid.y_mm(k % grid.rows))
            .sum::<f64>()
            / total;
        let fibres = (0..halves)
            .flat_map(|half| cells.iter().map(move |cell| (half, *cell)))
            .map(|(half, cell)| Fibre {
                cell,
                half,
                y: (grid.y_mm(cell % grid.rows) - middle) * 1e-3,
                z: match (halves, half) {
                    (2, 0) => 0.25e-3 * grid.thickness_mm[cell],
                    (2, _) => -0.25e-3 * grid.thickness_mm[cell],
                    _ => 0.0,
                },
                area: area(cell),
                plastic: 0.0,
                stress: 0.0,
                soft: 0.0,
                martensite: 0.0,
            })
            .collect();
        Some(Self {
            x_mm: grid.x_mm(column),
            free: Vec::with_capacity(halves * cells.len()),
            fibres,
            plane: [0.0; 3],
        })
    }

    fn follow(
        &mut self,
        now: &impl Fn(usize, usize) -> (f64, Phases),
        swelling: [f64; 2],
        sideways: bool,
    ) {
        let mut free = std::mem::take(&mut self.free);
        free.clear();
        for fibre in &mut self.fibres {
            let (t, p) = now(fibre.half, fibre.cell);
            let soft = p.pearlite + p.bainite;
            let warm = t - 20.0;
            let own = p.austenite * EXPANSION[0] * warm
                + soft * (swelling[0] + EXPANSION[1] * warm)
                + p.martensite * (swelling[1] + EXPANSION[2] * warm);
            // Transformation plasticity: most of it early in the transformation.
            let turned = [p.martensite - fibre.martensite, soft - fibre.soft];
            let left = [1.0 - p.martensite, 1.0 - soft];
            for k in 0..2 {
                fibre.plastic += 2.0
                    * TRANSFORMATION_PLASTICITY[k]
                    * left[k]
                    * turned[k].max(0.0)
                    * fibre.stress;
            }
            (fibre.martensite, fibre.soft) = (p.martensite, soft);
            free.push(Free {
                own,
                modulus: stiffness(t),
                limit: yield_stress(t, &p),
            });
        }
        self.balance(&free, sideways);
        for (fibre, f) in self.fibres.iter_mut().zip(&free) {
            let strain = self.plane[0] + self.plane[1] * fibre.y + self.plane[2] * fibre.z;
            let elastic = strain - f.own - fibre.plastic;
            fibre.stress = f.stress(elastic).0;
            fibre.plastic += elastic - fibre.stress / f.modulus;
        }
        self.free = free;
    }

    /// Finds the plane that leaves no force and no moment. What the fibres store is convex in the
    /// plane, so Newton's method with halved steps always gets there.
    fn balance(&mut self, free: &[Free], sideways: bool) {
        let mut here = self.response(self.plane, free);
        for _ in 0..ROUNDS {
            let Response { energy, force, k } = here;
            let change = if sideways {
                solve3(k, force)
            } else {
                let det = k[0][0] * k[1][1] - k[0][1] * k[1][0];
                [
                    (force[0] * k[1][1] - force[1] * k[0][1]) / det,
                    (force[1] * k[0][0] - force[0] * k[1][0]) / det,
                    0.0,
                ]
            };
            let promise: f64 = (0..3).map(|i| force[i] * change[i]).sum();
            if !promise.is_finite() || promise <= 1e-9 * (1.0 + energy.abs()) {
                return;
            }
            let mut share = 1.0;
            loop {
                let plane = [0, 1, 2].map(|i| self.plane[i] - share * change[i]);
                let there = self.response(plane, free);
                if there.energy <= energy - 1e-4 * share * promise {
                    (self.plane, here) = (plane, there);
                    break;
                }
                share *= 0.5;
                if share < 1e-3 {
                    return;
                }
            }
        }
    }

    /// Stored energy, force and moments, and their slopes at a plane.
    fn response(&self, plane: [f64; 3], free: &[Free]) -> Response {
        let mut r = Response {
            energy: 0.0,
            force: [0.0; 3],
            k: [[0.0; 3]; 3],
        };
        for (fibre, f) in self.fibres.iter().zip(free) {
            let arm = [1.0, fibre.y, fibre.z];
            let strain = plane[0] + plane[1] * fibre.y + plane[2] * fibre.z;
            let elastic = strain - f.own - fibre.plastic;
            let (stress, tangent, energy) = f.stress(elastic);
            r.energy += fibre.area * energy;
            for i in 0..3 {
                r.force[i] += fibre.area * stress * arm[i];
                for j in 0..3 {
                    r.k[i][j] += fibre.area * tangent * arm[i] * arm[j];
                }
            }
        }
        r
    }
}

/// A fibre left to itself: its own strain, stiffness (Pa) and yield stress (Pa).
struct Free {
    own: f64,
    modulus: f64,
    limit: f64,
}

impl Free {
    /// Stress (Pa), its slope and the energy stored (J/m³) at a strain beyond the fibre's own.
    fn stress(&self, elastic: f64) -> (f64, f64, f64) {
        let reach = self.limit / self.modulus;
        let beyond = elastic.abs() - reach;
        if beyond <= 0.0 {
            let energy = 0.5 * self.modulus * elastic * elastic;
            return (self.modulus * elastic, self.modulus, energy);
        }
        let slope = HARDENING * self.modulus;
        let stress = self.limit + slope * beyond;
        let energy = 0.5 * self.limit * reach + self.limit * beyond + 0.5 * slope * beyond * beyond;
        (stress * elastic.signum(), slope, energy)
    }
}

struct Response {
    energy: f64,
    force: [f64; 3],
    k: [[f64; 3]; 3],
}

fn determinant(m: [[f64; 3]; 3]) -> f64 {
    m[0][0] * (m[1][1] * m[2][2] - m[1][2] * m[2][1])
        - m[0][1] * (m[1][0] * m[2][2] - m[1][2] * m[2][0])
        + m[0][2] * (m[1][0] * m[2][1] - m[1][1] * m[2][0])
}

/// Solves a symmetric, positive definite 3 × 3 system.
fn solve3(k: [[f64; 3]; 3], f: [f64; 3]) -> [f64; 3] {
    let whole = determinant(k);
    [0, 1, 2].map(|column| {
        let mut m = k;
        for (row, value) in m.iter_mut().zip(f) {
            row[column] = value;
        }
        determinant(m) / whole
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_even_curve_has_the_sag_of_a_circle() {
        // 1 m radius over 200 mm: L²/8R = 5 mm.
        let got = sag_mm(std::iter::repeat_n(1.0, 200), 1e-3);
        assert!((got.abs() - 5.0).abs() < 0.01, "{got}");
        assert_eq!(sag_mm(std::iter::repeat_n(0.0, 50), 1e-3), 0.0);
    }

    #[test]
    fn three_equations_are_solved() {
        let k = [[4.0, 1.0, 0.5], [1.0, 3.0, 0.2], [0.5, 0.2, 2.0]];
        let x = [1.0, -2.0, 3.0];
        let f = [0, 1, 2].map(|i| (0..3).map(|j| k[i][j] * x[j]).sum());
        for (got, wanted) in solve3(k, f).into_iter().zip(x) {
            assert!((got - wanted).abs() < 1e-12);
        }
    }
}
