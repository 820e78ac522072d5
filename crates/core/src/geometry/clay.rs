//! Clay on a blade: how thick on each face, mm, as painted.

use crate::geometry::form::{Form, Grid};
use crate::material::clay_mix::ClayMix;
use crate::quantity::validation::{Checker, Faults, Unit};
use serde::{Deserialize, Serialize};

/// Thin clay dries in an oven at this, °C.
pub const DRY_C: f64 = 200.0;
/// And needs at least this long there, s.
pub const DRY_S: f64 = 3600.0;
/// Thickest clay, mm.
pub const MAX_MM: f64 = 10.0;
/// Most strokes on one face.
pub const MAX_STROKES: usize = 400;
/// Most points of one stroke.
pub const MAX_POINTS: usize = 200;
/// Most cells of a painted grid.
pub const MAX_CELLS: usize = 20_000;

/// One stroke of a brush. A later stroke replaces what lies under it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Stroke {
    /// Where the middle of the brush went, [x, y] mm, 1 to 200 points.
    pub points: Vec<[f64; 2]>,
    /// Width of the brush, 1 to 100 mm.
    pub width_mm: f64,
    /// Thickness it leaves, 0 (wiped off) to 10 mm.
    pub thickness_mm: f64,
}

/// Clay from a height above the edge up to the spine.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Band {
    /// Where it begins above the edge, 0 to 300 mm.
    pub from_edge_mm: f64,
    /// Thickness, 0 to 10 mm.
    pub thickness_mm: f64,
}

/// Clay by square cells.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Painted {
    /// Left border of the first column, mm.
    pub x0_mm: f64,
    /// Lower border of the first row, mm.
    pub y0_mm: f64,
    /// Width of a cell, 0.5 to 50 mm.
    pub step_mm: f64,
    /// Thickness of each cell, column by column, each from low to high, 0 to 10 mm.
    pub thickness_mm: Vec<Vec<f64>>,
}

/// Clay on one face: first the grid, then the band, then the strokes in order. A plain list is taken
/// as strokes.
#[derive(Debug, Clone, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Face {
    /// Cells.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub grid: Option<Painted>,
    /// From a height above the edge to the spine.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub band: Option<Band>,
    /// Strokes, at most 400.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub strokes: Vec<Stroke>,
}

impl<'de> Deserialize<'de> for Face {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        deserializer.deserialize_any(FaceVisitor)
    }
}

struct FaceVisitor;

/// A face written out in full.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FaceFields {
    grid: Option<Painted>,
    band: Option<Band>,
    #[serde(default)]
    strokes: Vec<Stroke>,
}

impl<'de> serde::de::Visitor<'de> for FaceVisitor {
    type Value = Face;

    fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("a list of strokes, or an object with grid, band or strokes")
    }

    fn visit_seq<A: serde::de::SeqAccess<'de>>(self, mut seq: A) -> Result<Face, A::Error> {
        let mut strokes = Vec::new();
        while let Some(stroke) = seq.next_element()? {
            strokes.push(stroke);
        }
        Ok(Face {
            strokes,
            ..Face::default()
        })
    }

    fn visit_map<A: serde::de::MapAccess<'de>>(self, map: A) -> Result<Face, A::Error> {
        let fields = FaceFields::deserialize(serde::de::value::MapAccessDeserializer::new(map))?;
        Ok(Face {
            grid: fields.grid,
            band: fields.band,
            strokes: fields.strokes,
        })
    }
}

/// Clay on both faces, as written by a caller.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ClayDraft {
    /// The left face, seen from above with the tip ahead.
    pub left: Face,
    /// The right face; the same as the left when left out.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub right: Option<Face>,
    /// What it is mixed of.
    pub mix: ClayMix,
}

/// Clay whose numbers were checked.
#[derive(Debug, Clone, Default, PartialEq, Serialize)]
pub struct Clay {
    left: Face,
    right: Option<Face>,
    mix: ClayMix,
}

