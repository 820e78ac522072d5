//! A blade in full: its outline, how thick it is everywhere, and the grid it is computed on.

use crate::geometry::blade::Blade;
use crate::geometry::outline::Outline;
use crate::quantity::validation::{Checker, Faults, Unit};
use serde::{Deserialize, Serialize};

/// How high the bevels reach on the two faces at one place, mm above the edge.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Bevel {
    /// From the heel, −1500 to 1500 mm.
    pub x_mm: f64,
    /// On the left face, seen from above with the tip ahead, 1 to 300 mm.
    pub left_mm: f64,
    /// On the right face, 1 to 300 mm.
    pub right_mm: f64,
}

/// Thickness at one place along the blade, mm.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Thickness {
    /// From the heel, −1500 to 1500 mm.
    pub x_mm: f64,
    /// At the spine, 0.3 to 25 mm.
    pub spine_mm: f64,
    /// At the edge, 0.05 mm up to the spine.
    pub edge_mm: f64,
}

/// Most places where thickness may be given.
pub const MAX_TAPER: usize = 60;

/// Outline and thickness of a blade.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Form {
    blade: Blade,
    outline: Outline,
    taper: Vec<Thickness>,
    bevels: Vec<Bevel>,
}

/// Between which of `places` (in order) `x` lies, and how far along: (before, after, 0 to 1).
fn between<T: Copy>(places: &[T], x: f64, at: impl Fn(&T) -> f64) -> Option<(T, T, f64)> {
    let (first, last) = (places.first()?, places.last()?);
    if x <= at(first) {
        return Some((*first, *first, 0.0));
    }
    if x >= at(last) {
        return Some((*last, *last, 0.0));
    }
    let i = places.partition_point(|p| at(p) <= x);
    let (a, b) = (places[i - 1], places[i]);
    Some((a, b, (x - at(&a)) / (at(&b) - at(&a))))
}

impl Form {
    /// The form of a preset shape, equally thick from heel to tip.
    #[must_use]
    pub fn from_blade(blade: &Blade) -> Self {
        Self {
            blade: *blade,
            outline: Outline::trusted(blade.outline()),
            taper: Vec::new(),
            bevels: Vec::new(),
        }
    }

    /// A blade with its own outline, thickness along it where it changes, and bevels that do not reach
    /// the spine or differ from side to side (linear between places).
    ///
    /// # Errors
    /// Faults at `taper[i]` and `bevels[i]`: numbers out of range, places not in order, an edge thicker
    /// than the spine.
    pub fn parse(
        blade: &Blade,
        outline: Option<Outline>,
        taper: &[Thickness],
        bevels: &[Bevel],
    ) -> Result<Self, Faults> {
        let mut c = Checker::default();
        if bevels.len() > MAX_TAPER {
            c.refuse_allowing(
                "bevels",
                "There are more places than can be held.",
                format!("0 to {MAX_TAPER}"),
            );
        }
        for (i, b) in bevels.iter().enumerate().take(MAX_TAPER) {
            let field = |name: &str| format!("bevels[{i}].{name}");
            if !(-1500.0..=1500.0).contains(&b.x_mm) {
                c.refuse_outside(
                    field("x_mm"),
                    "Out of reach.",
                    (-1500.0, 1500.0),
                    Unit::Millimetre,
                );
            }
            for (name, value) in [("left_mm", b.left_mm), ("right_mm", b.right_mm)] {
                if !(1.0..=300.0).contains(&value) {
                    let message = "A bevel of this height is not possible.";
                    c.refuse_outside(field(name), message, (1.0, 300.0), Unit::Millimetre);
                }
            }
            if i > 0 && b.x_mm <= bevels[i - 1].x_mm {
                c.refuse(field("x_mm"), "The places must run from heel to tip.");
            }
        }
        if taper.len() > MAX_TAPER {
            c.refuse_allowing(
                "taper",
                "There are more places than can be held.",
                format!("0 to {MAX_TAPER}"),
            );
        }
        for (i, t) in taper.iter().enumerate().take(MAX_TAPER) {
            let field = |name: &str| format!("taper[{i}].{name}");
            if !(-1500.0..=1500.0).contains(&t.x_mm) {
                c.refuse_outside(
                    field("x_mm"),
                    "Out of reach.",
                    (-1500.0, 1500.0),
                    Unit::Millimetre,
                );
            }
            if !(0.3..=25.0).contains(&t.spine_mm) {
                let message = "Such a spine is not possible.";
                c.refuse_outside(field("spine_mm"), message, (0.3, 25.0), Unit::Millimetre);
            }
            if !(t.edge_mm >= 0.05 && t.edge_mm <= t.spine_mm) {
                let message = "Such an edge is not possible here.";
                let range = (0.05, t.spine_mm);
                c.refuse_outside(field("edge_mm"), message, range, Unit::Millimetre);
            }
            if i > 0 && t.x_mm <= taper[i - 1].x_mm {
                c.refuse(field("x_mm"), "The places must run from heel to tip.");
            }
        }
        c.finish(Some(Self {
            blade: *blade,
            outline: outline.unwrap_or_else(|| Outline::trusted(blade.outline())),
            taper: taper.to_vec(),
            bevels: bevels.to_vec(),
        }))
    }

