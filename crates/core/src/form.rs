//! A blade in full: its outline, how thick it is everywhere, and the grid it is computed on.

use crate::blade::Blade;
use crate::fault::{Checker, Faults};
use crate::outline::Outline;
use serde::{Deserialize, Serialize};

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
#[derive(Debug, Clone, PartialEq)]
pub struct Form {
    blade: Blade,
    outline: Outline,
    taper: Vec<Thickness>,
}

impl Form {
    /// The form of a preset shape, equally thick from heel to tip.
    #[must_use]
    pub fn of(blade: &Blade) -> Self {
        Self {
            blade: *blade,
            outline: Outline::trusted(blade.outline()),
            taper: Vec::new(),
        }
    }

    /// A blade with its own outline, and thickness along it where it changes (linear between places).
    ///
    /// # Errors
    /// Faults at `taper[i]`: numbers out of range, places not in order, an edge thicker than the spine.
    pub fn parse(
        blade: &Blade,
        outline: Option<Outline>,
        taper: &[Thickness],
    ) -> Result<Self, Faults> {
        let mut c = Checker::default();
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
                c.refuse_allowing(field("x_mm"), "Out of reach.", "-1500 to 1500 mm");
            }
            if !(0.3..=25.0).contains(&t.spine_mm) {
                c.refuse_allowing(
                    field("spine_mm"),
                    format!("A spine of {} mm is not possible.", t.spine_mm),
                    "0.3 to 25 mm",
                );
            }
            if !(t.edge_mm >= 0.05 && t.edge_mm <= t.spine_mm) {
                c.refuse_allowing(
                    field("edge_mm"),
                    format!("An edge of {} mm is not possible here.", t.edge_mm),
                    format!("0.05 to {} mm", t.spine_mm),
                );
            }
            if i > 0 && t.x_mm <= taper[i - 1].x_mm {
                c.refuse(field("x_mm"), "The places must run from heel to tip.");
            }
        }
        c.finish(Some(Self {
            blade: *blade,
            outline: outline.unwrap_or_else(|| Outline::trusted(blade.outline())),
            taper: taper.to_vec(),
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
        }
    }

    /// Thickness at spine and edge at `x`, mm.
    #[must_use]
    pub fn ends_mm(&self, x: f64) -> (f64, f64) {
        let (Some(first), Some(last)) = (self.taper.first(), self.taper.last()) else {
            return (self.blade.spine_mm, self.blade.edge_mm);
        };
        if x <= first.x_mm {
            return (first.spine_mm, first.edge_mm);
        }
        if x >= last.x_mm {
            return (last.spine_mm, last.edge_mm);
        }
        let i = self.taper.partition_point(|t| t.x_mm <= x);
        let (a, b) = (self.taper[i - 1], self.taper[i]);
        let part = (x - a.x_mm) / (b.x_mm - a.x_mm);
        (
            a.spine_mm + (b.spine_mm - a.spine_mm) * part,
            a.edge_mm + (b.edge_mm - a.edge_mm) * part,
        )
    }

    /// Thickness at `x`, at `share` of the way from edge (0) to spine (1), mm. The tang is a bar.
    #[must_use]
    pub fn thickness_mm(&self, x: f64, share: f64) -> f64 {
        let (spine, edge) = self.ends_mm(x);
        if x < 0.0 || x > self.blade.length_mm.max(self.outline.tip_mm()) {
            return spine;
        }
        // A drawing blade has a tang at its far end too.
        if x > self.blade.length_mm && self.outline.tip_mm() > 1.05 * self.blade.length_mm {
            return spine;
        }
        edge + (spine - edge) * self.blade.grind.rise(share)
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
                        thickness[i * rows + j] = form.thickness_mm(x, share).max(0.1);
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
    use crate::blade::Grind;
    use crate::physics::tests::blade;
    use rstest::rstest;

    #[test]
    fn a_flat_grind_is_linear_and_the_tang_a_bar() {
        let form = Form::of(&blade());
        assert!((form.thickness_mm(60.0, 0.0) - 0.8).abs() < 1e-9);
        assert!((form.thickness_mm(60.0, 0.5) - 2.4).abs() < 1e-9);
        assert_eq!(form.thickness_mm(-20.0, 0.1), 4.0);
    }

    #[test]
    fn thickness_runs_linearly_between_places() {
        let at = |x_mm: f64, spine_mm: f64| Thickness {
            x_mm,
            spine_mm,
            edge_mm: 0.8,
        };
        let form = Form::parse(&blade(), None, &[at(0.0, 5.0), at(180.0, 2.0)]).unwrap();
        assert!((form.thickness_mm(90.0, 1.0) - 3.5).abs() < 1e-9);
        assert!((form.thickness_mm(500.0, 1.0) - 2.0).abs() < 1e-9);
        let bad = [at(0.0, 5.0), at(-3.0, 30.0)];
        let faults = Form::parse(&blade(), None, &bad).unwrap_err();
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
        let form = Form::of(&wide);
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
        let grid = Grid::over(&Form::of(&bar), 2.0);
        assert!(grid.thickness_mm.iter().all(|t| *t == 0.0 || *t == 4.0));
    }
}