fn check_number(c: &mut Checker, field: String, what: &str, value: f64, (low, high): (f64, f64)) {
    if !(value >= low && value <= high) {
        let message = format!("Such a {what} is not possible.");
        c.refuse_outside(field, message, (low, high), Unit::Millimetre);
    }
}

impl Face {
    fn check(&self, c: &mut Checker, at: &str) {
        const REACH: (f64, f64) = (-1500.0, 1500.0);
        if let Some(grid) = &self.grid {
            let cells: usize = grid.thickness_mm.iter().map(Vec::len).sum();
            if cells == 0 || cells > MAX_CELLS {
                c.refuse_allowing(
                    format!("{at}.grid.thickness_mm"),
                    format!("{cells} cells cannot be painted."),
                    format!("1 to {MAX_CELLS} cells"),
                );
            }
            let f = |name: &str| format!("{at}.grid.{name}");
            check_number(c, f("step_mm"), "cell", grid.step_mm, (0.5, 50.0));
            check_number(c, f("x0_mm"), "place", grid.x0_mm, REACH);
            check_number(c, f("y0_mm"), "place", grid.y0_mm, REACH);
            let worst = grid
                .thickness_mm
                .iter()
                .flatten()
                .find(|t| !(0.0..=MAX_MM).contains(*t));
            if let Some(t) = worst {
                check_number(c, f("thickness_mm"), "Clay", *t, (0.0, MAX_MM));
            }
        }
        if let Some(band) = &self.band {
            let f = |name: &str| format!("{at}.band.{name}");
            check_number(
                c,
                f("from_edge_mm"),
                "height",
                band.from_edge_mm,
                (0.0, 300.0),
            );
            check_number(
                c,
                f("thickness_mm"),
                "Clay",
                band.thickness_mm,
                (0.0, MAX_MM),
            );
        }
        if self.strokes.len() > MAX_STROKES {
            c.refuse_allowing(
                format!("{at}.strokes"),
                "There are more strokes than can be held.",
                format!("0 to {MAX_STROKES}"),
            );
        }
        for (i, stroke) in self.strokes.iter().enumerate().take(MAX_STROKES) {
            let f = |name: &str| format!("{at}.strokes[{i}].{name}");
            check_number(c, f("width_mm"), "brush", stroke.width_mm, (1.0, 100.0));
            check_number(
                c,
                f("thickness_mm"),
                "Clay",
                stroke.thickness_mm,
                (0.0, MAX_MM),
            );
            if stroke.points.is_empty() || stroke.points.len() > MAX_POINTS {
                c.refuse_allowing(
                    f("points"),
                    "A stroke goes from somewhere to somewhere.",
                    format!("1 to {MAX_POINTS} points"),
                );
            }
            if !stroke.points.iter().flatten().all(|v| v.abs() <= 1500.0) {
                c.refuse_outside(
                    f("points"),
                    "Out of reach.",
                    (-1500.0, 1500.0),
                    Unit::Millimetre,
                );
            }
        }
    }

    /// Clay where no stroke went, mm.
    fn under_strokes(&self, x: f64, y: f64, above_edge: f64) -> f64 {
        if let Some(band) = self.band.filter(|b| above_edge >= b.from_edge_mm) {
            return band.thickness_mm;
        }
        self.grid.as_ref().map_or(0.0, |g| {
            let (i, j) = ((x - g.x0_mm) / g.step_mm, (y - g.y0_mm) / g.step_mm);
            if i < 0.0 || j < 0.0 {
                return 0.0;
            }
            let column = g.thickness_mm.get(i as usize);
            column
                .and_then(|c| c.get(j as usize))
                .copied()
                .unwrap_or(0.0)
        })
    }

    fn is_bare(&self) -> bool {
        self.grid.is_none() && self.band.is_none() && self.strokes.is_empty()
    }
}

