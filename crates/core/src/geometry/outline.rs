//! The side view of a blade: a closed line that does not cross itself, mm.
//!
//! x runs from the heel (0) to the tip; the tang, if any, lies at negative x. y runs upwards from the
//! edge towards the spine.

use crate::geometry::shape::Point;
use crate::quantity::validation::{Faults, Unit};
use kurbo::{BezPath, PathEl};
use serde::{Deserialize, Serialize};

/// Fewest and most points of an outline.
pub const POINTS: (usize, usize) = (4, 600);
/// Farthest a point may lie from the heel, mm.
pub const REACH_MM: f64 = 1500.0;
/// Longest text of a path.
pub const PATH_BYTES: usize = 20_000;
/// Curves of a path are flattened to this, mm.
const FLATNESS_MM: f64 = 0.05;

/// An outline as written by a caller: points around the blade, or a path.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(untagged)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum OutlineDraft {
    /// [x, y] in mm, 4 to 600 points.
    Points(Vec<[f64; 2]>),
    /// A path in mm, y upwards, of M, L, H, V, C, Q, S, T and Z.
    Path(String),
}

/// A checked outline.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Outline {
    points: Vec<Point>,
}

fn crosses(a: Point, b: Point, c: Point, d: Point) -> bool {
    let side = |p: Point, q: Point, r: Point| {
        (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])
    };
    let (c1, c2) = (side(a, b, c), side(a, b, d));
    let (d1, d2) = (side(c, d, a), side(c, d, b));
    c1 * c2 < 0.0 && d1 * d2 < 0.0
}

fn bad(message: impl Into<String>) -> Faults {
    Faults::with_allowed(
        "outline",
        message,
        format!(
            "{} to {} points [x, y] around the blade, heel at x = 0, edge down; or a path of M, L, H, V, C, Q, S, T and Z",
            POINTS.0, POINTS.1
        ),
    )
}

impl Outline {
    /// Checks a draft.
    ///
    /// # Errors
    /// As [`Outline::parse`] and [`Outline::from_path`].
    pub fn read(draft: &OutlineDraft) -> Result<Self, Faults> {
        match draft {
            OutlineDraft::Points(points) => Self::parse(points),
            OutlineDraft::Path(text) => Self::from_path(text),
        }
    }

    /// Checks points.
    ///
    /// # Errors
    /// A fault at `outline`: too few or too many points, numbers out of reach, a line that crosses
    /// itself, a blade of no width, longer than 1000 mm or wider than 300 mm.
    pub fn parse(points: &[Point]) -> Result<Self, Faults> {
        if points.len() < POINTS.0 || points.len() > POINTS.1 {
            return Err(bad(format!(
                "{} points do not make an outline.",
                points.len()
            )));
        }
        if let Some(p) = points
            .iter()
            .find(|p| !p.iter().all(|v| v.is_finite() && v.abs() <= REACH_MM))
        {
            return Err(bad(format!("The point {:?} is out of reach.", p)));
        }
        let n = points.len();
        let at = |i: usize| points[i % n];
        for i in 0..n {
            for j in i + 2..n {
                if (j + 1) % n != i && crosses(at(i), at(i + 1), at(j), at(j + 1)) {
                    return Err(bad(format!(
                        "The outline crosses itself between points {} and {}.",
                        i + 1,
                        j + 1
                    )));
                }
            }
        }
        let outline = Self {
            points: points.to_vec(),
        };
        let (tip, width) = (outline.tip_mm(), outline.width_mm());
        if !(10.0..=1000.0).contains(&tip) {
            let message = "So far from heel to tip is not possible.";
            let range = (10.0, 1000.0);
            return Err(Faults::outside("outline", message, range, Unit::Millimetre));
        }
        if !(3.0..=300.0).contains(&width) {
            let message = "So far from edge to spine is not possible.";
            let range = (3.0, 300.0);
            return Err(Faults::outside("outline", message, range, Unit::Millimetre));
        }
        if outline.area_mm2() < 0.1 * tip * width {
            return Err(bad("The outline encloses next to nothing."));
        }
        Ok(outline)
    }

    /// Sharp inside corners beyond the heel: where each is, mm, and how far the line turns there, rad, from 45° on. A
    /// curve has none, however tight.
    #[must_use]
    pub fn inside_corners(&self) -> Vec<(Point, f64)> {
        const BEYOND_THE_HEEL_MM: f64 = 2.0;
        let n = self.points.len();
        let at = |i: usize| self.points[i % n];
        let twice_area: f64 = (0..n)
            .map(|i| at(i)[0] * at(i + 1)[1] - at(i + 1)[0] * at(i)[1])
            .sum();
        (0..n)
            .filter_map(|i| {
                let (a, b, c) = (at(i + n - 1), at(i), at(i + 1));
                let (u, v) = ([b[0] - a[0], b[1] - a[1]], [c[0] - b[0], c[1] - b[1]]);
                let turn = (u[0] * v[1] - u[1] * v[0]).atan2(u[0] * v[0] + u[1] * v[1]);
                let inwards = -turn * twice_area.signum();
                let sharp = inwards >= std::f64::consts::FRAC_PI_4 - 1e-9;
                (sharp && b[0] > BEYOND_THE_HEEL_MM).then_some((b, inwards))
            })
            .collect()
    }

