//! What a shop's results say of outcomes other than hardness: sideways sag, height and clarity of the
//! hamon. A small Gaussian process over what physics got wrong, with parts that results share: the
//! shop, the steel, the medium, the blade (Rasmussen and Williams 2006).

use super::cholesky::{Cholesky, inverse_at};
use crate::interval::NINETY;
use crate::medium::Medium;
use std::collections::HashMap;
use uuid::Uuid;

/// One result: what physics got wrong, in the unit of the outcome (or its logarithm).
#[derive(Debug, Clone, PartialEq)]
pub struct Seen {
    /// The blade.
    pub blade: Uuid,
    /// Key of the steel.
    pub steel: String,
    /// First medium of the quench.
    pub medium: Medium,
    /// Seen minus physics.
    pub residual: f64,
}

/// Sizes of the parts before any record, one standard deviation each, in the unit of the residual.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sizes {
    /// What all results of the shop share.
    pub shop: f64,
    /// What results on one steel share.
    pub steel: f64,
    /// What results in one medium share.
    pub medium: f64,
    /// What results on one blade share.
    pub blade: f64,
    /// Scatter of one result.
    pub scatter: f64,
}

/// Sideways sag: the logarithm of sag over what ten percent of unevenness would give. Scatter is that
/// of the logarithm of a normal deviate's size.
pub const SAG: Sizes = Sizes {
    shop: 0.5,
    steel: 0.15,
    medium: 0.25,
    blade: 0.05,
    scatter: 1.11,
};
/// Mean of the logarithm of a normal deviate's size: ln|z|, z normal.
pub const MEAN_LOG_SIZE: f64 = -0.635_181_4;
/// Height of the hamon, mm.
pub const LINE: Sizes = Sizes {
    shop: 0.8,
    steel: 1.0,
    medium: 0.6,
    blade: 0.8,
    scatter: 0.7,
};
/// Width of the band: its logarithm.
pub const CLARITY: Sizes = Sizes {
    shop: 0.25,
    steel: 0.2,
    medium: 0.1,
    blade: 0.15,
    scatter: 0.25,
};

/// How far and how surely records move an outcome.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Shift {
    /// To be added to physics.
    pub by: f64,
    /// One standard deviation of what is left, without the scatter of a single result.
    pub deviation: f64,
}

/// How honest it was: each blade predicted from all the others.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Honesty {
    /// Results counted.
    pub results: usize,
    /// Root mean square of what physics alone got wrong.
    pub before_rms: f64,
    /// Root mean square error with the blade left out.
    pub after_rms: f64,
    /// Share inside the 90 % interval, 0 to 1.
    pub coverage: f64,
}

/// What was learned of one outcome.
#[derive(Debug, Clone)]
pub struct Habit {
    sizes: Sizes,
    seen: Vec<Seen>,
    factor: Cholesky,
    weights: Vec<f64>,
}

impl Sizes {
    fn covariance(&self, a: (&str, Medium, Option<Uuid>), b: (&str, Medium, Option<Uuid>)) -> f64 {
        let same = |equal: bool, size: f64| if equal { size * size } else { 0.0 };
        self.shop * self.shop
            + same(a.0 == b.0, self.steel)
            + same(a.1 == b.1, self.medium)
            + same(a.2.is_some() && a.2 == b.2, self.blade)
    }
}

impl Seen {
    fn traits(&self) -> (&str, Medium, Option<Uuid>) {
        (&self.steel, self.medium, Some(self.blade))
    }
}

impl Habit {
    /// Nothing seen yet.
    #[must_use]
    pub fn unknown(sizes: Sizes) -> Self {
        Self {
            sizes,
            seen: Vec::new(),
            factor: Cholesky::default(),
            weights: Vec::new(),
        }
    }