impl Stroke {
    /// Distance of a spot from the path of the brush, mm.
    fn distance(&self, x: f64, y: f64) -> f64 {
        let to_segment = |a: [f64; 2], b: [f64; 2]| {
            let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
            let long = dx * dx + dy * dy;
            let t = if long > 0.0 {
                (((x - a[0]) * dx + (y - a[1]) * dy) / long).clamp(0.0, 1.0)
            } else {
                0.0
            };
            (x - a[0] - t * dx).hypot(y - a[1] - t * dy)
        };
        match self.points.as_slice() {
            [] => f64::INFINITY,
            [only] => to_segment(*only, *only),
            many => many
                .windows(2)
                .map(|w| to_segment(w[0], w[1]))
                .fold(f64::INFINITY, f64::min),
        }
    }
}

impl Clay {
    /// Checks a draft.
    ///
    /// # Errors
    /// Faults such as `left.strokes[0].thickness_mm`.
    pub fn parse(draft: &ClayDraft) -> Result<Self, Faults> {
        let mut c = Checker::default();
        draft.left.check(&mut c, "left");
        if let Some(right) = &draft.right {
            right.check(&mut c, "right");
        }
        c.finish(Some(Self {
            left: draft.left.clone(),
            right: draft.right.clone(),
            mix: draft.mix,
        }))
    }

    /// The same clay on both faces: from a height above the edge up to the spine.
    #[must_use]
    pub fn band(from_edge_mm: f64, thickness_mm: f64) -> Self {
        Self {
            left: Face {
                band: Some(Band {
                    from_edge_mm: from_edge_mm.clamp(0.0, 300.0),
                    thickness_mm: thickness_mm.clamp(0.0, MAX_MM),
                }),
                ..Face::default()
            },
            right: None,
            mix: ClayMix::default(),
        }
    }

    /// The same clay on both faces, above a border given as height above the edge by x (mm; in order).
    #[must_use]
    pub fn above(form: &Form, border: &[(f64, f64)], thickness_mm: f64) -> Self {
        let outline = form.outline();
        let (low, high) = outline.height_mm();
        let (x0, step) = (outline.start_mm(), 2.0);
        let columns = ((outline.tip_mm() - x0) / step).ceil().max(1.0) as usize;
        let rows = ((high - low) / step).ceil().max(1.0) as usize;
        let thickness = thickness_mm.clamp(0.0, MAX_MM);
        let height = |x: f64| {
            let i = border.partition_point(|b| b.0 <= x);
            match (border.get(i.wrapping_sub(1)), border.get(i)) {
                (Some(a), Some(b)) => a.1 + (b.1 - a.1) * (x - a.0) / (b.0 - a.0),
                (Some(only), None) | (None, Some(only)) => only.1,
                (None, None) => f64::INFINITY,
            }
        };
        let cells = (0..columns)
            .map(|i| {
                let x = x0 + (i as f64 + 0.5) * step;
                let edge = outline.section(x).map_or(low, |s| s.0);
                (0..rows)
                    .map(|j| {
                        let y = low + (j as f64 + 0.5) * step;
                        if y - edge >= height(x) {
                            thickness
                        } else {
                            0.0
                        }
                    })
                    .collect()
            })
            .collect();
        Self {
            left: Face {
                grid: Some(Painted {
                    x0_mm: x0,
                    y0_mm: low,
                    step_mm: step,
                    thickness_mm: cells,
                }),
                ..Face::default()
            },
            right: None,
            mix: ClayMix::default(),
        }
    }

    /// The same layout, mixed otherwise.
    #[must_use]
    pub const fn of_mix(mut self, mix: ClayMix) -> Self {
        self.mix = mix;
        self
    }

    /// What it is mixed of.
    #[must_use]
    pub const fn mix(&self) -> ClayMix {
        self.mix
    }

    /// The clay as a caller would write it.
    #[must_use]
    pub fn draft(&self) -> ClayDraft {
        ClayDraft {
            left: self.left.clone(),
            right: self.right.clone(),
            mix: self.mix,
        }
    }

