//! The odd one out among repeated readings.

use crate::quantity::interval::upper_quantile;

/// What one hardness reading scatters by on a clean flat place, one standard deviation, HRC: two good
/// testers agree on as much (ISO 6508-1 allows a repeatability range of 1.5 HRC for blocks of 60).
const SCATTER: f64 = 0.5;
/// How many readings that knowledge is worth.
const WORTH: f64 = 6.0;
/// Of sets of sound readings no more than one in twenty is flagged.
const FALSE_ALARM: f64 = 0.05;

/// Upper `p` quantile of Student's distribution with `free` degrees of freedom, at least 5 (Abramowitz and
/// Stegun 1964, 26.7.5).
fn student_quantile(p: f64, free: f64) -> f64 {
    let z = upper_quantile(p);
    let (z3, z5) = (z.powi(3), z.powi(5));
    let z7 = z.powi(7);
    z + (z3 + z) / (4.0 * free)
        + (5.0 * z5 + 16.0 * z3 + 3.0 * z) / (96.0 * free.powi(2))
        + (3.0 * z7 + 19.0 * z5 + 17.0 * z3 - 15.0 * z) / (384.0 * free.powi(3))
}

/// Position of the odd one out among readings, HRC, if there is one.
///
/// The reading furthest from the mean of the others is odd when its distance is more than Student's
/// distribution allows for the furthest of so many (Bonferroni), against the scatter of the others pooled
/// with what is known of testers. Of fewer than three nothing is odd.
///
/// ```
/// use vatten_core::record::outlier::odd_one;
/// assert_eq!(odd_one(&[61.0, 61.5, 57.0]), Some(2));
/// assert_eq!(odd_one(&[61.0, 61.5, 60.8]), None);
/// ```
#[must_use]
pub fn odd_one(values: &[f64]) -> Option<usize> {
    let n = values.len();
    if n < 3 {
        return None;
    }
    let rest = (n - 1) as f64;
    let sum: f64 = values.iter().sum();
    let distance = |i: usize| (values[i] - (sum - values[i]) / rest).abs();
    let at = (0..n).max_by(|a, b| distance(*a).total_cmp(&distance(*b)))?;
    let mean = (sum - values[at]) / rest;
    let others = values.iter().enumerate().filter(|(i, _)| *i != at);
    let squares: f64 = others.map(|(_, v)| (v - mean).powi(2)).sum();
    let free = WORTH + rest - 1.0;
    let scatter = ((WORTH * SCATTER.powi(2) + squares) / free).sqrt();
    let limit = student_quantile(FALSE_ALARM / (2.0 * n as f64), free);
    (distance(at) > limit * scatter * (1.0 + 1.0 / rest).sqrt()).then_some(at)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    #[rstest]
    #[case(&[61.0, 61.5, 60.8], None)]
    #[case(&[61.0, 61.5, 57.0], Some(2))]
    #[case(&[61.0, 64.5, 61.2, 60.9], Some(1))]
    #[case(&[61.0, 55.0], None)]
    #[case(&[], None)]
    // Readings that scatter anyway: none of them is odd.
    #[case(&[58.0, 61.5, 60.0, 63.0, 56.5], None)]
    fn the_one_that_stands_apart(#[case] values: &[f64], #[case] wanted: Option<usize>) {
        assert_eq!(odd_one(values), wanted);
    }

    #[rstest]
    #[case(0.025, 10.0, 2.228)]
    #[case(0.005, 7.0, 3.499)]
    #[case(0.025, 1e6, 1.960)]
    fn quantiles_are_those_of_the_tables(#[case] p: f64, #[case] free: f64, #[case] t: f64) {
        assert!(
            (student_quantile(p, free) - t).abs() < 0.01,
            "{}",
            student_quantile(p, free)
        );
    }

    /// Share of sets of three to six readings that are flagged, with one of them off by so much.
    fn flagged(off: f64) -> f64 {
        let mut state = 7u64;
        let mut uniform = || {
            state = state
                .wrapping_mul(6_364_136_223_846_793_005)
                .wrapping_add(1_442_695_040_888_963_407);
            (state >> 11) as f64 / (1u64 << 53) as f64
        };
        let mut normal = || (0..12).map(|_| uniform()).sum::<f64>() - 6.0;
        let count = (0..4000).filter(|i| {
            let mut set: Vec<f64> = (0..3 + i % 4).map(|_| 61.0 + SCATTER * normal()).collect();
            set[0] -= off;
            odd_one(&set).is_some()
        });
        count.count() as f64 / 4000.0
    }

    #[test]
    fn sound_readings_are_seldom_flagged_and_odd_ones_mostly() {
        assert!(
            (0.001..=FALSE_ALARM).contains(&flagged(0.0)),
            "{}",
            flagged(0.0)
        );
        assert!(flagged(3.0) > 0.8, "{}", flagged(3.0));
    }

    proptest! {
        #[test]
        fn always_an_answer(values in proptest::collection::vec(0.0..70.0_f64, 0..20)) {
            if let Some(i) = odd_one(&values) {
                prop_assert!(i < values.len());
            }
        }
    }
}