    /// The outline.
    #[must_use]
    pub const fn outline(&self) -> &Outline {
        &self.outline
    }

    /// The blade in its simple form.
    #[must_use]
    pub const fn blade(&self) -> &Blade {
        &self.blade
    }

    /// A piece of this blade: another outline, equally thick along it.
    #[must_use]
    pub fn cut(&self, outline: Outline, thickness: Thickness) -> Self {
        Self {
            blade: self.blade,
            outline,
            taper: vec![thickness],
            bevels: self.bevels.clone(),
        }
    }

    /// Thickness at spine and edge at `x`, mm.
    #[must_use]
    pub fn ends_mm(&self, x: f64) -> (f64, f64) {
        between(&self.taper, x, |t| t.x_mm).map_or(
            (self.blade.spine_mm, self.blade.edge_mm),
            |(a, b, part)| {
                (
                    a.spine_mm + (b.spine_mm - a.spine_mm) * part,
                    a.edge_mm + (b.edge_mm - a.edge_mm) * part,
                )
            },
        )
    }

    /// Height of the bevels on the left and right face at `x`, mm; none when they reach the spine.
    #[must_use]
    pub fn bevels_mm(&self, x: f64) -> Option<(f64, f64)> {
        let (a, b, part) = between(&self.bevels, x, |b| b.x_mm)?;
        Some((
            a.left_mm + (b.left_mm - a.left_mm) * part,
            a.right_mm + (b.right_mm - a.right_mm) * part,
        ))
    }

    /// Largest difference of the bevels from side to side, mm; none when they were not measured.
    #[must_use]
    pub fn bevels_off_mm(&self) -> Option<f64> {
        self.bevels
            .iter()
            .map(|b| (b.left_mm - b.right_mm).abs())
            .reduce(f64::max)
    }

    /// How much thicker the left half is than the right, percent of the half, on the mean: a thicker
    /// half cools as much slower.
    #[must_use]
    pub fn unevenness_percent(&self) -> f64 {
        if self.bevels.is_empty() {
            return 0.0;
        }
        let (mut sum, mut n) = (0.0, 0.0);
        for i in 0..24 {
            let x = (f64::from(i) + 0.5) / 24.0 * self.blade.length_mm;
            let Some((edge, spine)) = self.outline.section(x) else {
                continue;
            };
            for j in 0..12 {
                let share = (f64::from(j) + 0.5) / 12.0;
                let (left, right) = self.halves_mm(x, share, spine - edge);
                sum += 200.0 * (left - right) / (left + right);
                n += 1.0;
            }
        }
        if n > 0.0 { sum / n } else { 0.0 }
    }