    /// No clay anywhere.
    #[must_use]
    pub fn is_bare(&self) -> bool {
        self.left.is_bare() && self.right.as_ref().is_none_or(Face::is_bare)
    }

    /// Both faces carry the same clay.
    #[must_use]
    pub fn is_even(&self) -> bool {
        self.right.as_ref().is_none_or(|right| *right == self.left)
    }

    /// Clay at a place (mm; `above_edge` of it above the edge), the thicker of both faces, mm.
    #[must_use]
    pub fn thickest_at(&self, x: f64, y: f64, above_edge: f64) -> f64 {
        let on = |face: &Face| Laid::new(face).thickness_at(x, y, above_edge);
        on(&self.left).max(self.right.as_ref().map_or(0.0, on))
    }

    /// Thickness on each cell of a grid, mm: left and right, each the mean over the cell.
    #[must_use]
    pub fn on(&self, grid: &Grid) -> [Vec<f64>; 2] {
        self.sampled(grid, &|samples| {
            samples.iter().map(|s| s.weight * s.clay_mm).sum::<f64>()
        })
    }

    /// Even clay on each cell that keeps as much heat in as the clay that is there, mm: left and right. A leg that
    /// covers a part of a cell lets the rest cool bare. Where a grid is one cell wide, what lies beside it counts as
    /// far as heat flows there: [`BESIDE_MM`].
    #[must_use]
    pub fn shielding(&self, grid: &Grid) -> [Vec<f64>; 2] {
        let bare = FACE_W_PER_M2K;
        let conductivity = self.mix.conductivity();
        self.sampled(grid, &|samples| {
            let through = samples
                .iter()
                .map(|s| s.weight / (1.0 / bare + 1e-3 * s.clay_mm / conductivity));
            let mm = 1e3 * conductivity * (1.0 / through.sum::<f64>() - 1.0 / bare);
            mm.max(0.0)
        })
    }

    fn sampled(&self, grid: &Grid, of: &dyn Fn(&[Sample]) -> f64) -> [Vec<f64>; 2] {
        let paint = |face: &Face| {
            let mut cells = vec![0.0; grid.thickness_mm.len()];
            if face.is_bare() {
                return cells;
            }
            let laid = Laid::new(face);
            let across = laid.across(grid);
            let mut samples = Vec::new();
            for i in 0..grid.columns {
                let Some((edge, _)) = grid.sections[i] else {
                    continue;
                };
                for j in 0..grid.rows {
                    let k = i * grid.rows + j;
                    if grid.thickness_mm[k] > 0.0 {
                        laid.samples(grid, (i, j), edge, &across, &mut samples);
                        let first = samples[0].clay_mm;
                        let even = samples.iter().all(|s| s.clay_mm == first);
                        cells[k] = if even { first } else { of(&samples) };
                    }
                }
            }
            cells
        };
        let left = paint(&self.left);
        let right = self.right.as_ref().map_or_else(|| left.clone(), paint);
        [left, right]
    }
}

/// Heat transfer at a bare face that partly covered cells are weighed with, W/m²K: between oil and water.
const FACE_W_PER_M2K: f64 = 3000.0;
/// How far beside a strip heat still flows to it: the length √(k·t/2h) over which a plate t = 2 mm thick of
/// conductivity k evens out what its faces lose by h (Incropera and DeWitt 2007, section 3.6), mm.
pub const BESIDE_MM: f64 = 3.0;
/// Places looked at in a cell, along each of its sides.
const ALONG_A_SIDE: usize = 3;

/// Clay at one place of a cell.
struct Sample {
    clay_mm: f64,
    /// Share of the cell that it stands for; all together 1.
    weight: f64,
}

/// Clay of a face, with the reach of each stroke.
struct Laid<'a> {
    face: &'a Face,
    /// Lowest and highest x, lowest and highest y, mm.
    reach: Vec<[f64; 4]>,
}