    /// Reads an SVG path in mm, y upwards. Only the commands M, L, H, V, C, Q, S, T and Z are taken:
    /// arcs with huge radii make path libraries allocate without limit.
    ///
    /// # Errors
    /// As [`Outline::parse`]; or the text is too long, holds another command, or more than one part.
    pub fn from_path(text: &str) -> Result<Self, Faults> {
        if text.len() > PATH_BYTES {
            return Err(bad("The path is too long."));
        }
        if let Some(c) = text
            .chars()
            .find(|c| !c.is_ascii_whitespace() && !"MmLlHhVvCcQqSsTtZz0123456789+-.,".contains(*c))
        {
            return Err(bad(format!("A path here cannot hold “{c}”.")));
        }
        let path = BezPath::from_svg(text).map_err(|_| bad("The path cannot be read."))?;
        let reach = path.control_box();
        let farthest = [reach.x0, reach.x1, reach.y0, reach.y1];
        if !farthest
            .iter()
            .all(|v| v.is_finite() && v.abs() <= REACH_MM)
        {
            return Err(bad("The path is out of reach."));
        }
        if path.elements().len() > POINTS.1 {
            return Err(bad("The path has too many parts."));
        }
        let mut points: Vec<Point> = Vec::new();
        let mut parts = 0;
        kurbo::flatten(&path, FLATNESS_MM, |element| match element {
            PathEl::MoveTo(p) => {
                parts += 1;
                points.push([p.x, p.y]);
            }
            PathEl::LineTo(p) => points.push([p.x, p.y]),
            _ => {}
        });
        if parts > 1 {
            return Err(bad("The path has more than one part."));
        }
        points.dedup();
        if points.len() > 1 && points.first() == points.last() {
            points.pop();
        }
        // A long curve flattens to many points: thin them evenly.
        let keep = points.len().div_ceil(POINTS.1);
        let points: Vec<Point> = points.into_iter().step_by(keep.max(1)).collect();
        Self::parse(&points)
    }

    /// Wraps points known to be good, as a shape preset makes them.
    #[must_use]
    pub fn trusted(points: Vec<Point>) -> Self {
        Self { points }
    }

    /// The points.
    #[must_use]
    pub fn points(&self) -> &[Point] {
        &self.points
    }

    fn extreme(&self, axis: usize, largest: bool) -> f64 {
        let values = self.points.iter().map(|p| p[axis]);
        if largest {
            values.fold(f64::NEG_INFINITY, f64::max)
        } else {
            values.fold(f64::INFINITY, f64::min)
        }
    }

    /// Smallest x: the end of the tang, or the heel, mm.
    #[must_use]
    pub fn start_mm(&self) -> f64 {
        self.extreme(0, false)
    }

    /// Largest x, mm.
    #[must_use]
    pub fn tip_mm(&self) -> f64 {
        self.extreme(0, true)
    }

    /// Smallest and largest y, mm.
    #[must_use]
    pub fn height_mm(&self) -> (f64, f64) {
        (self.extreme(1, false), self.extreme(1, true))
    }

    /// Largest distance from edge to spine ahead of the heel, mm.
    #[must_use]
    pub fn width_mm(&self) -> f64 {
        let tip = self.tip_mm();
        (0..64)
            .filter_map(|i| self.section((f64::from(i) + 0.5) / 64.0 * tip))
            .map(|(edge, spine)| spine - edge)
            .fold(0.0, f64::max)
    }

    fn area_mm2(&self) -> f64 {
        let n = self.points.len();
        (0..n)
            .map(|i| {
                let (a, b) = (self.points[i], self.points[(i + 1) % n]);
                0.5 * (a[0] * b[1] - b[0] * a[1])
            })
            .sum::<f64>()
            .abs()
    }

