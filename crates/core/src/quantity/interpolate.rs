//! Interpolation through tabulated points.

/// Linear interpolation through points sorted by x, extended by the end slopes.
///
/// `points` holds at least two (x, y) pairs with x increasing.
///
/// ```
/// use vatten_core::quantity::interpolate::linear;
/// let drop = [(150.0, 1.0), (250.0, 5.0)];
/// assert_eq!(linear(&drop, 200.0), 3.0);
/// assert_eq!(linear(&drop, 400.0), 11.0); // beyond the table its last slope goes on
/// ```
#[must_use]
pub fn linear(points: &[(f64, f64)], x: f64) -> f64 {
    let last = points.len().saturating_sub(2);
    let i = points
        .partition_point(|p| p.0 <= x)
        .saturating_sub(1)
        .min(last);
    let ((x0, y0), (x1, y1)) = (points[i], points[i + 1]);
    y0 + (y1 - y0) * (x - x0) / (x1 - x0)
}

/// A monotone cubic through tabulated points: no overshoot between them (Fritsch and Carlson 1980).
#[derive(Debug, Clone, PartialEq, serde::Serialize)]
pub struct Monotone {
    points: Vec<(f64, f64)>,
    slopes: Vec<f64>,
}

impl Monotone {
    /// Builds the curve. `points` holds at least two pairs with x strictly increasing.
    #[must_use]
    pub fn new(points: Vec<(f64, f64)>) -> Self {
        let secants: Vec<f64> = points
            .windows(2)
            .map(|w| (w[1].1 - w[0].1) / (w[1].0 - w[0].0))
            .collect();
        let n = points.len();
        let mut slopes = vec![0.0; n];
        for (i, slope) in slopes.iter_mut().enumerate() {
            *slope = if i == 0 {
                secants[0]
            } else if i == n - 1 {
                secants[n - 2]
            } else if secants[i - 1] * secants[i] <= 0.0 {
                0.0
            } else {
                2.0 * secants[i - 1] * secants[i] / (secants[i - 1] + secants[i])
            };
        }
        Self { points, slopes }
    }

    /// The value at `x`; beyond the ends the line goes on with the end slope.
    #[must_use]
    pub fn at(&self, x: f64) -> f64 {
        let n = self.points.len();
        let (first, last) = (self.points[0], self.points[n - 1]);
        if x <= first.0 {
            return first.1 + self.slopes[0] * (x - first.0);
        }
        if x >= last.0 {
            return last.1 + self.slopes[n - 1] * (x - last.0);
        }
        let i = self.points.partition_point(|p| p.0 <= x) - 1;
        let ((x0, y0), (x1, y1)) = (self.points[i], self.points[i + 1]);
        let h = x1 - x0;
        let t = (x - x0) / h;
        let (t2, t3) = (t * t, t * t * t);
        (2.0 * t3 - 3.0 * t2 + 1.0) * y0
            + (t3 - 2.0 * t2 + t) * h * self.slopes[i]
            + (3.0 * t2 - 2.0 * t3) * y1
            + (t3 - t2) * h * self.slopes[i + 1]
    }

    /// The tabulated points.
    #[must_use]
    pub fn points(&self) -> &[(f64, f64)] {
        &self.points
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn both_pass_through_their_points() {
        let points = vec![(0.0, 1.0), (1.0, 3.0), (3.0, 4.0), (4.0, 2.0)];
        let curve = Monotone::new(points.clone());
        for (x, y) in &points {
            assert!((curve.at(*x) - y).abs() < 1e-12);
            assert!((linear(&points, *x) - y).abs() < 1e-12);
        }
        assert_eq!(linear(&points, 5.0), 0.0);
        assert!((curve.at(-1.0) + 1.0).abs() < 1e-12);
    }

    proptest! {
        #[test]
        fn never_leaves_the_range_of_its_neighbours(ys in proptest::collection::vec(-5.0..5.0_f64, 4), t in 0.0..3.0_f64) {
            let curve = Monotone::new(ys.iter().enumerate().map(|(i, y)| (i as f64, *y)).collect());
            let i = (t as usize).min(2);
            let (low, high) = (ys[i].min(ys[i + 1]), ys[i].max(ys[i + 1]));
            prop_assert!(curve.at(t) >= low - 1e-9 && curve.at(t) <= high + 1e-9);
        }
    }
}