impl<'a> Laid<'a> {
    fn new(face: &'a Face) -> Self {
        let reach = face.strokes.iter().map(|s| {
            let half = 0.5 * s.width_mm;
            let none = [
                f64::INFINITY,
                f64::NEG_INFINITY,
                f64::INFINITY,
                f64::NEG_INFINITY,
            ];
            s.points.iter().fold(none, |r, [x, y]| {
                [
                    r[0].min(x - half),
                    r[1].max(x + half),
                    r[2].min(y - half),
                    r[3].max(y + half),
                ]
            })
        });
        Self {
            reach: reach.collect(),
            face,
        }
    }

    /// Where to look along the blade around the middle of a cell, with the share of each, mm.
    fn across(&self, grid: &Grid) -> Vec<(f64, f64)> {
        if self.face.strokes.is_empty() && self.face.grid.is_none() {
            return vec![(0.0, 1.0)];
        }
        if grid.columns > 1 {
            return thirds(grid.step_mm)
                .map(|x| (x, 1.0 / ALONG_A_SIDE as f64))
                .to_vec();
        }
        let places = (-9..=9).map(f64::from);
        let sum: f64 = places.clone().map(|x| (-x.abs() / BESIDE_MM).exp()).sum();
        places
            .map(|x| (x, (-x.abs() / BESIDE_MM).exp() / sum))
            .collect()
    }

    fn samples(
        &self,
        grid: &Grid,
        (i, j): (usize, usize),
        edge: f64,
        across: &[(f64, f64)],
        into: &mut Vec<Sample>,
    ) {
        into.clear();
        let (x, y) = (grid.x_mm(i), grid.y_mm(j));
        for (dx, share) in across {
            for dy in thirds(grid.step_mm) {
                let (x, y) = (x + dx, y + dy);
                into.push(Sample {
                    clay_mm: self.thickness_at(x, y, y - edge),
                    weight: share / ALONG_A_SIDE as f64,
                });
            }
        }
    }

    fn thickness_at(&self, x: f64, y: f64, above_edge: f64) -> f64 {
        let within = |r: &[f64; 4]| x >= r[0] && x <= r[1] && y >= r[2] && y <= r[3];
        let strokes = self.face.strokes.iter().zip(&self.reach).rev();
        strokes
            .filter(|(_, r)| within(r))
            .map(|(s, _)| s)
            .find(|s| s.distance(x, y) <= 0.5 * s.width_mm)
            .map_or_else(
                || self.face.under_strokes(x, y, above_edge),
                |s| s.thickness_mm,
            )
    }
}

/// Middles of the thirds of a cell, from its middle, mm.
fn thirds(step: f64) -> [f64; ALONG_A_SIDE] {
    [-step / 3.0, 0.0, step / 3.0]
}

/// Share mixed more than is laid on: brush, board and slips.
const SPARE: f64 = 0.25;
/// Drying at 200 °C, s for each mm² of the thickest place's square: water leaves by diffusion.
const OVEN_S_PER_MM2: f64 = 600.0;
/// Drying in the air of a room, likewise.
const AIR_S_PER_MM2: f64 = 5400.0;

/// What laying it on amounts to.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Lay {
    /// Covered area of both faces together, mm².
    pub area_mm2: f64,
    /// Clay on both faces together, mm³.
    pub volume_mm3: f64,
    /// Thickest place, mm.
    pub thickest_mm: f64,
    /// Wet clay to mix, with a quarter to spare, g.
    pub mix_g: f64,
    /// Drying in an oven at 200 °C, s.
    pub dry_oven_s: f64,
    /// Drying in the air of a room, s.
    pub dry_air_s: f64,
    /// How much more clay the left face carries than the right, percent of both.
    pub left_more_percent: f64,
    /// Share of such coats that crack as they dry or let go in the bath, when dried as long as they need, 0 to 1.
    #[serde(default)]
    pub lets_go: f64,
}

