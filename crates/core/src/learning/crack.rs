//! The risk that a blade cracks in the quench or before it is tempered.
//!
//! A logistic over what smiths and handbooks name as causes. The prior below is written down, not
//! measured: it puts a plain oil quench at about 1 %, a bare water quench of a water steel at 20 %.
//! A shop's own cracked and sound blades move it (Bayesian logistic, Laplace approximation; MacKay
//! 1992).

use crate::learning::bias_model::Traits;
use crate::learning::lesson::Share;
use crate::learning::regression::by_blade;
use crate::quantity::interval::NINETY;
use crate::simulation::crack::{CAUSES, Cause, Causes};
use nalgebra::{DMatrix, DVector, SMatrix, SVector};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Prior mean and standard deviation of the weight of each cause; the constant first. The means put the table of common
/// experience (`tests/reference/cracks.csv`: practice, named as such) inside its ranges.
const PRIOR: [(f64, f64); CAUSES] = [
    (-6.62, 1.0),
    (1.37, 0.25),
    (0.504, 0.1),
    (1.157, 0.35),
    (0.44, 0.15),
    (-0.466, 0.2),
    (-1.0, 0.4),
    (0.6, 0.25),
    (0.85, 0.35),
    (0.135, 0.06),
    (0.17, 0.08),
    (0.55, 0.25),
    (0.75, 0.3),
    (0.1, 0.05),
    (0.25, 0.12),
    (0.4, 0.2),
    (0.25, 0.12),
    (0.12, 0.06),
];

/// A blade that cracked, or did not.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Outcome {
    /// What spoke for a crack.
    pub causes: Causes,
    /// It cracked.
    pub cracked: bool,
}

/// An outcome with the blade and the quench it is of.
#[derive(Debug, Clone, PartialEq)]
pub struct Seen {
    /// The blade.
    pub blade: Uuid,
    /// Its quench.
    pub traits: Traits,
    /// What came of it.
    pub outcome: Outcome,
}

/// Cracks counted against what was said of those blades.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Count {
    /// Whose.
    pub share: Share,
    /// Times a blade was looked at.
    pub looked_at: usize,
    /// Cracked.
    pub cracked: usize,
    /// As many were to be expected, each blade judged by all the others.
    pub expected: f64,
    /// Nine times out of ten at least so many.
    pub low: usize,
    /// Nine times out of ten at most so many.
    pub high: usize,
}

impl Count {
    /// Of outcomes with the chance each was given.
    fn new<'a>(share: Share, all: impl Iterator<Item = (&'a Seen, f64)>) -> Self {
        let (mut cracked, mut expected) = (0, 0.0);
        // Chance of each number of cracks, one blade after the other.
        let mut chances = vec![1.0];
        for (seen, chance) in all {
            cracked += usize::from(seen.outcome.cracked);
            expected += chance;
            chances.push(0.0);
            for k in (0..chances.len()).rev() {
                let one_fewer = if k > 0 { chances[k - 1] } else { 0.0 };
                chances[k] = chances[k] * (1.0 - chance) + one_fewer * chance;
            }
        }
        let below = |share: f64| {
            let sums = chances.iter().scan(0.0, |sum, c| {
                *sum += c;
                Some(*sum)
            });
            sums.take_while(|sum| *sum < share).count()
        };
        Self {
            share,
            looked_at: chances.len() - 1,
            cracked,
            expected,
            low: below(0.05),
            high: below(0.95),
        }
    }
}

/// Cracks counted for the whole shop, then for each steel, tank and operator, in the order they first
/// appear; each blade judged by all the others. Empty without outcomes.
#[must_use]
pub fn counts(model: &CrackModel, all: &[Seen]) -> Vec<Count> {
    if all.is_empty() {
        return Vec::new();
    }
    let chances = model.left_out(all);
    let mut shares = vec![Share::Shop];
    for t in all.iter().map(|s| &s.traits) {
        for share in t.shares() {
            if !shares.contains(&share) {
                shares.push(share);
            }
        }
    }
    let bias = |share: Share| {
        let own = all
            .iter()
            .zip(&chances)
            .filter(|(s, _)| share == Share::Shop || s.traits.shares().contains(&share))
            .map(|(s, chance)| (s, *chance));
        Count::new(share.clone(), own)
    };
    shares.into_iter().map(bias).collect()
}

/// Risk with its 90 % interval, 0 to 1.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Risk {
    /// Most likely.
    pub probability: f64,
    /// One in twenty lies below this.
    pub low: f64,
    /// One in twenty lies above this.
    pub high: f64,
}

