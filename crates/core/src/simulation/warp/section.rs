//! A section across a blade: rows from edge to spine, each between its left and its right face, in layers through
//! the thickness, with the clay on either face.

use crate::geometry::clay::Clay;
use crate::geometry::form::{Form, Grid};

/// Sections thinner than this are counted as this thick, mm.
const THINNEST_MM: f64 = 0.05;
/// Rows that clay is looked at with before they are laid out.
const FINE_ROWS: usize = 120;
/// Share of the thickest clay that a step to the next place must make to be an end of it.
const CLAY_END: f64 = 0.3;

/// How finely a section is divided.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Fineness {
    /// Rows from edge to spine.
    pub rows: usize,
    /// Layers through the whole thickness, even.
    pub layers: usize,
    /// Layers through clay.
    pub clay_layers: usize,
}

/// A section, all lengths in metres.
#[derive(Debug, Clone, PartialEq)]
pub struct Section {
    /// Borders of the rows, from the edge (0) to the spine: one more than there are rows.
    pub borders: Vec<f64>,
    /// Left face of each row: below zero, from the middle line of the blade.
    pub left: Vec<f64>,
    /// Right face of each row; zero when only the left half is computed.
    pub right: Vec<f64>,
    /// Clay on the left and right face of each row.
    pub clay: [Vec<f64>; 2],
    /// Layers of what is computed.
    pub layers: usize,
    /// Layers through clay.
    pub clay_layers: usize,
    /// Only the left half is computed: both faces are alike.
    pub half: bool,
}

/// What tells one face from the other.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Faces {
    /// Both are alike: one half stands for both.
    Alike,
    /// Both are computed.
    Apart,
}

impl Section {
    /// A section with these half thicknesses (left, right) and clays (left, right) by height above the edge, all mm,
    /// `height_mm` high; a border lies at `border_mm` when given.
    #[must_use]
    pub fn new(
        height_mm: f64,
        border_mm: Option<f64>,
        fineness: Fineness,
        faces: Faces,
        halves_mm: impl Fn(f64) -> (f64, f64),
        clay_mm: impl Fn(f64) -> (f64, f64),
    ) -> Self {
        let height_mm = height_mm.max(0.5);
        let borders_mm = borders(height_mm, border_mm, fineness.rows.max(2));
        let middles: Vec<f64> = borders_mm.windows(2).map(|w| 0.5 * (w[0] + w[1])).collect();
        let halves: Vec<(f64, f64)> = middles
            .iter()
            .map(|y| {
                let (l, r) = halves_mm(*y);
                (l.max(0.5 * THINNEST_MM), r.max(0.5 * THINNEST_MM))
            })
            .collect();
        let clays: Vec<(f64, f64)> = middles.iter().map(|y| clay_mm(*y)).collect();
        let half = faces == Faces::Alike;
        let metres = |mm: f64| 1e-3 * mm.max(0.0);
        Self {
            borders: borders_mm.iter().map(|y| 1e-3 * y).collect(),
            left: halves.iter().map(|h| -1e-3 * h.0).collect(),
            right: halves
                .iter()
                .map(|h| if half { 0.0 } else { 1e-3 * h.1 })
                .collect(),
            clay: [
                clays.iter().map(|c| metres(c.0)).collect(),
                clays.iter().map(|c| metres(c.1)).collect(),
            ],
            layers: if half {
                (fineness.layers / 2).max(1)
            } else {
                fineness.layers.max(2)
            },
            clay_layers: fineness.clay_layers.max(1),
            half,
        }
    }

    /// The section of a blade at `x_mm` from the heel; none where there is no blade. `bevels` are the heights of the
    /// bevels against what they are: one for both as they are.
    #[must_use]
    pub fn of_blade(
        form: &Form,
        clay: &Clay,
        x_mm: f64,
        fineness: Fineness,
        faces: Faces,
        bevels: [f64; 2],
    ) -> Option<Self> {
        let (edge, spine) = form.outline().section(x_mm)?;
        let height = spine - edge;
        if !(height > 0.0 && height.is_finite()) {
            return None;
        }
        let grid = Grid::column(x_mm, (edge, spine), FINE_ROWS);
        let [left, right] = clay.shielding(&grid);
        let at = |y: f64| ((y / height * FINE_ROWS as f64) as usize).min(FINE_ROWS - 1);
        Some(Self::new(
            height,
            clay_end(&left, height).or_else(|| clay_end(&right, height)),
            fineness,
            faces,
            |y| {
                let share = |times: f64| (y / (height * times)).min(1.0);
                (
                    form.halves_mm(x_mm, share(bevels[0]), height).0,
                    form.halves_mm(x_mm, share(bevels[1]), height).1,
                )
            },
            |y| (left[at(y)], right[at(y)]),
        ))
    }