    /// The thinnest place of the edge, mm.
    #[must_use]
    pub fn thinnest_edge_mm(&self) -> f64 {
        let along = self.taper.iter().map(|t| t.edge_mm);
        along.reduce(f64::min).unwrap_or(self.blade.edge_mm)
    }

    /// Thickness of the left and right half at `x`, at `share` of the way from edge (0) to spine (1) of
    /// a section `height` mm high, mm. The tang is a bar.
    #[must_use]
    pub fn halves_mm(&self, x: f64, share: f64, height: f64) -> (f64, f64) {
        let (spine, edge) = self.ends_mm(x);
        // A drawing blade has a tang at its far end too.
        let far = self.outline.tip_mm() > 1.05 * self.blade.length_mm;
        if x < 0.0
            || x > self.blade.length_mm.max(self.outline.tip_mm())
            || (far && x > self.blade.length_mm)
        {
            return (0.5 * spine, 0.5 * spine);
        }
        let half = |bevel: f64| {
            let up = if bevel < height {
                (share * height / bevel.max(0.1)).min(1.0)
            } else {
                share
            };
            0.5 * (edge + (spine - edge) * self.blade.grind.rise(up))
        };
        let (left, right) = self.bevels_mm(x).unwrap_or((height, height));
        (half(left), half(right))
    }

    /// Thickness there, mm.
    #[must_use]
    pub fn thickness_mm(&self, x: f64, share: f64, height: f64) -> f64 {
        let (left, right) = self.halves_mm(x, share, height);
        left + right
    }
}

/// Most cells of a grid; a finer one is coarsened.
pub const MAX_CELLS: usize = 30_000;

/// The blade on a square grid: column by column from the tang to the tip, each from edge to spine.
#[derive(Debug, Clone, PartialEq)]
pub struct Grid {
    /// Width of a cell, mm.
    pub step_mm: f64,
    /// Columns.
    pub columns: usize,
    /// Rows.
    pub rows: usize,
    /// Left border of the first column, mm.
    pub x0_mm: f64,
    /// Lower border of the first row, mm.
    pub y0_mm: f64,
    /// Thickness of each cell, mm; zero outside the blade. Column by column.
    pub thickness_mm: Vec<f64>,
    /// Heights of edge and spine of each column, mm; None where there is no blade.
    pub sections: Vec<Option<(f64, f64)>>,
    /// The step is wider than asked for, to keep within [`MAX_CELLS`].
    pub coarsened: bool,
}

impl Grid {
    /// Lays a grid of about `step_mm` (0.25 to 20) over a blade.
    #[must_use]
    pub fn over(form: &Form, step_mm: f64) -> Self {
        let outline = form.outline();
        let (low, high) = outline.height_mm();
        let (start, tip) = (outline.start_mm(), outline.tip_mm());
        let asked = step_mm.clamp(0.25, 20.0);
        let fits = ((tip - start) * (high - low) / MAX_CELLS as f64).sqrt();
        let step = asked.max(1.02 * fits);
        let columns = ((tip - start) / step).ceil().max(1.0) as usize;
        let rows = ((high - low) / step).ceil().max(1.0) as usize;
        let mut thickness = vec![0.0; columns * rows];
        let mut sections = Vec::with_capacity(columns);
        for i in 0..columns {
            let x = start + (i as f64 + 0.5) * step;
            let section = outline.section(x);
            if let Some((edge, spine)) = section {
                for j in 0..rows {
                    let y = low + (j as f64 + 0.5) * step;
                    if y >= edge && y <= spine {
                        let share = (y - edge) / (spine - edge);
                        thickness[i * rows + j] =
                            form.thickness_mm(x, share, spine - edge).max(0.1);
                    }
                }
            }
            sections.push(section);
        }
        Self {
            step_mm: step,
            columns,
            rows,
            x0_mm: start,
            y0_mm: low,
            thickness_mm: thickness,
            sections,
            coarsened: step > asked * 1.001,
        }
    }

