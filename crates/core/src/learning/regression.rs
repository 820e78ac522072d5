//! Gaussian-process regression of results whose covariance is known: what all outcomes share.
//!
//! Rasmussen and Williams 2006, "Gaussian Processes for Machine Learning": algorithm 2.1 for the
//! regression, 5.4.2 for leaving results out in closed form (here whole blades, since the results of
//! one blade tell of each other).

use super::cholesky::{Cholesky, inverse_at};
use std::collections::HashMap;
use uuid::Uuid;

/// What was left unexplained of one result when something was not known.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct LeftOut {
    /// Seen minus said, in the unit of the residual.
    pub error: f64,
    /// Variance of that error, the noise of the result in it.
    pub variance: f64,
}

/// Results regressed.
#[derive(Debug, Clone, Default)]
pub struct Regression {
    factor: Cholesky,
    weights: Vec<f64>,
}

/// Results by blade, in the order in which the blades first appear; a result of no known blade stands
/// alone.
#[must_use]
pub fn by_blade(blades: impl Iterator<Item = Option<Uuid>>) -> Vec<Vec<usize>> {
    let mut places: HashMap<Uuid, usize> = HashMap::new();
    let mut groups: Vec<Vec<usize>> = Vec::new();
    for (i, blade) in blades.enumerate() {
        let place = match blade {
            Some(id) => *places.entry(id).or_insert(groups.len()),
            None => groups.len(),
        };
        match groups.get_mut(place) {
            Some(group) => group.push(i),
            None => groups.push(vec![i]),
        }
    }
    groups
}

/// Covariance of `n` results, lower half, row by row; `noise` belongs on the diagonal.
fn matrix(
    n: usize,
    covariance: impl Fn(usize, usize) -> f64,
    noise: impl Fn(usize) -> f64,
) -> Vec<f64> {
    let mut k = vec![0.0; n * n];
    for i in 0..n {
        for j in 0..=i {
            k[i * n + j] = covariance(i, j);
        }
        k[i * n + i] += noise(i);
    }
    k
}

impl Regression {
    /// Regresses `seen` (what physics got wrong) with the covariance `of` two results and the variance
    /// `noise` of each. None when that is not positive definite.
    #[must_use]
    pub fn fit(
        seen: &[f64],
        covariance: impl Fn(usize, usize) -> f64,
        noise: impl Fn(usize) -> f64,
    ) -> Option<Self> {
        let factor = Cholesky::factor(matrix(seen.len(), covariance, noise), seen.len())?;
        Some(Self {
            weights: factor.solve(seen),
            factor,
        })
    }

    /// Results regressed.
    #[must_use]
    pub fn results(&self) -> usize {
        self.weights.len()
    }

    /// K⁻¹·seen.
    #[must_use]
    pub fn weights(&self) -> &[f64] {
        &self.weights
    }

    /// What is expected of something whose covariance with each result is `k`.
    #[must_use]
    pub fn shift(&self, k: &[f64]) -> f64 {
        k.iter().zip(&self.weights).map(|(k, w)| k * w).sum()
    }

    /// L⁻¹·k: the product of two such is how much of their covariance the results explain.
    #[must_use]
    pub fn explained(&self, k: &[f64]) -> Vec<f64> {
        self.factor.forward(k)
    }

    /// Logarithm of the likelihood of what was seen, but for a constant.
    #[must_use]
    pub fn evidence(&self, seen: &[f64]) -> f64 {
        -0.5 * self.shift(seen) - self.factor.half_log_det()
    }

    /// Each result when all of its group were unknown, in closed form.
    #[must_use]
    pub fn left_out(&self, groups: &[Vec<usize>]) -> Vec<LeftOut> {
        let columns = self.factor.inverse_columns();
        let mut all = vec![LeftOut::default(); self.results()];
        for members in groups {
            let m = members.len();
            let mut block = vec![0.0; m * m];
            for a in 0..m {
                for b in 0..=a {
                    block[a * m + b] = inverse_at(&columns, members[a], members[b]);
                }
            }
            let Some(factor) = Cholesky::factor(block, m) else {
                continue;
            };
            let weights: Vec<f64> = members.iter().map(|i| self.weights[*i]).collect();
            let errors = factor.solve(&weights);
            for (a, error) in errors.into_iter().enumerate() {
                let mut one = vec![0.0; m];
                one[a] = 1.0;
                let half = factor.forward(&one);
                all[members[a]] = LeftOut {
                    error,
                    variance: half.iter().map(|h| h * h).sum(),
                };
            }
        }
        all
    }
}