/// The weights as a shop's outcomes leave them.
#[derive(Debug, Clone, PartialEq)]
pub struct CrackModel {
    weights: SVector<f64, CAUSES>,
    covariance: SMatrix<f64, CAUSES, CAUSES>,
    /// Outcomes learned from.
    pub outcomes: usize,
}

fn logistic(z: f64) -> f64 {
    1.0 / (1.0 + (-z).exp())
}

impl Default for CrackModel {
    fn default() -> Self {
        Self {
            weights: SVector::from_iterator(PRIOR.iter().map(|p| p.0)),
            covariance: SMatrix::from_diagonal(&SVector::from_iterator(
                PRIOR.iter().map(|p| p.1 * p.1),
            )),
            outcomes: 0,
        }
    }
}

impl CrackModel {
    /// Learns from what cracked and what did not. Newton's method on a concave posterior: it converges.
    #[must_use]
    pub fn fit(outcomes: &[Outcome]) -> Self {
        let prior = Self::default();
        let precision = SMatrix::<f64, CAUSES, CAUSES>::from_diagonal(&SVector::from_iterator(
            PRIOR.iter().map(|p| 1.0 / (p.1 * p.1)),
        ));
        let mut weights = prior.weights;
        let mut covariance = prior.covariance;
        for _ in 0..25 {
            let mut gradient = precision * (prior.weights - weights);
            let mut curvature = precision;
            for o in outcomes {
                let x = o.causes.vector();
                let p = logistic(weights.dot(&x));
                gradient += x * (f64::from(u8::from(o.cracked)) - p);
                curvature += x * x.transpose() * (p * (1.0 - p));
            }
            // The prior keeps it positive definite.
            let Some(inverse) = curvature.try_inverse() else {
                return prior;
            };
            let step = inverse * gradient;
            // Half steps far from the answer, so that it never overshoots.
            let scale = if step.norm() > 2.0 {
                2.0 / step.norm()
            } else {
                1.0
            };
            weights += step * scale;
            covariance = inverse;
            if step.norm() < 1e-9 {
                break;
            }
        }
        Self {
            weights,
            covariance,
            outcomes: outcomes.len(),
        }
    }

    /// Chance of a crack given to each outcome by all other blades: one Newton step from what all say
    /// together, in closed form (approximate leave-one-out; Rad and Maleki 2020).
    #[must_use]
    pub fn left_out(&self, all: &[Seen]) -> Vec<f64> {
        let mut chances = vec![0.0; all.len()];
        for members in by_blade(all.iter().map(|s| Some(s.blade))) {
            let m = members.len();
            let x = DMatrix::from_fn(m, CAUSES, |a, c| all[members[a]].outcome.causes.vector()[c]);
            let said = &x * self.weights;
            let p = said.map(logistic);
            let spread = &x * self.covariance * x.transpose();
            let weighed = DMatrix::from_fn(m, m, |a, b| p[a] * (1.0 - p[a]) * spread[(a, b)]);
            let seen = DVector::from_fn(m, |a, _| {
                p[a] - f64::from(u8::from(all[members[a]].outcome.cracked))
            });
            let rest = (DMatrix::identity(m, m) - weighed).try_inverse();
            let moved = rest.map_or_else(|| said.clone(), |rest| &said + &spread * (rest * seen));
            for (a, i) in members.into_iter().enumerate() {
                chances[i] = logistic(moved[a]);
            }
        }
        chances
    }

    /// Risk of a quench.
    #[must_use]
    pub fn risk(&self, causes: &Causes) -> Risk {
        let x = causes.vector();
        let z = self.weights.dot(&x);
        let deviation = (x.transpose() * self.covariance * x)[0].max(0.0).sqrt();
        Risk {
            probability: logistic(z),
            low: logistic(z - NINETY * deviation),
            high: logistic(z + NINETY * deviation),
        }
    }