    /// Learns from results. Those that are not finite are left aside.
    #[must_use]
    pub fn fit(sizes: Sizes, seen: Vec<Seen>) -> Self {
        let seen: Vec<Seen> = seen
            .into_iter()
            .filter(|s| s.residual.is_finite())
            .collect();
        let n = seen.len();
        let mut k = vec![0.0; n * n];
        for i in 0..n {
            for j in 0..=i {
                k[i * n + j] = sizes.covariance(seen[i].traits(), seen[j].traits());
            }
            k[i * n + i] += sizes.scatter * sizes.scatter;
        }
        let residuals: Vec<f64> = seen.iter().map(|s| s.residual).collect();
        // The scatter on the diagonal keeps it positive definite.
        let Some(factor) = Cholesky::factor(k, n) else {
            return Self::unknown(sizes);
        };
        Self {
            weights: factor.solve(&residuals),
            sizes,
            seen,
            factor,
        }
    }

    /// Results learned from.
    #[must_use]
    pub fn results(&self) -> usize {
        self.seen.len()
    }

    /// What the records say of a new blade of `steel` quenched in `medium`.
    #[must_use]
    pub fn shift(&self, steel: &str, medium: Medium) -> Shift {
        let x = (steel, medium, None);
        let k: Vec<f64> = self
            .seen
            .iter()
            .map(|s| self.sizes.covariance(x, s.traits()))
            .collect();
        let half = self.factor.forward(&k);
        let prior = self.sizes.covariance(x, x) + self.sizes.blade * self.sizes.blade;
        let explained: f64 = half.iter().map(|h| h * h).sum();
        Shift {
            by: k.iter().zip(&self.weights).map(|(k, w)| k * w).sum(),
            deviation: (prior - explained).max(0.0).sqrt(),
        }
    }

    /// Each blade predicted from all the others, in closed form; None without results.
    #[must_use]
    pub fn honesty(&self) -> Option<Honesty> {
        let n = self.seen.len();
        if n == 0 {
            return None;
        }
        let columns = self.factor.inverse_columns();
        let mut blades: HashMap<Uuid, Vec<usize>> = HashMap::new();
        for (i, seen) in self.seen.iter().enumerate() {
            blades.entry(seen.blade).or_default().push(i);
        }
        let (mut after, mut inside) = (0.0, 0.0);
        for members in blades.values() {
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
            for (a, error) in errors.iter().enumerate() {
                let mut one = vec![0.0; m];
                one[a] = 1.0;
                let half = factor.forward(&one);
                let deviation = half.iter().map(|h| h * h).sum::<f64>().sqrt();
                after += error * error;
                inside += f64::from(u8::from(error.abs() <= NINETY * deviation));
            }
        }
        let count = n as f64;
        let before: f64 = self.seen.iter().map(|s| s.residual * s.residual).sum();
        Some(Honesty {
            results: n,
            before_rms: (before / count).sqrt(),
            after_rms: (after / count).sqrt(),
            coverage: inside / count,
        })
    }
}

