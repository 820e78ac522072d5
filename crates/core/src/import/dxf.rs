//! DXF drawings in text form: lines of a code and a value, of which only flat lines are read.

use super::loops::{closed, join};
use super::{DrawingUnit, Drawn, MAX_NUMBER, bad};
use crate::geometry::shape::Point;
use crate::quantity::validation::Faults;
use std::f64::consts::{PI, TAU};

/// Most pieces read.
const MAX_PIECES: usize = 4000;
/// Most points of one piece.
const MAX_POINTS: usize = 20_000;
/// A curve is cut so that no piece turns by more.
const TURN: f64 = PI / 36.0;

/// A code and its value.
type Pair<'a> = (i32, &'a str);

fn pairs(text: &str) -> Result<Vec<Pair<'_>>, Faults> {
    if text.contains('\0') {
        return Err(bad(
            "This is a DXF in binary form. Save it as text (ASCII) and try again.",
        ));
    }
    let mut lines = text.lines();
    let mut all = Vec::new();
    while let (Some(code), Some(value)) = (lines.next(), lines.next()) {
        let code = code.trim().parse::<i32>().map_err(|_| {
            bad(format!(
                "Line {} of the DXF should be a code and is “{}”.",
                2 * all.len() + 1,
                code.trim().chars().take(20).collect::<String>()
            ))
        })?;
        all.push((code, value.trim()));
    }
    Ok(all)
}

fn number(value: &str) -> Result<f64, Faults> {
    let found = value
        .parse::<f64>()
        .map_err(|_| bad(format!("“{value}” in the DXF is no number.")))?;
    if found.is_finite() && found.abs() <= MAX_NUMBER {
        Ok(found)
    } else {
        Err(bad(format!("The number {value} is out of reach.")))
    }
}

fn unit_of(pairs: &[Pair<'_>]) -> Option<DrawingUnit> {
    let at = pairs.iter().position(|p| *p == (9, "$INSUNITS"))?;
    match pairs.get(at + 1)?.1 {
        "1" => Some(DrawingUnit::In),
        "4" => Some(DrawingUnit::Mm),
        "5" => Some(DrawingUnit::Cm),
        _ => None,
    }
}

/// An arc about a centre, from one angle on by `turn` (signed), without its first point.
fn arc(points: &mut Vec<Point>, centre: Point, radius: f64, from: f64, turn: f64) {
    let steps = ((turn.abs() / TURN).ceil() as usize).clamp(1, 720);
    for i in 1..=steps {
        let a = from + turn * i as f64 / steps as f64;
        points.push([centre[0] + radius * a.cos(), centre[1] + radius * a.sin()]);
    }
}

/// The arc between two points whose quarter angle has this tangent, without its first point.
fn bulged(points: &mut Vec<Point>, a: Point, b: Point, bulge: f64) {
    let chord = (b[0] - a[0]).hypot(b[1] - a[1]);
    if bulge.abs() < 1e-6 || chord < 1e-9 {
        points.push(b);
        return;
    }
    let turn = 4.0 * bulge.atan();
    let radius = chord / (2.0 * (0.5 * turn).sin().abs());
    // The centre lies beside the middle of the chord.
    let off = radius * (0.5 * turn).cos() * bulge.signum();
    let (mx, my) = (0.5 * (a[0] + b[0]), 0.5 * (a[1] + b[1]));
    let centre = [
        mx - off * (b[1] - a[1]) / chord,
        my + off * (b[0] - a[0]) / chord,
    ];
    let from = (a[1] - centre[1]).atan2(a[0] - centre[0]);
    arc(points, centre, radius, from, turn);
}

/// A line of corners, each with the bulge of what follows it.
fn polyline(corners: &[(Point, f64)], ends_meet: bool) -> Vec<Point> {
    let Some((first, _)) = corners.first() else {
        return Vec::new();
    };
    let mut points = vec![*first];
    for pair in corners.windows(2) {
        bulged(&mut points, pair[0].0, pair[1].0, pair[0].1);
    }
    if let (true, Some((last, bulge))) = (ends_meet, corners.last()) {
        bulged(&mut points, *last, *first, *bulge);
    }
    points
}

/// A B-spline through its control points (de Boor 1972), sampled evenly.
fn spline(degree: usize, knots: &[f64], control: &[Point]) -> Vec<Point> {
    let n = control.len();
    if degree == 0 || degree > 5 || n <= degree || knots.len() != n + degree + 1 {
        return control.to_vec();
    }
    let (low, high) = (knots[degree], knots[n]);
    let count = (8 * n).clamp(8, 2000);
    (0..=count)
        .map(|i| {
            let t = low + (high - low) * i as f64 / count as f64;
            let span = (degree..n)
                .rev()
                .find(|k| knots[*k] <= t && knots[*k] < knots[*k + 1])
                .unwrap_or(degree);
            let mut d: Vec<Point> = (0..=degree).map(|j| control[j + span - degree]).collect();
            for r in 1..=degree {
                for j in (r..=degree).rev() {
                    let left = knots[j + span - degree];
                    let width = knots[j + 1 + span - r] - left;
                    let a = if width > 0.0 { (t - left) / width } else { 0.0 };
                    d[j] = [
                        (1.0 - a) * d[j - 1][0] + a * d[j][0],
                        (1.0 - a) * d[j - 1][1] + a * d[j][1],
                    ];
                }
            }
            d[degree]
        })
        .collect()
}

/// The values of one entity.
struct Entity<'a> {
    kind: &'a str,
    pairs: &'a [Pair<'a>],
}