    /// Steel on all cells, m³.
    #[must_use]
    pub fn volume_m3(&self) -> f64 {
        let cell = (1e-3 * self.step_mm).powi(2);
        cell * self.thickness_mm.iter().map(|t| 1e-3 * t).sum::<f64>()
    }

    /// One column of a blade at `x_mm`, between edge and spine, mm, in so many rows.
    #[must_use]
    pub fn column(x_mm: f64, (edge, spine): (f64, f64), rows: usize) -> Self {
        let step = (spine - edge) / rows as f64;
        Self {
            step_mm: step,
            columns: 1,
            rows,
            x0_mm: x_mm - 0.5 * step,
            y0_mm: edge,
            thickness_mm: vec![1.0; rows],
            sections: vec![Some((edge, spine))],
            coarsened: false,
        }
    }

    /// Centre of a column, mm.
    #[must_use]
    pub fn x_mm(&self, column: usize) -> f64 {
        self.x0_mm + (column as f64 + 0.5) * self.step_mm
    }

    /// Centre of a row, mm.
    #[must_use]
    pub fn y_mm(&self, row: usize) -> f64 {
        self.y0_mm + (row as f64 + 0.5) * self.step_mm
    }

    /// Cells of the blade.
    #[must_use]
    pub fn cells(&self) -> usize {
        self.thickness_mm.iter().filter(|t| **t > 0.0).count()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::blade::Grind;
    use crate::simulation::physics::tests::blade;
    use rstest::rstest;

    #[test]
    fn a_flat_grind_is_linear_and_the_tang_a_bar() {
        let form = Form::from_blade(&blade());
        assert!((form.thickness_mm(60.0, 0.0, 30.0) - 0.8).abs() < 1e-9);
        assert!((form.thickness_mm(60.0, 0.5, 30.0) - 2.4).abs() < 1e-9);
        assert_eq!(form.thickness_mm(-20.0, 0.1, 30.0), 4.0);
    }

    #[test]
    fn thickness_runs_linearly_between_places() {
        let at = |x_mm: f64, spine_mm: f64| Thickness {
            x_mm,
            spine_mm,
            edge_mm: 0.8,
        };
        let form = Form::parse(&blade(), None, &[at(0.0, 5.0), at(180.0, 2.0)], &[]).unwrap();
        assert!((form.thickness_mm(90.0, 1.0, 30.0) - 3.5).abs() < 1e-9);
        assert!((form.thickness_mm(500.0, 1.0, 30.0) - 2.0).abs() < 1e-9);
        let bad = [at(0.0, 5.0), at(-3.0, 30.0)];
        let faults = Form::parse(&blade(), None, &bad, &[]).unwrap_err();
        assert_eq!(faults.0.len(), 2, "{faults}");
        assert_eq!(faults.0[0].field, "taper[1].spine_mm");
    }

    #[rstest]
    #[case(1.0, false)]
    #[case(2.0, false)]
    #[case(0.25, true)]
    fn the_grid_covers_the_blade(#[case] step: f64, #[case] coarsened: bool) {
        let mut wide = blade();
        (wide.length_mm, wide.width_mm) = (280.0, 60.0);
        let form = Form::from_blade(&wide);
        let grid = Grid::over(&form, step);
        assert_eq!(grid.coarsened, coarsened);
        assert!(grid.columns * grid.rows <= MAX_CELLS);
        let area = grid.cells() as f64 * grid.step_mm.powi(2);
        let exact: f64 = (0..4000)
            .map(|i| -95.0 + (f64::from(i) + 0.5) * 0.1)
            .filter_map(|x| form.outline().section(x))
            .map(|(edge, spine)| 0.1 * (spine - edge))
            .sum();
        assert!((area / exact - 1.0).abs() < 0.03, "{area} {exact}");
    }

    #[test]
    fn a_bar_is_equally_thick() {
        let bar = Blade {
            grind: Grind::None,
            ..blade()
        };
        let grid = Grid::over(&Form::from_blade(&bar), 2.0);
        assert!(grid.thickness_mm.iter().all(|t| *t == 0.0 || *t == 4.0));
    }
}
