//! A photograph of a blade laid over its drawing: two points known on both give scale and turn.

use crate::geometry::outline::Outline;
use crate::geometry::shape::Point;
use crate::quantity::validation::{Checker, Faults, Unit};
use crate::record::finding::MAX_PLACES;
use serde::{Deserialize, Serialize};

/// The two points must be this far apart in the picture, dots.
const APART_DOTS: f64 = 20.0;
/// And on the blade, mm.
const APART_MM: f64 = 10.0;
/// Largest picture, dots along one side.
const LARGEST_DOTS: f64 = 20_000.0;

/// Two places known in the picture, dots from its upper left corner, and on the blade, mm from heel and
/// edge.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TwoPoints {
    /// In the picture, `[across, down]`, dots.
    pub dots: [[f64; 2]; 2],
    /// On the blade, `[from the heel, above the edge]`, mm.
    pub mm: [[f64; 2]; 2],
    /// The picture shows the other face: the tip points left.
    #[serde(default)]
    pub other_face: bool,
}

/// Turns dots into millimetres: a scale and a turn, as one complex factor.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Laid {
    factor: [f64; 2],
    from: [f64; 2],
    to: [f64; 2],
    other_face: bool,
}

fn product(a: [f64; 2], b: [f64; 2]) -> [f64; 2] {
    [a[0] * b[0] - a[1] * b[1], a[0] * b[1] + a[1] * b[0]]
}

impl TwoPoints {
    /// Checks the points and lays the picture over the blade.
    ///
    /// # Errors
    /// Faults at `dots[0]`, `mm[1]` and the like; at `dots` or `mm` when the two are too close together.
    pub fn lay(&self) -> Result<Laid, Faults> {
        let mut c = Checker::default();
        for (i, p) in self.dots.iter().enumerate() {
            if !p.iter().all(|v| (0.0..=LARGEST_DOTS).contains(v)) {
                c.refuse(format!("dots[{i}]"), "This lies outside the picture.");
            }
        }
        for (i, p) in self.mm.iter().enumerate() {
            if !(-500.0..=1500.0).contains(&p[0]) || !(-300.0..=300.0).contains(&p[1]) {
                let sentence = "This lies far off the blade.";
                let range = (-500.0, 1500.0);
                c.refuse_outside(format!("mm[{i}]"), sentence, range, Unit::Millimetre);
            }
        }
        let flat = |p: [f64; 2]| self.upright(p);
        let apart = |a: [f64; 2], b: [f64; 2]| [b[0] - a[0], b[1] - a[1]];
        let dots = apart(flat(self.dots[0]), flat(self.dots[1]));
        let mm = apart(self.mm[0], self.mm[1]);
        let (in_picture, on_blade) = (dots[0].hypot(dots[1]), mm[0].hypot(mm[1]));
        if in_picture < APART_DOTS || in_picture.is_nan() {
            let sentence = "The two points are too close together in the picture.";
            c.refuse_allowing("dots", sentence, format!("{APART_DOTS} dots or more"));
        }
        if on_blade < APART_MM || on_blade.is_nan() {
            let sentence = "The two points are too close together on the blade.";
            c.refuse_outside("mm", sentence, (APART_MM, 1500.0), Unit::Millimetre);
        }
        c.finish(Some(()))?;
        let square = in_picture * in_picture;
        let quotient = product(mm, [dots[0], -dots[1]]);
        Ok(Laid {
            factor: quotient.map(|v| v / square),
            from: flat(self.dots[0]),
            to: self.mm[0],
            other_face: self.other_face,
        })
    }

    fn upright(&self, p: [f64; 2]) -> [f64; 2] {
        upright(p, self.other_face)
    }
}

/// A picture counts downwards, the blade upwards; seen from the other face it is mirrored once more.
fn upright([across, down]: [f64; 2], other_face: bool) -> [f64; 2] {
    if other_face {
        [across, down]
    } else {
        [across, -down]
    }
}