/// The residual of a sideways sag (mm) where physics says `per_ten_percent_mm` for ten percent of
/// unevenness. None where physics says that nothing bends it.
#[must_use]
pub fn sag_residual(sag_mm: f64, per_ten_percent_mm: f64, unevenness_percent: f64) -> Option<f64> {
    // A straight-edge shows no less than this.
    const SEEN_MM: f64 = 0.05;
    let typical = per_ten_percent_mm * unevenness_percent / 10.0;
    (typical > 0.01).then(|| (sag_mm.abs().max(SEEN_MM) / typical).ln() - MEAN_LOG_SIZE)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    struct Normals(u64);
    impl Normals {
        fn next(&mut self) -> f64 {
            let uniform = |s: &mut u64| {
                *s = s
                    .wrapping_mul(6_364_136_223_846_793_005)
                    .wrapping_add(1_442_695_040_888_963_407);
                (*s >> 11) as f64 / (1u64 << 53) as f64
            };
            (0..12).map(|_| uniform(&mut self.0)).sum::<f64>() - 6.0
        }
    }

    /// Lines that come out `truth` mm higher than simulated, three stations on each blade.
    fn lines(blades: u128, truth: f64, seed: u64) -> Vec<Seen> {
        let mut normal = Normals(seed);
        (0..blades)
            .flat_map(|b| {
                let own = 0.8 * normal.next();
                (0..3)
                    .map(|_| Seen {
                        blade: Uuid::from_u128(b),
                        steel: ["w2", "1095"][(b % 2) as usize].to_owned(),
                        medium: Medium::Water,
                        residual: truth + own + 0.7 * normal.next(),
                    })
                    .collect::<Vec<_>>()
            })
            .collect()
    }

    #[test]
    fn nothing_seen_leaves_physics_with_its_width() {
        let shift = Habit::unknown(LINE).shift("w2", Medium::Water);
        assert_eq!(shift.by, 0.0);
        assert!(shift.deviation > 1.0);
        assert!(Habit::fit(LINE, Vec::new()).honesty().is_none());
    }

    #[test]
    fn a_few_lines_move_and_narrow_it() {
        let habit = Habit::fit(LINE, lines(5, 2.5, 7));
        let (got, fresh) = (
            habit.shift("w2", Medium::Water),
            Habit::unknown(LINE).shift("w2", Medium::Water),
        );
        assert!((1.2..3.5).contains(&got.by), "{got:?}");
        assert!(got.deviation < 0.8 * fresh.deviation);
        // What was learned in water on two steels helps another steel in oil less.
        let other = habit.shift("1084", Medium::FastOil);
        assert!(other.by > 0.0 && other.by < got.by && other.deviation > got.deviation);
    }

    #[test]
    fn many_are_honest() {
        let habit = Habit::fit(LINE, lines(60, 2.0, 11));
        let h = habit.honesty().unwrap();
        assert_eq!(h.results, 180);
        assert!(h.after_rms < 0.65 * h.before_rms, "{h:?}");
        assert!((0.82..=0.97).contains(&h.coverage), "{h:?}");
    }

    #[test]
    fn closed_form_equals_leaving_out_for_real() {
        let all = lines(6, 1.0, 3);
        let square: f64 = (0..6)
            .map(|b| {
                let rest = all.iter().filter(|s| s.blade != Uuid::from_u128(b));
                let fewer = Habit::fit(LINE, rest.cloned().collect());
                let steel = ["w2", "1095"][(b % 2) as usize];
                let said = fewer.shift(steel, Medium::Water).by;
                let own = all.iter().filter(|s| s.blade == Uuid::from_u128(b));
                own.map(|s| (s.residual - said).powi(2)).sum::<f64>()
            })
            .sum();
        let direct = (square / all.len() as f64).sqrt();
        let closed = Habit::fit(LINE, all).honesty().unwrap().after_rms;
        assert!((closed - direct).abs() < 1e-9, "{closed} {direct}");
    }

    #[test]
    fn a_steady_hand_is_found_from_its_sags() {
        let mut normal = Normals(5);
        // Quenches that differ by 3 % from face to face, where 8 were assumed.
        let seen = (0..40)
            .filter_map(|b| {
                let sag = 0.3 * normal.next() * 2.0;
                Some(Seen {
                    blade: Uuid::from_u128(b),
                    steel: "w2".to_owned(),
                    medium: Medium::Water,
                    residual: sag_residual(sag, 2.0, 8.0)?,
                })
            })
            .collect();
        let by = Habit::fit(SAG, seen).shift("w2", Medium::Water).by;
        let percent = 8.0 * by.exp();
        assert!((2.0..5.0).contains(&percent), "{percent} %");
        assert!(sag_residual(1.0, 0.0, 8.0).is_none());
    }

    proptest! {
        #[test]
        fn always_finite(residuals in proptest::collection::vec(-50.0..50.0_f64, 0..30)) {
            let seen = residuals.iter().enumerate().map(|(i, r)| Seen {
                blade: Uuid::from_u128(i as u128 / 2), steel: "w2".to_owned(), medium: Medium::Water, residual: *r,
            }).collect();
            let habit = Habit::fit(CLARITY, seen);
            let shift = habit.shift("w2", Medium::Water);
            prop_assert!(shift.by.is_finite() && shift.deviation.is_finite());
            if let Some(h) = habit.honesty() {
                prop_assert!(h.after_rms.is_finite() && (0.0..=1.0).contains(&h.coverage));
            }
        }
    }
}