    /// Rows.
    #[must_use]
    pub fn rows(&self) -> usize {
        self.left.len()
    }

    /// Cells of steel.
    #[must_use]
    pub fn cells(&self) -> usize {
        self.rows() * self.layers
    }

    /// Height and thickness of a cell of a row, m.
    #[must_use]
    pub fn cell(&self, row: usize) -> (f64, f64) {
        (
            self.borders[row + 1] - self.borders[row],
            (self.right[row] - self.left[row]) / self.layers as f64,
        )
    }

    /// Thickness of the whole blade at a row, m.
    #[must_use]
    pub fn thickness(&self, row: usize) -> f64 {
        let computed = self.right[row] - self.left[row];
        if self.half { 2.0 * computed } else { computed }
    }

    /// Second moment of the whole section against bending sideways, m⁴.
    #[must_use]
    pub fn sideways_inertia(&self) -> f64 {
        (0..self.rows())
            .map(|i| self.cell(i).0 * self.thickness(i).powi(3) / 12.0)
            .sum()
    }

    /// Area of the whole section, m².
    #[must_use]
    pub fn area(&self) -> f64 {
        (0..self.rows())
            .map(|i| self.cell(i).0 * self.thickness(i))
            .sum()
    }
}

/// Borders of rows from 0 to `height`, one of them at `at`.
fn borders(height: f64, at: Option<f64>, rows: usize) -> Vec<f64> {
    let even = |from: f64, to: f64, n: usize| {
        (0..n).map(move |i| from + (to - from) * i as f64 / n as f64)
    };
    match at {
        Some(at) if at > 0.02 * height && at < 0.98 * height => {
            let low = ((at / height * rows as f64).round() as usize).clamp(1, rows - 1);
            let mut all: Vec<f64> = even(0.0, at, low)
                .chain(even(at, height, rows - low))
                .collect();
            all.push(height);
            all
        }
        _ => even(0.0, height, rows).chain([height]).collect(),
    }
}

/// Where clay ends: the largest step of its thickness from one fine row to the next, mm above the edge.
fn clay_end(clay: &[f64], height: f64) -> Option<f64> {
    let thickest = clay.iter().copied().fold(0.0, f64::max);
    let (row, step) = clay
        .windows(2)
        .enumerate()
        .map(|(i, w)| (i + 1, (w[1] - w[0]).abs()))
        .max_by(|a, b| a.1.total_cmp(&b.1))?;
    (step > CLAY_END * thickest && thickest > 0.0).then(|| height * row as f64 / clay.len() as f64)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::physics::tests::blade;

    const COARSE: Fineness = Fineness {
        rows: 10,
        layers: 4,
        clay_layers: 2,
    };

    #[test]
    fn a_border_lies_where_the_clay_ends() {
        let form = Form::from_blade(&blade());
        let clay = Clay::band(11.0, 3.0);
        let s = Section::of_blade(&form, &clay, 80.0, COARSE, Faces::Apart, [1.0; 2]).unwrap();
        let nearest = s.borders.iter().map(|b| (b - 11e-3).abs());
        assert!(nearest.fold(f64::MAX, f64::min) < 0.3e-3, "{:?}", s.borders);
        assert!(s.borders.windows(2).all(|w| w[1] > w[0]));
        assert_eq!(s.clay[0][0], 0.0);
        assert_eq!(s.clay[1][9], 3e-3);
    }

    #[test]
    fn half_and_whole_are_the_same_section() {
        let form = Form::from_blade(&blade());
        let of = |faces| {
            let clay = Clay::default();
            Section::of_blade(&form, &clay, 80.0, COARSE, faces, [1.0; 2]).unwrap()
        };
        let (half, whole) = (of(Faces::Alike), of(Faces::Apart));
        assert!((half.area() - whole.area()).abs() < 1e-15);
        assert!((half.sideways_inertia() - whole.sideways_inertia()).abs() < 1e-20);
        assert_eq!(2 * half.cells(), whole.cells());
        // The area of the wedge of the form itself.
        let b = blade();
        let wedge = 0.5e-6 * (b.spine_mm + b.edge_mm) * 30.0;
        assert!(
            (whole.area() / wedge - 1.0).abs() < 0.12,
            "{}",
            whole.area()
        );
    }

    #[test]
    fn beside_the_blade_there_is_no_section() {
        let form = Form::from_blade(&blade());
        let at = |x| {
            let clay = Clay::default();
            Section::of_blade(&form, &clay, x, COARSE, Faces::Alike, [1.0; 2])
        };
        assert!(at(4000.0).is_none() && at(-4000.0).is_none() && at(60.0).is_some());
    }
}