/// How fast the risk that a coat lets go rises with its thickness: exponent of the odds.
const LETS_GO_EXPONENT: f64 = 3.0;
/// The same with the time it should have dried over the time it had.
const WET_EXPONENT: f64 = 1.5;

impl Lay {
    /// Share of such coats that crack or let go when dried for so long in an oven, s: steam in thick clay that is still
    /// damp lifts it off.
    #[must_use]
    pub fn lets_go_dried(&self, dried_s: f64) -> f64 {
        let odds = self.lets_go / (1.0 - self.lets_go);
        let wet = (self.dry_oven_s / dried_s.max(60.0)).max(1.0);
        let odds = odds * wet.powf(WET_EXPONENT);
        odds / (1.0 + odds)
    }
}

/// Cells that laying on is counted with where no quench says otherwise, mm.
const COUNTED_MM: f64 = 2.0;

impl Clay {
    /// How long its thickest place dries in an oven at [`DRY_C`], s; [`DRY_S`] when bare.
    #[must_use]
    pub fn dry_oven_s(&self, form: &Form) -> f64 {
        let lay = self.lay(&Grid::over(form, COUNTED_MM));
        lay.map_or(DRY_S, |l| l.dry_oven_s)
    }

    /// What laying it on amounts to, on a grid; none when bare.
    #[must_use]
    pub fn lay(&self, grid: &Grid) -> Option<Lay> {
        let cell = grid.step_mm * grid.step_mm;
        let [left, right] = self.on(grid);
        let sum = |face: &[f64]| face.iter().sum::<f64>() * cell;
        let (l, r) = (sum(&left), sum(&right));
        let volume_mm3 = l + r;
        if volume_mm3 <= 0.0 {
            return None;
        }
        let both = || left.iter().chain(&right).copied();
        let covered = both().filter(|t| *t > 0.0).count();
        let thickest_mm = both().fold(0.0, f64::max);
        let square = thickest_mm * thickest_mm;
        Some(Lay {
            area_mm2: covered as f64 * cell,
            volume_mm3,
            thickest_mm,
            mix_g: volume_mm3 * 1e-3 * self.mix.wet_g_per_cm3() * (1.0 + SPARE),
            dry_oven_s: (OVEN_S_PER_MM2 * square).clamp(DRY_S, 4.0 * DRY_S),
            dry_air_s: (AIR_S_PER_MM2 * square).clamp(8.0 * 3600.0, 48.0 * 3600.0),
            left_more_percent: 100.0 * (l - r) / volume_mm3,
            lets_go: {
                let odds = (thickest_mm / self.mix.cracks_at_mm()).powf(LETS_GO_EXPONENT);
                odds / (1.0 + odds)
            },
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::physics::tests::blade;
    use rstest::rstest;

    fn stroke(thickness_mm: f64) -> Stroke {
        Stroke {
            points: vec![[0.0, 25.0], [180.0, 25.0]],
            width_mm: 10.0,
            thickness_mm,
        }
    }

    fn face(strokes: Vec<Stroke>) -> Face {
        Face {
            strokes,
            ..Face::default()
        }
    }

    #[test]
    fn a_stroke_covers_its_width_and_a_later_one_replaces_it() {
        let mut left = face(vec![stroke(3.0)]);
        left.strokes.push(Stroke {
            points: vec![[90.0, 25.0]],
            width_mm: 8.0,
            thickness_mm: 0.0,
        });
        let clay = Clay::parse(&ClayDraft {
            left,
            ..ClayDraft::default()
        })
        .unwrap();
        let grid = Grid::over(&Form::from_blade(&blade()), 1.0);
        let [l, r] = clay.on(&grid);
        let at = |x: f64, y: f64| {
            let i = ((x - grid.x0_mm) / grid.step_mm) as usize;
            let j = ((y - grid.y0_mm) / grid.step_mm) as usize;
            l[i * grid.rows + j]
        };
        assert_eq!(
            (at(40.0, 25.0), at(40.0, 12.0), at(90.0, 25.0)),
            (3.0, 0.0, 0.0)
        );
        assert_eq!(l, r);
        assert!(clay.is_even() && !clay.is_bare());
    }

    #[test]
    fn a_band_runs_from_its_height_to_the_spine() {
        let grid = Grid::over(&Form::from_blade(&blade()), 2.0);
        let [left, _] = Clay::band(15.0, 2.0).on(&grid);
        for i in 0..grid.columns {
            for j in 0..grid.rows {
                let k = i * grid.rows + j;
                if grid.thickness_mm[k] > 0.0 {
                    let above = grid.y_mm(j) - grid.sections[i].unwrap().0;
                    // The mean over a cell of 2 mm: partly covered within a millimetre of the border.
                    if (above - 15.0).abs() > 1.0 {
                        assert_eq!(left[k], if above > 15.0 { 2.0 } else { 0.0 });
                    }
                }
            }
        }
    }

    #[test]
    fn cells_are_looked_up_and_end_where_they_end() {
        let grid = Painted {
            x0_mm: 0.0,
            y0_mm: 0.0,
            step_mm: 5.0,
            thickness_mm: vec![vec![1.0, 2.0], vec![3.0]],
        };
        let face = Face {
            grid: Some(grid),
            ..Face::default()
        };
        let laid = Laid::new(&face);
        assert_eq!(laid.thickness_at(2.0, 7.0, 7.0), 2.0);
        assert_eq!(laid.thickness_at(7.0, 2.0, 2.0), 3.0);
        assert_eq!(laid.thickness_at(7.0, 7.0, 7.0), 0.0);
        assert_eq!(laid.thickness_at(-1.0, 2.0, 2.0), 0.0);
    }

    #[test]
    fn a_face_is_a_list_of_strokes_or_an_object() {
        let text = r#"{"left":[{"points":[[0,20]],"width_mm":8,"thickness_mm":2}],
            "right":{"band":{"from_edge_mm":12,"thickness_mm":3}}}"#;
        let draft: ClayDraft = serde_json::from_str(text).unwrap();
        assert_eq!(draft.left.strokes.len(), 1);
        assert_eq!(
            draft.right.as_ref().unwrap().band.unwrap().from_edge_mm,
            12.0
        );
        let again: ClayDraft =
            serde_json::from_str(&serde_json::to_string(&draft).unwrap()).unwrap();
        assert_eq!(again, draft);
        assert!(serde_json::from_str::<ClayDraft>(r#"{"left":{"strokes":[],"wax":1}}"#).is_err());
        assert!(serde_json::from_str::<ClayDraft>(r#"{"left":7}"#).is_err());
    }

    #[rstest]
    #[case(face(vec![stroke(11.0)]), "left.strokes[0].thickness_mm")]
    #[case(face(vec![stroke(-1.0)]), "left.strokes[0].thickness_mm")]
    #[case(face(vec![Stroke { width_mm: f64::NAN, ..stroke(1.0) }]), "left.strokes[0].width_mm")]
    #[case(face(vec![Stroke { points: vec![], ..stroke(1.0) }]), "left.strokes[0].points")]
    #[case(Face { band: Some(Band { from_edge_mm: -1.0, thickness_mm: 1.0 }), ..Face::default() }, "left.band.from_edge_mm")]
    #[case(Face { grid: Some(Painted { x0_mm: 0.0, y0_mm: 0.0, step_mm: 0.1, thickness_mm: vec![vec![1.0]] }), ..Face::default() }, "left.grid.step_mm")]
    fn refused_by_field(#[case] left: Face, #[case] field: &str) {
        let faults = Clay::parse(&ClayDraft {
            left,
            ..ClayDraft::default()
        })
        .unwrap_err();
        assert_eq!(faults.0[0].field, field, "{faults}");
        assert!(faults.0[0].allowed.is_some());
    }

    #[test]
    fn a_leg_that_covers_half_of_a_cell_keeps_in_less_than_half() {
        let grid = Grid::over(&Form::from_blade(&blade()), 2.0);
        let leg = Stroke {
            points: vec![[91.0, 2.0], [91.0, 25.0]],
            width_mm: 1.0,
            thickness_mm: 2.0,
        };
        let clay = Clay::parse(&ClayDraft {
            left: face(vec![leg]),
            ..ClayDraft::default()
        })
        .unwrap();
        let cell = |faces: [Vec<f64>; 2]| {
            let i = ((91.0 - grid.x0_mm) / grid.step_mm) as usize;
            let j = ((12.0 - grid.y0_mm) / grid.step_mm) as usize;
            faces[0][i * grid.rows + j]
        };
        let (mean, shield) = (cell(clay.on(&grid)), cell(clay.shielding(&grid)));
        // A millimetre of two, seen at thirds.
        assert!((0.6..1.4).contains(&mean), "{mean}");
        assert!(shield > 0.0 && shield < 0.4 * mean, "{shield} of {mean}");
        // What covers a whole cell is what it is, of whatever it is mixed.
        let all = Clay::band(0.0, 2.0).of_mix(ClayMix::CharcoalStone);
        assert_eq!(cell(all.shielding(&grid)), 2.0);
    }

    #[test]
    fn thick_and_damp_clay_lets_go() {
        let grid = Grid::over(&Form::from_blade(&blade()), 2.0);
        let lay = |mm: f64, mix: ClayMix| Clay::band(14.0, mm).of_mix(mix).lay(&grid).unwrap();
        let usual = lay(3.0, ClayMix::RefractoryMix);
        assert!(usual.lets_go < 0.1, "{usual:?}");
        assert!(lay(3.0, ClayMix::FurnaceCement).lets_go > 2.0 * usual.lets_go);
        assert!(lay(3.0, ClayMix::CharcoalStone).lets_go < usual.lets_go);
        let mut before = 0.0;
        for i in 1..=100 {
            let now = lay(0.1 * f64::from(i), ClayMix::RefractoryMix).lets_go;
            assert!(
                now >= before && now < 1.0 && now - before < 0.05,
                "{i}: {now}"
            );
            before = now;
        }
        let dry = usual.lets_go_dried(usual.dry_oven_s);
        assert!((dry - usual.lets_go).abs() < 1e-12);
        assert!(usual.lets_go_dried(600.0) > 2.0 * dry && usual.lets_go_dried(0.0) < 1.0);
    }

    #[test]
    fn laying_it_on_takes_so_much_and_so_long() {
        let grid = Grid::over(&Form::from_blade(&blade()), 1.0);
        assert_eq!(Clay::default().lay(&grid), None);
        let thin = Clay::band(15.0, 1.0).lay(&grid).unwrap();
        // Half of 30 mm by 180 mm, less the skewed tip, on both faces.
        assert!((4300.0..5600.0).contains(&thin.area_mm2), "{thin:?}");
        assert!((thin.volume_mm3 / thin.area_mm2 - 1.0).abs() < 0.05);
        assert!((thin.mix_g - thin.volume_mm3 * 0.002_375).abs() < 1e-6);
        assert_eq!(thin.left_more_percent, 0.0);
        let thick = Clay::band(15.0, 4.0).lay(&grid).unwrap();
        assert!(thick.dry_oven_s > 2.0 * thin.dry_oven_s && thick.dry_air_s > thin.dry_air_s);
        let one = ClayDraft {
            left: face(vec![stroke(2.0)]),
            right: Some(face(vec![])),
            ..ClayDraft::default()
        };
        let one = Clay::parse(&one).unwrap().lay(&grid).unwrap();
        assert_eq!(one.left_more_percent, 100.0);
    }
}
