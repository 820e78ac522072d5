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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_passes_through_its_points_and_goes_on_with_the_last_slope() {
        let points = [(0.0, 1.0), (1.0, 3.0), (3.0, 4.0), (4.0, 2.0)];
        for (x, y) in points {
            assert!((linear(&points, x) - y).abs() < 1e-12);
        }
        assert_eq!((linear(&points, 5.0), linear(&points, -1.0)), (0.0, -1.0));
    }
}