    /// What speaks loudest for a crack or against it, with how much each multiplies the odds; loudest first.
    #[must_use]
    pub fn reasons(&self, causes: &Causes) -> Vec<(Cause, f64)> {
        let mut all: Vec<(Cause, f64)> = causes
            .each()
            .into_iter()
            .enumerate()
            .map(|(i, (cause, x))| (cause, (self.weights[i + 1] * x).exp()))
            .filter(|r| r.1.ln().abs() > 0.14)
            .collect();
        all.sort_by(|a, b| b.1.ln().abs().total_cmp(&a.1.ln().abs()));
        all
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::medium::Medium;
    use proptest::prelude::*;

    fn water() -> Causes {
        Causes {
            carbon: 2.8 * 1.85,
            chill: 1.85,
            ..Causes::default()
        }
    }

    fn oil() -> Causes {
        Causes {
            chill: 0.6,
            carbon: 2.8 * 0.6,
            ..water()
        }
    }

    #[test]
    fn the_prior_knows_oil_from_water() {
        let model = CrackModel::default();
        let (o, w) = (model.risk(&oil()), model.risk(&water()));
        assert!((0.005..0.04).contains(&o.probability), "{o:?}");
        assert!((0.08..0.30).contains(&w.probability), "{w:?}");
        assert!(w.low < w.probability && w.probability < w.high);
        assert!(matches!(
            model.reasons(&water())[0].0,
            Cause::SevereMedium | Cause::Carbon
        ));
    }

    /// Blades quenched in turn in water and oil, one in `every` of those in water cracked.
    fn seen(blades: u128, every: u128) -> Vec<Seen> {
        (0..blades)
            .map(|b| {
                let in_water = b % 2 == 0;
                Seen {
                    blade: Uuid::from_u128(b / 3),
                    traits: Traits {
                        steel: "w2".to_owned(),
                        medium: if in_water {
                            Medium::Water
                        } else {
                            Medium::FastOil
                        },
                        clay: None,
                        operator: None,
                    },
                    outcome: Outcome {
                        causes: if in_water { water() } else { oil() },
                        cracked: in_water && (b / 2) % every == 0,
                    },
                }
            })
            .collect()
    }

    #[test]
    fn leaving_out_in_closed_form_is_near_fitting_anew() {
        let all = seen(36, 5);
        let outcomes: Vec<Outcome> = all.iter().map(|s| s.outcome).collect();
        let chances = CrackModel::fit(&outcomes).left_out(&all);
        for (i, seen) in all.iter().enumerate() {
            let rest = all.iter().filter(|s| s.blade != seen.blade);
            let rest: Vec<Outcome> = rest.map(|s| s.outcome).collect();
            let direct = CrackModel::fit(&rest)
                .risk(&seen.outcome.causes)
                .probability;
            let ratio = chances[i] / direct;
            assert!((0.85..1.18).contains(&ratio), "{} {direct}", chances[i]);
        }
    }

    #[test]
    fn cracks_are_counted_against_what_was_said() {
        let all = seen(40, 4);
        let outcomes: Vec<Outcome> = all.iter().map(|s| s.outcome).collect();
        let model = CrackModel::fit(&outcomes);
        let counts = counts(&model, &all);
        let shares: Vec<&Share> = counts.iter().map(|c| &c.share).collect();
        assert_eq!(shares.len(), 4);
        let (shop, water) = (&counts[0], &counts[2]);
        assert_eq!((shop.looked_at, shop.cracked, water.cracked), (40, 5, 5));
        assert!(matches!(
            water.share,
            Share::Tank {
                medium: Medium::Water
            }
        ));
        assert!((2.0..6.0).contains(&water.expected), "{water:?}");
        assert!(
            shop.low <= 4 && shop.high >= 5 && shop.high < 12,
            "{shop:?}"
        );
        assert!(super::counts(&model, &[]).is_empty());
    }

    #[test]
    fn a_shop_whose_water_quenches_hold_learns_it() {
        let sound = vec![
            Outcome {
                causes: water(),
                cracked: false
            };
            40
        ];
        let model = CrackModel::fit(&sound);
        let (before, after) = (CrackModel::default().risk(&water()), model.risk(&water()));
        assert!(after.probability < 0.5 * before.probability);
        assert!(after.high - after.low < before.high - before.low);
        let cracked = vec![
            Outcome {
                causes: oil(),
                cracked: true
            };
            5
        ];
        assert!(CrackModel::fit(&cracked).risk(&oil()).probability > 0.1);
    }

    proptest! {
        #[test]
        fn always_a_probability(
            v in proptest::array::uniform18(0.0..20.0_f64), cracked in proptest::collection::vec(any::<bool>(), 0..30),
        ) {
            let [chill, carbon, wrong_medium, low_start, left_hot, held, section, raisers, overheated, untempered, unnormalized, requenched, coarse, skin, notches, bared, unclean, _] = v;
            let causes = Causes { chill, carbon, wrong_medium, low_start, left_hot, held, section, raisers, overheated, untempered, unnormalized, requenched, coarse, skin, notches, bared, unclean };
            let outcomes: Vec<Outcome> = cracked.iter().map(|c| Outcome { causes, cracked: *c }).collect();
            let risk = CrackModel::fit(&outcomes).risk(&causes);
            prop_assert!(0.0 <= risk.low && risk.low <= risk.probability + 1e-12);
            prop_assert!(risk.probability <= risk.high + 1e-12 && risk.high <= 1.0);
        }
    }
}
