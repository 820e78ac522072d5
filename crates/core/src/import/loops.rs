//! Closed lines: joined from pieces, measured and thinned.

use crate::geometry::shape::Point;

/// Ends nearer than this are the same, in the units of the drawing.
const JOINED: f64 = 0.05;

/// Enclosed area, without sign.
#[must_use]
pub fn area(points: &[Point]) -> f64 {
    let n = points.len();
    (0..n)
        .map(|i| {
            let (a, b) = (points[i], points[(i + 1) % n]);
            0.5 * (a[0] * b[1] - b[0] * a[1])
        })
        .sum::<f64>()
        .abs()
}

fn near(a: Point, b: Point) -> bool {
    (a[0] - b[0]).hypot(a[1] - b[1]) <= JOINED
}

/// A line without a repeated last point, when its ends meet.
#[must_use]
pub fn closed(mut points: Vec<Point>, said: bool) -> Option<Vec<Point>> {
    points.dedup_by(|a, b| a == b);
    let (first, last) = (*points.first()?, *points.last()?);
    if near(first, last) {
        points.pop();
    } else if !said {
        return None;
    }
    (points.len() >= 3 && area(&points) > 0.0).then_some(points)
}

/// Joins open pieces end to end into closed lines, each piece used once. Pieces are few: this looks at
/// every pair.
#[must_use]
pub fn join(mut pieces: Vec<Vec<Point>>) -> Vec<Vec<Point>> {
    let mut found = Vec::new();
    while let Some(mut line) = pieces.pop() {
        while let (Some(first), Some(last)) = (line.first().copied(), line.last().copied()) {
            if line.len() > 2 && near(first, last) {
                break;
            }
            let next = pieces.iter().position(|p| {
                p.first().is_some_and(|q| near(*q, last))
                    || p.last().is_some_and(|q| near(*q, last))
            });
            let Some(i) = next else { break };
            let mut piece = pieces.swap_remove(i);
            if !piece.first().is_some_and(|q| near(*q, last)) {
                piece.reverse();
            }
            line.extend(piece.into_iter().skip(1));
        }
        found.extend(closed(line, false));
    }
    found
}

/// Distance of `p` from the line through `a` and `b`.
fn off_line(p: Point, a: Point, b: Point) -> f64 {
    let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
    let long = dx.hypot(dy);
    if long < 1e-9 {
        return (p[0] - a[0]).hypot(p[1] - a[1]);
    }
    ((p[0] - a[0]) * dy - (p[1] - a[1]) * dx).abs() / long
}

/// The points that hold a line within `tolerance` (Ramer 1972, Douglas and Peucker 1973).
fn held(points: &[Point], tolerance: f64) -> Vec<Point> {
    let last = points.len() - 1;
    let mut keep = vec![false; points.len()];
    keep[0] = true;
    keep[last] = true;
    let mut open = vec![(0, last)];
    while let Some((a, b)) = open.pop() {
        let farthest = (a + 1..b)
            .map(|i| (off_line(points[i], points[a], points[b]), i))
            .max_by(|p, q| p.0.total_cmp(&q.0));
        if let Some((_, i)) = farthest.filter(|f| f.0 > tolerance) {
            keep[i] = true;
            open.extend([(a, i), (i, b)]);
        }
    }
    points
        .iter()
        .zip(keep)
        .filter(|(_, k)| *k)
        .map(|(p, _)| *p)
        .collect()
}

/// A closed line of at most `most` points: those are left out first that it is changed least by.
#[must_use]
pub fn thinned(mut points: Vec<Point>, most: usize) -> Vec<Point> {
    let mut tolerance = 0.02;
    while points.len() > most && points.len() > 3 {
        // The first point stands at both ends, so that the line is closed.
        points.push(points[0]);
        points = held(&points, tolerance);
        points.pop();
        tolerance *= 1.6;
    }
    points
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pieces_in_any_order_and_way_are_joined() {
        let pieces = vec![
            vec![[0.0, 0.0], [10.0, 0.0]],
            vec![[0.0, 5.0], [0.0, 0.0]],
            vec![[10.0, 5.0], [0.0, 5.0]],
            vec![[10.0, 5.0], [10.0, 0.0]],
            vec![[50.0, 50.0], [60.0, 60.0]],
        ];
        let found = join(pieces);
        assert_eq!(found.len(), 1);
        assert!((area(&found[0]) - 50.0).abs() < 1e-9);
    }

    #[test]
    fn thinning_keeps_the_shape() {
        let circle: Vec<Point> = (0..5000)
            .map(|i| {
                let a = f64::from(i) / 5000.0 * std::f64::consts::TAU;
                [50.0 * a.cos(), 20.0 * a.sin()]
            })
            .collect();
        let before = area(&circle);
        let thin = thinned(circle, 600);
        assert!(thin.len() <= 600 && thin.len() > 20);
        assert!((area(&thin) / before - 1.0).abs() < 0.02);
    }

    #[test]
    fn an_open_line_is_not_closed_unless_it_says_so() {
        let open = vec![[0.0, 0.0], [10.0, 0.0], [10.0, 5.0]];
        assert_eq!(closed(open.clone(), false), None);
        assert_eq!(closed(open, true).map(|p| p.len()), Some(3));
        assert_eq!(closed(vec![], true), None);
    }
}