impl Entity<'_> {
    fn all(&self, code: i32) -> Result<Vec<f64>, Faults> {
        let found: Vec<_> = self.pairs.iter().filter(|p| p.0 == code).collect();
        if found.len() > MAX_POINTS {
            return Err(bad("A line in it has too many points."));
        }
        found.into_iter().map(|p| number(p.1)).collect()
    }

    fn one(&self, code: i32) -> Result<f64, Faults> {
        Ok(self.all(code)?.first().copied().unwrap_or(0.0))
    }

    fn flags(&self) -> Result<i64, Faults> {
        Ok(self.one(70)? as i64)
    }

    /// Corners in order, each with its bulge.
    fn corners(&self) -> Result<Vec<(Point, f64)>, Faults> {
        let mut corners: Vec<(Point, f64)> = Vec::new();
        for (code, value) in self.pairs {
            match (code, corners.last_mut()) {
                (10, _) => corners.push(([number(value)?, 0.0], 0.0)),
                (20, Some(last)) => last.0[1] = number(value)?,
                (42, Some(last)) => last.1 = number(value)?,
                _ => {}
            }
            if corners.len() > MAX_POINTS {
                return Err(bad("A line in it has too many points."));
            }
        }
        Ok(corners)
    }
}

/// The entities of a drawing, each with the pairs that follow its name.
///
/// # Errors
/// The drawing has none.
fn entities<'a>(pairs: &'a [(i32, &'a str)]) -> Result<Vec<Entity<'a>>, Faults> {
    let start = pairs
        .iter()
        .position(|p| *p == (2, "ENTITIES"))
        .ok_or_else(|| bad("The DXF has no drawn lines in it."))?;
    let mut all = Vec::new();
    let mut i = start + 1;
    while i < pairs.len() {
        if pairs[i] == (0, "ENDSEC") {
            break;
        }
        if pairs[i].0 != 0 {
            i += 1;
            continue;
        }
        let end = pairs[i + 1..]
            .iter()
            .position(|p| p.0 == 0)
            .map_or(pairs.len(), |k| i + 1 + k);
        all.push(Entity {
            kind: pairs[i].1,
            pairs: &pairs[i + 1..end],
        });
        i = end;
    }
    Ok(all)
}

/// Lines as they are read, one entity after the other.
#[derive(Default)]
struct Lines<'a> {
    loops: Vec<Vec<Point>>,
    open: Vec<Vec<Point>>,
    /// Kinds of entities that are no flat line.
    others: Vec<&'a str>,
    /// An old-style line: its corners follow it as entities of their own. With it, whether it is closed.
    old: Option<(Vec<(Point, f64)>, bool)>,
}

impl<'a> Lines<'a> {
    fn take(&mut self, points: Vec<Point>, said_closed: bool) {
        if said_closed {
            self.loops.extend(closed(points, true));
        } else if points.len() > 1 {
            match closed(points.clone(), false) {
                Some(done) => self.loops.push(done),
                None => self.open.push(points),
            }
        }
    }

    fn read(&mut self, e: &Entity<'a>) -> Result<(), Faults> {
        match e.kind {
            "LWPOLYLINE" => {
                let shut = e.flags()? & 1 == 1;
                self.take(polyline(&e.corners()?, shut), shut);
            }
            "POLYLINE" => self.old = Some((Vec::new(), e.flags()? & 1 == 1)),
            "VERTEX" => {
                if let Some((corners, _)) = &mut self.old {
                    corners.extend(e.corners()?);
                }
            }
            "SEQEND" => {
                if let Some((corners, shut)) = self.old.take() {
                    self.take(polyline(&corners, shut), shut);
                }
            }
            "LINE" => {
                let ends = vec![[e.one(10)?, e.one(20)?], [e.one(11)?, e.one(21)?]];
                self.take(ends, false);
            }
            "ARC" => {
                let (from, to) = (e.one(50)?.to_radians(), e.one(51)?.to_radians());
                self.take(arc_of(e, from, (to - from).rem_euclid(TAU))?, false);
            }
            "CIRCLE" => self.take(arc_of(e, 0.0, TAU)?, false),
            "SPLINE" => {
                let control: Vec<Point> = e.corners()?.into_iter().map(|c| c.0).collect();
                let degree = e.one(71)?.clamp(0.0, 9.0) as usize;
                self.take(spline(degree, &e.all(40)?, &control), false);
            }
            other => self.others.push(other),
        }
        Ok(())
    }
}

/// The arc of an entity from an angle on, by `turn`, radians.
fn arc_of(e: &Entity<'_>, from: f64, turn: f64) -> Result<Vec<Point>, Faults> {
    let (centre, radius) = ([e.one(10)?, e.one(20)?], e.one(40)?);
    let mut points = vec![[
        centre[0] + radius * from.cos(),
        centre[1] + radius * from.sin(),
    ]];
    arc(&mut points, centre, radius, from, turn);
    Ok(points)
}

/// The refusal of a drawing that has other things than lines in it.
fn no_flat_line(mut others: Vec<&str>) -> Faults {
    others.sort_unstable();
    others.dedup();
    let kinds: Vec<String> = others
        .iter()
        .take(4)
        .map(|k| k.chars().take(16).collect())
        .collect();
    bad(format!(
        "There is no flat line in it, only {}. Save the side view as polylines.",
        kinds.join(", ")
    ))
}

/// Reads the closed lines of a DXF drawing.
///
/// # Errors
/// A fault at `text`: binary, broken, numbers out of reach, solids only, or too much of it.
pub fn read(text: &str) -> Result<Drawn, Faults> {
    let pairs = pairs(text)?;
    let mut lines = Lines::default();
    for entity in &entities(&pairs)? {
        lines.read(entity)?;
        if lines.loops.len() + lines.open.len() > MAX_PIECES {
            return Err(bad("The drawing has too many parts."));
        }
    }
    let Lines {
        mut loops,
        open,
        others,
        ..
    } = lines;
    if loops.is_empty() && open.is_empty() && !others.is_empty() {
        return Err(no_flat_line(others));
    }
    loops.extend(join(open));
    Ok(Drawn {
        loops,
        unit: unit_of(&pairs),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::import::loops::area;
    use proptest::prelude::*;
    use rstest::rstest;

    fn dxf(units: &str, entities: &str) -> String {
        let head = format!("0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n{units}\n0\nENDSEC\n");
        format!("{head}0\nSECTION\n2\nENTITIES\n{entities}0\nENDSEC\n0\nEOF\n")
    }

    const SQUARE: &str = "0\nLWPOLYLINE\n90\n4\n70\n1\n10\n0\n20\n0\n10\n100\n20\n0\n10\n100\n20\n20\n10\n0\n20\n20\n";

    #[rstest]
    #[case("4", Some(DrawingUnit::Mm))]
    #[case("1", Some(DrawingUnit::In))]
    #[case("5", Some(DrawingUnit::Cm))]
    #[case("0", None)]
    fn a_polyline_with_its_unit(#[case] units: &str, #[case] unit: Option<DrawingUnit>) {
        let found = read(&dxf(units, SQUARE)).unwrap();
        assert_eq!((found.loops.len(), found.unit), (1, unit));
        assert!((area(&found.loops[0]) - 2000.0).abs() < 1e-6);
    }

    #[test]
    fn lines_and_arcs_are_joined() {
        let line = |a: (f64, f64), b: (f64, f64)| {
            format!(
                "0\nLINE\n10\n{}\n20\n{}\n11\n{}\n21\n{}\n",
                a.0, a.1, b.0, b.1
            )
        };
        let text = [
            line((0.0, 0.0), (100.0, 0.0)),
            line((0.0, 20.0), (100.0, 20.0)),
            line((0.0, 20.0), (0.0, 0.0)),
            "0\nARC\n10\n100\n20\n10\n40\n10\n50\n270\n51\n90\n".to_owned(),
        ]
        .concat();
        let found = read(&dxf("4", &text)).unwrap();
        assert_eq!(found.loops.len(), 1);
        let expected = 2000.0 + 50.0 * PI;
        assert!((area(&found.loops[0]) - expected).abs() < 2.0);
    }

    #[test]
    fn bulges_old_polylines_circles_and_splines() {
        // Two half circles make a whole one.
        let round = "0\nLWPOLYLINE\n70\n1\n10\n0\n20\n0\n42\n1\n10\n20\n20\n0\n42\n1\n";
        let found = read(&dxf("4", round)).unwrap();
        assert!((area(&found.loops[0]) - 100.0 * PI).abs() < 2.0);
        let old = "0\nPOLYLINE\n70\n1\n0\nVERTEX\n10\n0\n20\n0\n0\nVERTEX\n10\n9\n20\n0\n0\nVERTEX\n10\n9\n20\n9\n0\nSEQEND\n";
        assert!((area(&read(&dxf("4", old)).unwrap().loops[0]) - 40.5).abs() < 1e-9);
        let circle = "0\nCIRCLE\n10\n5\n20\n5\n40\n10\n";
        assert!((area(&read(&dxf("4", circle)).unwrap().loops[0]) - 100.0 * PI).abs() < 2.0);
        let knots: String = [0, 0, 0, 0, 1, 1, 1, 1]
            .iter()
            .map(|k| format!("40\n{k}\n"))
            .collect();
        let curve = format!(
            "0\nSPLINE\n71\n3\n{knots}10\n0\n20\n0\n10\n0\n20\n30\n10\n100\n20\n30\n10\n100\n20\n0\n0\nLINE\n10\n100\n20\n0\n11\n0\n21\n0\n"
        );
        let found = read(&dxf("4", &curve)).unwrap();
        assert_eq!(found.loops.len(), 1);
        let highest = found.loops[0].iter().map(|p| p[1]).fold(0.0, f64::max);
        assert!((highest - 22.5).abs() < 0.1, "{highest}");
    }

    #[rstest]
    #[case("\0\0SECTION".to_owned(), "binary")]
    #[case("0\nSECTION\nx\ny\n".to_owned(), "should be a code")]
    #[case("0\nSECTION\n2\nHEADER\n0\nENDSEC\n".to_owned(), "no drawn lines")]
    #[case(dxf("4", "0\n3DSOLID\n1\nx\n"), "no flat line")]
    #[case(dxf("4", "0\nLINE\n10\n1e90\n20\n0\n"), "out of reach")]
    #[case(dxf("4", "0\nLINE\n10\nten\n20\n0\n"), "no number")]
    #[case(dxf("4", &"0\nLINE\n10\n0\n20\n0\n11\n1\n21\n1\n".repeat(5000)), "too many")]
    fn the_wrong_kind_is_told(#[case] text: String, #[case] words: &str) {
        let faults = read(&text).unwrap_err();
        assert!(faults.to_string().contains(words), "{faults}");
    }

    proptest! {
        #[test]
        fn any_entities_are_answered(codes in proptest::collection::vec((0..80_i32, "[A-Z0-9.e-]{0,12}"), 0..60)) {
            let text: String = codes.iter().map(|(c, v)| format!("{c}\n{v}\n")).collect();
            let _ = read(&dxf("4", &text));
        }

        #[test]
        fn any_polyline_is_answered(corners in proptest::collection::vec((-1e5..1e5_f64, -1e5..1e5_f64, -9.0..9.0_f64), 0..40)) {
            let text: String = corners.iter().map(|(x, y, b)| format!("10\n{x}\n20\n{y}\n42\n{b}\n")).collect();
            let found = read(&dxf("4", &format!("0\nLWPOLYLINE\n70\n1\n{text}")));
            if let Ok(found) = found {
                prop_assert!(found.loops.iter().flatten().flatten().all(|v| v.is_finite()));
            }
        }
    }
}