/// Each result when only the groups before its own were known, in order: how it was on the day. Arguments
/// as in [`Regression::fit`]; empty when the covariance is not positive definite.
#[must_use]
pub fn prequential(
    seen: &[f64],
    groups: &[Vec<usize>],
    covariance: impl Fn(usize, usize) -> f64,
    noise: impl Fn(usize) -> f64,
) -> Vec<LeftOut> {
    let order: Vec<usize> = groups.iter().flatten().copied().collect();
    let n = order.len();
    let covariance = matrix(
        n,
        |i, j| covariance(order[i], order[j]),
        |i| noise(order[i]),
    );
    let Some(factor) = Cholesky::factor(covariance, n) else {
        return Vec::new();
    };
    let sorted: Vec<f64> = order.iter().map(|i| seen[*i]).collect();
    // In a factored covariance the rows of a group, inside its own columns, are the factor of what the
    // earlier ones leave unexplained.
    let half = factor.forward(&sorted);
    let mut all = vec![LeftOut::default(); seen.len()];
    let mut start = 0;
    for group in groups {
        for (a, i) in group.iter().enumerate() {
            let own = &factor.row(start + a)[start..=start + a];
            all[*i] = LeftOut {
                error: own.iter().zip(&half[start..]).map(|(l, h)| l * h).sum(),
                variance: own.iter().map(|l| l * l).sum(),
            };
        }
        start += group.len();
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// Twelve results of five blades: what a shop shares, and what a blade shares.
    const BLADES: [u128; 12] = [1, 1, 2, 3, 3, 3, 4, 1, 4, 5, 2, 5];

    fn covariance(i: usize, j: usize) -> f64 {
        0.3 + if BLADES[i] == BLADES[j] { 0.5 } else { 0.0 } + 0.1 * (i * j) as f64 / 121.0
    }

    fn seen() -> Vec<f64> {
        (0..12).map(|i| (i as f64 * 1.7).sin() + 0.4).collect()
    }

    fn groups() -> Vec<Vec<usize>> {
        by_blade(BLADES.iter().map(|b| Some(Uuid::from_u128(*b))))
    }

    /// Said of `i` from the results `known`, and the variance of the error.
    fn direct(i: usize, known: &[usize]) -> LeftOut {
        let seen = seen();
        let values: Vec<f64> = known.iter().map(|k| seen[*k]).collect();
        let fitted =
            Regression::fit(&values, |a, b| covariance(known[a], known[b]), |_| 0.2).unwrap();
        let k: Vec<f64> = known.iter().map(|k| covariance(i, *k)).collect();
        let half = fitted.explained(&k);
        LeftOut {
            error: seen[i] - fitted.shift(&k),
            variance: covariance(i, i) + 0.2 - half.iter().map(|h| h * h).sum::<f64>(),
        }
    }

    fn assert_same(a: LeftOut, b: LeftOut) {
        assert!((a.error - b.error).abs() < 1e-9, "{a:?} {b:?}");
        assert!((a.variance - b.variance).abs() < 1e-9, "{a:?} {b:?}");
    }

    #[test]
    fn blades_come_in_the_order_they_appear() {
        assert_eq!(groups()[0], [0, 1, 7]);
        assert_eq!(groups()[3], [6, 8]);
        assert_eq!(by_blade([None, None].into_iter()), [[0], [1]]);
    }

    #[rstest]
    #[case(0)]
    #[case(4)]
    #[case(11)]
    fn closed_forms_equal_fitting_anew(#[case] i: usize) {
        let fitted = Regression::fit(&seen(), covariance, |_| 0.2).unwrap();
        let rest: Vec<usize> = (0..12).filter(|k| BLADES[*k] != BLADES[i]).collect();
        assert_same(fitted.left_out(&groups())[i], direct(i, &rest));
        let groups = groups();
        let own = groups.iter().position(|g| g.contains(&i)).unwrap();
        let before: Vec<usize> = groups[..own].iter().flatten().copied().collect();
        assert_same(
            prequential(&seen(), &groups, covariance, |_| 0.2)[i],
            direct(i, &before),
        );
    }

    #[test]
    fn evidence_is_that_of_the_normal_distribution() {
        let fitted = Regression::fit(&[1.0, -0.5], |i, j| if i == j { 1.0 } else { 0.0 }, |_| 1.0);
        let exact = -0.25 * (1.0 + 0.25) - 2.0_f64.ln();
        assert!((fitted.unwrap().evidence(&[1.0, -0.5]) - exact).abs() < 1e-12);
    }

    #[test]
    fn nothing_seen_says_nothing() {
        let none = Regression::default();
        assert_eq!((none.results(), none.shift(&[])), (0, 0.0));
        assert!(Regression::fit(&[1.0], |_, _| -1.0, |_| 0.0).is_none());
        assert!(prequential(&[], &[], |_, _| 0.0, |_| 0.0).is_empty());
    }
}