    /// Height of edge and spine at `x`, mm; None where there is no blade.
    #[must_use]
    pub fn section(&self, x: f64) -> Option<(f64, f64)> {
        let n = self.points.len();
        let (mut low, mut high) = (f64::INFINITY, f64::NEG_INFINITY);
        for i in 0..n {
            let (a, b) = (self.points[i], self.points[(i + 1) % n]);
            if (a[0] <= x) != (b[0] <= x) {
                let y = a[1] + (b[1] - a[1]) * (x - a[0]) / (b[0] - a[0]);
                low = low.min(y);
                high = high.max(y);
            }
        }
        (high > low).then_some((low, high))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::shape::Shape;
    use proptest::prelude::*;
    use rstest::rstest;

    const BAR: [Point; 4] = [[0.0, 0.0], [0.0, 30.0], [180.0, 30.0], [180.0, 0.0]];

    #[test]
    fn only_sharp_inside_corners_beyond_the_heel_are_notches() {
        assert!(Outline::parse(&BAR).unwrap().inside_corners().is_empty());
        // A square step in the spine: one corner goes inwards, whichever way round the points run.
        let step = [
            [0.0, 0.0],
            [180.0, 0.0],
            [180.0, 20.0],
            [60.0, 20.0],
            [60.0, 30.0],
            [0.0, 30.0],
        ];
        let mut other = step;
        other.reverse();
        for points in [step, other] {
            let corners = Outline::parse(&points).unwrap().inside_corners();
            assert_eq!(corners.len(), 1);
            assert_eq!(corners[0].0, [60.0, 20.0]);
            assert!((corners[0].1 - std::f64::consts::FRAC_PI_2).abs() < 1e-12);
        }
        for shape in Shape::ALL {
            let outline = Outline::parse(&shape.outline(180.0, 30.0)).unwrap();
            let turns = outline.inside_corners();
            assert!(turns.iter().all(|c| c.1 < 3.2 && c.0[0] > 0.0), "{shape:?}");
        }
    }

    #[test]
    fn every_preset_is_a_good_outline() {
        for shape in Shape::ALL {
            let points = shape.outline(180.0, 30.0);
            let outline = Outline::parse(&points).unwrap_or_else(|f| panic!("{shape:?}: {f}"));
            assert!(outline.start_mm() < 0.0 && outline.tip_mm() >= 180.0);
            let (edge, spine) = outline.section(60.0).unwrap();
            assert!(spine - edge > 15.0, "{shape:?}");
        }
    }

    #[rstest]
    #[case(&BAR[..3], "3 points")]
    #[case(&[[0.0, 0.0], [180.0, 30.0], [180.0, 0.0], [0.0, 30.0]], "crosses itself")]
    #[case(&[[0.0, 0.0], [0.0, 30.0], [5000.0, 30.0], [5000.0, 0.0]], "out of reach")]
    #[case(&[[0.0, 0.0], [0.0, 30.0], [f64::NAN, 30.0], [180.0, 0.0]], "out of reach")]
    #[case(&[[0.0, 0.0], [0.0, 30.0], [1200.0, 30.0], [1200.0, 0.0]], "heel to tip")]
    #[case(&[[0.0, 0.0], [0.0, 1.0], [180.0, 1.0], [180.0, 0.0]], "edge to spine")]
    fn refused_with_the_reason(#[case] points: &[Point], #[case] why: &str) {
        let faults = Outline::parse(points).unwrap_err();
        assert_eq!(faults.0[0].field, "outline");
        assert!(faults.to_string().contains(why), "{faults}");
        assert!(faults.0[0].allowed.is_some());
    }

    #[rstest]
    #[case("M0 0 V30 H180 V0 Z", true)]
    #[case("M0,0 C0,10 0,20 0,30 L 180 30 Q 190 15 180 0 z", true)]
    #[case("M0 0 A 1e60 1e60 0 0 1 180 0 Z", false)]
    #[case("M0 0 L 1e9 0 L 0 30 Z", false)]
    #[case("M0 0 V30 H180 V0 Z M 20 5 h 4 v 4 Z", false)]
    #[case("", false)]
    #[case("M0", false)]
    fn paths_are_bounded_before_they_are_read(#[case] path: &str, #[case] good: bool) {
        let got = Outline::from_path(path);
        assert_eq!(got.is_ok(), good, "{got:?}");
        if let Ok(outline) = got {
            assert!((outline.width_mm() - 30.0).abs() < 1e-6);
        }
    }

    proptest! {
        #[test]
        fn any_text_is_answered(text in "[MLHVCQSTZ0-9 .,+-]{0,60}") {
            if let Ok(outline) = Outline::from_path(&text) {
                prop_assert!(outline.points().len() <= POINTS.1);
            }
        }

        #[test]
        fn any_points_are_answered(points in proptest::collection::vec([-2000.0..2000.0_f64, -500.0..500.0_f64], 0..12)) {
            if let Ok(outline) = Outline::parse(&points) {
                prop_assert!(outline.tip_mm().is_finite() && outline.width_mm() > 0.0);
            }
        }
    }
}