impl Laid {
    /// The place on the blade, mm, of a place in the picture, dots.
    #[must_use]
    pub fn on_blade(&self, dots: [f64; 2]) -> Point {
        let p = upright(dots, self.other_face);
        let turned = product(self.factor, [p[0] - self.from[0], p[1] - self.from[1]]);
        [self.to[0] + turned[0], self.to[1] + turned[1]]
    }

    /// Millimetres to a dot.
    #[must_use]
    pub fn mm_per_dot(&self) -> f64 {
        self.factor[0].hypot(self.factor[1])
    }

    /// The heights of a line traced in the picture, each above the edge under it, `[x, height]` by rising x,
    /// at most [`MAX_PLACES`] places evenly along it.
    ///
    /// # Errors
    /// A fault at `line`: fewer than two places, too many, or none of it on a blade of this outline.
    pub fn line(&self, traced: &[[f64; 2]], outline: &Outline) -> Result<Vec<[f64; 2]>, Faults> {
        if traced.len() < 2 || traced.len() > 2000 {
            let sentence = "A line is traced through at least two places.";
            return Err(Faults::with_allowed("line", sentence, "2 to 2000 places"));
        }
        // Above the edge at that place, which curves on most blades: a line follows it from place to place.
        let height = |p: Point| {
            let (edge, _) = outline.section(p[0])?;
            let height = p[1] - edge;
            (p[0] >= 0.0 && (0.0..=300.0).contains(&height)).then_some([p[0], height])
        };
        let mut inside: Vec<Point> = traced
            .iter()
            .filter_map(|p| height(self.on_blade(*p)))
            .collect();
        inside.sort_by(|a, b| a[0].total_cmp(&b[0]));
        let (Some(first), Some(last)) = (inside.first(), inside.last()) else {
            let sentence = "The traced line does not lie on the blade: look at the two points.";
            return Err(Faults::one("line", sentence));
        };
        let (from, to) = (first[0], last[0]);
        let count = MAX_PLACES.min(((to - from) / 3.0) as usize + 2);
        let at = |x: f64| {
            let i = inside
                .partition_point(|p| p[0] <= x)
                .clamp(1, inside.len() - 1);
            let (a, b) = (inside[i - 1], inside[i]);
            let share = if b[0] - a[0] < 1e-9 {
                0.0
            } else {
                (x - a[0]) / (b[0] - a[0])
            };
            a[1] + share.clamp(0.0, 1.0) * (b[1] - a[1])
        };
        if inside.len() < 2 {
            return Ok(inside);
        }
        let even = (0..count).map(|i| from + (to - from) * i as f64 / (count - 1) as f64);
        Ok(even.map(|x| [x, at(x)]).collect())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::shape::Shape;
    use proptest::prelude::*;

    fn straight() -> TwoPoints {
        TwoPoints {
            dots: [[100.0, 400.0], [1100.0, 400.0]],
            mm: [[0.0, 0.0], [200.0, 0.0]],
            other_face: false,
        }
    }

    fn near(a: Point, b: Point) -> bool {
        (a[0] - b[0]).hypot(a[1] - b[1]) < 1e-6
    }

    #[test]
    fn up_in_the_picture_is_up_on_the_blade() {
        let laid = straight().lay().unwrap();
        assert!((laid.mm_per_dot() - 0.2).abs() < 1e-12);
        assert!(near(laid.on_blade([600.0, 340.0]), [100.0, 12.0]));
        // The other face: the tip to the left, the edge still down.
        let other = TwoPoints {
            dots: [[1100.0, 400.0], [100.0, 400.0]],
            other_face: true,
            ..straight()
        };
        assert!(near(
            other.lay().unwrap().on_blade([600.0, 340.0]),
            [100.0, 12.0]
        ));
    }

    #[test]
    fn a_traced_line_becomes_heights() {
        let laid = straight().lay().unwrap();
        let traced: Vec<[f64; 2]> = (0..=100)
            .map(|i| [100.0 + 10.0 * f64::from(i), 340.0])
            .collect();
        let bar = [[0.0, 0.0], [0.0, 30.0], [200.0, 30.0], [200.0, 0.0]];
        let bar = Outline::parse(&bar).unwrap();
        let line = laid.line(&traced, &bar).unwrap();
        assert!(line.len() + 2 >= MAX_PLACES);
        assert!(line.iter().all(|p| (p[1] - 12.0).abs() < 1e-9));
        assert!(laid.line(&[[100.0, 900.0], [300.0, 900.0]], &bar).is_err());
        assert!(laid.line(&[[100.0, 340.0]], &bar).is_err());
    }

    #[test]
    fn a_line_eight_above_the_edge_is_kept_as_eight_on_every_shape() {
        for shape in Shape::ALL {
            let id = shape.id();
            let outline = Outline::trusted(shape.outline(190.0, 34.0));
            let edge = |x: f64| outline.section(x).map(|s| s.0);
            let on_edge: Vec<Point> = (0..95)
                .filter_map(|i| {
                    let x = 1.0 + 2.0 * f64::from(i);
                    Some([x, edge(x)?])
                })
                .filter(|p| outline.section(p[0]).is_some_and(|s| s.1 - s.0 > 8.5))
                .collect();
            // A picture of it at 5 dots to the millimetre, turned a little, from either face.
            let (sin, cos) = 0.12_f64.sin_cos();
            for other_face in [false, true] {
                let dots = |[x, y]: Point| {
                    let [x, y] = [x * cos - y * sin, x * sin + y * cos];
                    [
                        2000.0 + if other_face { -5.0 * x } else { 5.0 * x },
                        2000.0 - 5.0 * y,
                    ]
                };
                let (heel, tip) = ([0.5, edge(0.5).unwrap()], [180.0, 20.0]);
                let points = TwoPoints {
                    dots: [dots(heel), dots(tip)],
                    mm: [heel, tip],
                    other_face,
                };
                let traced: Vec<Point> = on_edge.iter().map(|[x, y]| dots([*x, y + 8.0])).collect();
                let line = points.lay().unwrap().line(&traced, &outline).unwrap();
                assert!(line.len() > 20, "{id}");
                for [x, height] in line {
                    assert!((height - 8.0).abs() < 0.2, "{id}: {height} at {x}");
                }
            }
        }
    }

    #[test]
    fn points_that_tell_nothing_are_refused() {
        let close = TwoPoints {
            dots: [[10.0, 10.0], [12.0, 10.0]],
            ..straight()
        };
        assert_eq!(close.lay().unwrap_err().0[0].field, "dots");
        let same = TwoPoints {
            mm: [[5.0, 0.0], [5.0, 0.0]],
            ..straight()
        };
        assert_eq!(same.lay().unwrap_err().0[0].field, "mm");
        let outside = TwoPoints {
            dots: [[-1.0, f64::NAN], [500.0, 10.0]],
            ..straight()
        };
        assert_eq!(outside.lay().unwrap_err().0[0].field, "dots[0]");
    }

    proptest! {
        #[test]
        fn the_two_points_lie_where_they_were_said(
            a in (0.0..1500.0_f64, 0.0..1500.0_f64), b in (0.0..1500.0_f64, 0.0..1500.0_f64), other in any::<bool>()
        ) {
            let points = TwoPoints {
                dots: [[a.0, a.1], [b.0, b.1]], mm: [[0.0, 0.0], [180.0, 4.0]], other_face: other,
            };
            if let Ok(laid) = points.lay() {
                prop_assert!(near(laid.on_blade(points.dots[0]), points.mm[0]));
                prop_assert!(near(laid.on_blade(points.dots[1]), points.mm[1]));
            }
        }
    }
}
