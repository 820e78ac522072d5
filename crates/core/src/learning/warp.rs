//! What a shop's sags teach: how large each cause of warp is there, by whose hand and in which tank.
//!
//! A sag (mm) is what is known to differ plus a Student deviate of four degrees, whose scale is the root of the sum of
//! the squares of its causes. Each cause has a logarithmic scale, normal before any record; it is found where likelihood
//! and prior together are highest, by Fisher scoring (Gelman et al. 2013, "Bayesian Data Analysis", chapter 13). What
//! cannot be told from straight counts as no more than that, and is not dropped.
//!
//! What physics says of a cause is its mean square in a shop without records: there the doubt of its scale is in it. A
//! scale e^θ with a deviation σ has a mean square of e^(2(θ + σ²)), so that the causes of a shop that recorded much shrink
//! by what is no longer in doubt, and those that nobody recorded do not.

use crate::learning::bias_model::Traits;
use crate::learning::cholesky::Cholesky;
use crate::learning::lesson::Share;
use crate::simulation::warp::blade::Cause;
use crate::simulation::warp::driver::Driver;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A sag smaller than this is not told from straight on a flat plate, mm.
pub const STRAIGHT_MM: f64 = 0.15;
/// What physics does not know of any blade, mm: keeps a scale above zero.
const FLOOR_MM: f64 = 0.02;
/// Logarithm of the scale of a cause in a shop, and of a hand or tank against the shop, one standard deviation.
const SHOP: f64 = 0.5;
const SPECIFIC: f64 = 0.35;
/// Rounds of Fisher scoring.
const ROUNDS: usize = 40;
/// Information on the logarithm of a scale that one deviate of four degrees carries: 2ν/(ν + 3).
const INFORMATION: f64 = 8.0 / 7.0;
/// Half of nine in ten deviates of four degrees lie below.
pub const NINETY: f64 = 2.131_846_8;

/// Chance that a Student deviate of four degrees exceeds `t` (closed form).
#[must_use]
pub fn upper_tail(t: f64) -> f64 {
    if t < 0.0 {
        return 1.0 - upper_tail(-t);
    }
    let q = 1.0 + t * t / 4.0;
    (0.5 - 0.375 * t / q.sqrt() * (1.0 - t * t / (12.0 * q))).max(0.0)
}

/// Density of it.
fn density(t: f64) -> f64 {
    0.375 * (1.0 + t * t / 4.0).powf(-2.5)
}

/// Chance of more than `tolerance_mm` to either side, 0 to 1.
#[must_use]
pub fn over(tolerance_mm: f64, known_mm: f64, scale_mm: f64) -> f64 {
    let s = scale_mm.max(FLOOR_MM);
    let chance =
        upper_tail((tolerance_mm - known_mm) / s) + upper_tail((tolerance_mm + known_mm) / s);
    chance.clamp(0.0, 1.0)
}

/// A sag that was measured straight from the quench.
#[derive(Debug, Clone, PartialEq)]
pub struct Seen {
    /// The blade.
    pub blade: Uuid,
    /// From heel to tip, mm.
    pub length_mm: f64,
    /// Its quench.
    pub traits: Traits,
    /// Measured, mm, above zero to the left; less what it was off before the fire.
    pub sag_mm: f64,
    /// The side it went to was not written down.
    pub unsigned: bool,
    /// What was known to differ, mm.
    pub known_mm: f64,
    /// What else bends it, as physics has it.
    pub causes: Vec<Cause>,
}

/// How large one cause is.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = WarpScale))]
pub struct Scale {
    /// Which.
    pub driver: Driver,
    /// Whose; the shop as a whole.
    pub share: Share,
    /// Times as large as is usual.
    pub times: f64,
    /// Nine in ten lie between.
    pub low: f64,
    /// Nine in ten lie between.
    pub high: f64,
}

/// A cause as the records have it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = WarpPart))]
pub struct Part {
    /// Which.
    pub driver: Driver,
    /// One standard deviation, mm.
    pub mm: f64,
    /// Times what it is in a shop without records.
    pub times: f64,
}

/// A band of promised chances, and what came.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = WarpPromise))]
pub struct Promise {
    /// Blades whose chance was in it.
    pub blades: usize,
    /// Mean of the chances that were promised, 0 to 1.
    pub promised: f64,
    /// Share that ended out of line, 0 to 1.
    pub came: f64,
}

/// What was learned of warp.
#[derive(Debug, Clone, Default)]
pub struct WarpModel {
    seen: Vec<Seen>,
    parameters: Vec<(Driver, Share)>,
    theta: Vec<f64>,
    /// Of the logarithms, row by row.
    covariance: Vec<f64>,
}

/// Who a cause is kept apart for, besides the shop.
fn specific(driver: Driver, traits: &Traits) -> Option<Share> {
    match driver {
        Driver::Lean | Driver::Support | Driver::Rest => traits
            .operator
            .clone()
            .map(|operator| Share::Operator { operator }),
        Driver::Film | Driver::Cooling => Some(Share::Tank {
            medium: traits.medium,
        }),
        Driver::Bevels | Driver::Skin => None,
    }
}

impl WarpModel {
    /// From all that was seen.
    #[must_use]
    pub fn fit(seen: Vec<Seen>) -> Self {
        let mut parameters: Vec<(Driver, Share)> =
            Driver::ALL.iter().map(|d| (*d, Share::Shop)).collect();
        for s in &seen {
            for driver in Driver::ALL {
                if let Some(share) = specific(*driver, &s.traits)
                    && !parameters.contains(&(*driver, share.clone()))
                {
                    parameters.push((*driver, share));
                }
            }
        }
        let n = parameters.len();
        let mut covariance = vec![0.0; n * n];
        for (i, p) in parameters.iter().enumerate() {
            covariance[i * n + i] = prior(&p.1).powi(2);
        }
        let mut model = Self {
            theta: vec![0.0; n],
            covariance,
            parameters,
            seen,
        };
        if !model.seen.is_empty() {
            model.score();
        }
        model
    }

    /// What it was learned from.
    #[must_use]
    pub fn seen(&self) -> &[Seen] {
        &self.seen
    }

    fn indices(&self, driver: Driver, traits: &Traits) -> impl Iterator<Item = usize> {
        let own = specific(driver, traits);
        self.parameters
            .iter()
            .enumerate()
            .filter(move |(_, p)| {
                p.0 == driver && (p.1 == Share::Shop || Some(&p.1) == own.as_ref())
            })
            .map(|(i, _)| i)
            .collect::<Vec<_>>()
            .into_iter()
    }

    /// Each cause as the records have it: with the doubt that is left of its scale.
    #[must_use]
    pub fn parts(&self, traits: &Traits, causes: &[Cause]) -> Vec<Part> {
        let one = |c: &Cause| {
            let (ln, learned) = self.scale(c.driver, traits);
            let times = (ln - learned).exp();
            Part {
                driver: c.driver,
                mm: c.mm * times,
                times,
            }
        };
        causes.iter().map(one).collect()
    }

    /// Logarithm of the scale of a cause there, and how much less its variance is than before any record.
    fn scale(&self, driver: Driver, traits: &Traits) -> (f64, f64) {
        let n = self.theta.len();
        let own: Vec<usize> = self.indices(driver, traits).collect();
        let mut ln = 0.0;
        let mut learned = 0.0;
        for i in &own {
            ln += self.theta[*i];
            learned += prior(&self.parameters[*i].1).powi(2);
            learned -= own.iter().map(|j| self.covariance[i * n + j]).sum::<f64>();
        }
        (ln, learned)
    }

    /// Each cause as large as the scales that are the likeliest now make it, mm: what a sag is drawn from.
    fn drawn_mm(&self, seen: &Seen) -> Vec<f64> {
        let one = |c: &Cause| {
            let all = self.indices(c.driver, &seen.traits);
            let ln: f64 = all
                .map(|i| self.theta[i] - prior(&self.parameters[i].1).powi(2))
                .sum();
            c.mm * ln.exp()
        };
        seen.causes.iter().map(one).collect()
    }

    /// Scale of the sag, mm.
    #[must_use]
    pub fn scale_mm(parts: &[Part]) -> f64 {
        root(parts.iter().map(|p| p.mm))
    }

    /// Slope of the log-likelihood of a sag with the logarithm of its scale.
    fn slope(seen: &Seen, scale: f64) -> f64 {
        if seen.sag_mm.abs() < STRAIGHT_MM {
            let (high, low) = (
                (STRAIGHT_MM - seen.known_mm) / scale,
                (-STRAIGHT_MM - seen.known_mm) / scale,
            );
            let inside = 1.0 - upper_tail(high) - upper_tail(-low);
            return -(high * density(high) - low * density(low)) / inside.max(1e-9);
        }
        let at = |off: f64| {
            let square = off * off;
            (
                density(off / scale) / scale,
                -1.0 + 5.0 * square / (4.0 * scale * scale + square),
            )
        };
        let right = at(seen.sag_mm - seen.known_mm);
        if !seen.unsigned {
            return right.1;
        }
        let left = at(-seen.sag_mm - seen.known_mm);
        (right.0 * right.1 + left.0 * left.1) / (right.0 + left.0).max(1e-300)
    }

    fn score(&mut self) {
        let n = self.theta.len();
        let indexed: Vec<Vec<(usize, usize)>> = self
            .seen
            .iter()
            .map(|s| {
                let causes = s.causes.iter().enumerate();
                causes
                    .flat_map(|(c, cause)| {
                        self.indices(cause.driver, &s.traits).map(move |i| (c, i))
                    })
                    .collect()
            })
            .collect();
        let mut information = Vec::new();
        for _ in 0..ROUNDS {
            let mut gradient: Vec<f64> = (0..n)
                .map(|i| -self.theta[i] / prior(&self.parameters[i].1).powi(2))
                .collect();
            information = vec![0.0; n * n];
            for i in 0..n {
                information[i * n + i] = prior(&self.parameters[i].1).powi(-2);
            }
            for (s, index) in self.seen.iter().zip(&indexed) {
                let drawn_mm = self.drawn_mm(s);
                let scale = root(drawn_mm.iter().copied());
                let slope = Self::slope(s, scale);
                // What the logarithm of the scale moves by with that of each cause.
                let share = |c: usize| (drawn_mm[c] / scale).powi(2);
                for (c, i) in index {
                    gradient[*i] += slope * share(*c);
                    for (d, j) in index {
                        information[i * n + j] += INFORMATION * share(*c) * share(*d);
                    }
                }
            }
            let Some(factor) = Cholesky::factor(information.clone(), n) else {
                break;
            };
            let step = factor.solve(&gradient);
            let largest = step.iter().fold(0.0_f64, |a, b| a.max(b.abs()));
            let times = (0.7 / largest.max(1e-12)).min(1.0);
            for (theta, by) in self.theta.iter_mut().zip(&step) {
                *theta += times * by;
            }
            if largest < 1e-6 {
                break;
            }
        }
        let Some(factor) = Cholesky::factor(information, n) else {
            return;
        };
        self.covariance = (0..n)
            .flat_map(|i| {
                let mut unit = vec![0.0; n];
                unit[i] = 1.0;
                factor.solve(&unit)
            })
            .collect();
    }

    /// How large each cause is, the shop's first; nothing before anything was seen.
    #[must_use]
    pub fn scales(&self) -> Vec<Scale> {
        if self.seen.is_empty() {
            return Vec::new();
        }
        const NORMAL: f64 = crate::quantity::interval::NINETY;
        let n = self.theta.len();
        let one = |(i, p): (usize, &(Driver, Share))| {
            let variance = self.covariance[i * n + i].max(0.0);
            let middle = self.theta[i] - prior(&p.1).powi(2);
            let deviation = NORMAL * variance.sqrt();
            Scale {
                driver: p.0,
                share: p.1.clone(),
                times: (middle + variance).exp(),
                low: (middle - deviation).exp(),
                high: (middle + deviation).exp(),
            }
        };
        self.parameters.iter().enumerate().map(one).collect()
    }

    /// What was promised of each blade by those before it, and what came: `tolerance_mm` by blade, in the order they
    /// were seen. The scales are found anew after 1, 2, 4 … blades.
    #[must_use]
    pub fn promises(&self, tolerance_mm: impl Fn(&Seen) -> f64) -> Vec<Promise> {
        let mut chances = Vec::with_capacity(self.seen.len());
        let mut known = Self::fit(Vec::new());
        let mut next = 1;
        for (i, s) in self.seen.iter().enumerate() {
            if i == next {
                known = Self::fit(self.seen[..i].to_vec());
                next *= 2;
            }
            let scale = Self::scale_mm(&known.parts(&s.traits, &s.causes));
            let tolerance = tolerance_mm(s);
            chances.push((
                over(tolerance, s.known_mm, scale),
                s.sag_mm.abs() > tolerance,
            ));
        }
        const BANDS: [f64; 5] = [0.05, 0.15, 0.3, 0.5, 1.01];
        let mut low = 0.0;
        BANDS
            .iter()
            .filter_map(|high| {
                let here: Vec<_> = chances
                    .iter()
                    .filter(|c| c.0 >= low && c.0 < *high)
                    .collect();
                low = *high;
                let n = here.len();
                (n > 0).then(|| Promise {
                    blades: n,
                    promised: here.iter().map(|c| c.0).sum::<f64>() / n as f64,
                    came: here.iter().filter(|c| c.1).count() as f64 / n as f64,
                })
            })
            .collect()
    }
}

/// Root of the sum of the squares of what bends a blade, mm.
fn root(causes_mm: impl Iterator<Item = f64>) -> f64 {
    (FLOOR_MM.powi(2) + causes_mm.map(|mm| mm * mm).sum::<f64>()).sqrt()
}

fn prior(share: &Share) -> f64 {
    if *share == Share::Shop {
        SHOP
    } else {
        SPECIFIC
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::medium::Medium;
    use crate::process::operator::Operator;

    fn causes() -> Vec<Cause> {
        let of = |driver, mm| Cause { driver, mm };
        vec![
            of(Driver::Bevels, 0.2),
            of(Driver::Skin, 0.3),
            of(Driver::Lean, 0.2),
            of(Driver::Rest, 0.26),
        ]
    }

    fn seen(i: usize, operator: &str, sag_mm: f64) -> Seen {
        Seen {
            blade: Uuid::from_u128(i as u128),
            length_mm: 200.0,
            traits: traits(operator),
            sag_mm,
            unsigned: false,
            known_mm: 0.0,
            causes: causes(),
        }
    }

    fn traits(operator: &str) -> Traits {
        Traits {
            steel: "1084".to_owned(),
            medium: Medium::FastOil,
            clay: None,
            operator: Some(Operator::parse(operator).unwrap()),
        }
    }

    fn chance(model: &WarpModel, operator: &str) -> f64 {
        let parts = model.parts(&traits(operator), &causes());
        over(1.0, 0.0, WarpModel::scale_mm(&parts))
    }

    #[test]
    fn tails_are_those_of_the_table() {
        // Student with four degrees: 0.05 above 2.1318, 0.025 above 2.7764, 0.005 above 4.6041.
        for (t, p) in [
            (2.131_85, 0.05),
            (2.776_45, 0.025),
            (4.604_1, 0.005),
            (0.0, 0.5),
        ] {
            assert!((upper_tail(t) - p).abs() < 1e-5, "{t}");
            assert!((upper_tail(-t) - 1.0 + p).abs() < 1e-5);
        }
    }

    #[test]
    fn a_straight_shop_and_a_bent_one_see_different_chances() {
        let none = WarpModel::fit(Vec::new());
        assert!(none.scales().is_empty() && none.promises(|_| 1.0).is_empty());
        let straight = WarpModel::fit((0..10).map(|i| seen(i, "Tove", 0.0)).collect());
        let bent = WarpModel::fit(
            (0..10)
                .map(|i| seen(i, "Tove", if i < 3 { 1.4 } else { 0.0 }))
                .collect(),
        );
        let [n, s, b] = [&none, &straight, &bent].map(|m| chance(m, "Tove"));
        println!("{n} {s} {b}");
        assert!(s < 0.5 * n && b > 2.0 * s, "{n} {s} {b}");
        // Nobody knows that shop yet: physics alone.
        let parts = none.parts(&traits("Tove"), &causes());
        assert!(parts.iter().all(|p| p.times == 1.0), "{parts:?}");
        // And more of the same is surer.
        let many = WarpModel::fit((0..60).map(|i| seen(i, "Tove", 0.0)).collect());
        assert!(chance(&many, "Tove") < s);
    }

    #[test]
    fn the_hand_that_leans_is_told_from_the_one_that_does_not() {
        let all: Vec<Seen> = (0..40)
            .map(|i| {
                let (who, sag) = if i % 2 == 0 {
                    ("Aksel", 1.3)
                } else {
                    ("Tove", 0.1)
                };
                seen(i, who, if i % 4 < 2 { sag } else { -sag })
            })
            .collect();
        let model = WarpModel::fit(all);
        assert!(chance(&model, "Aksel") > 2.0 * chance(&model, "Tove"));
        let lean = |who: &str| {
            let operator = Operator::parse(who).unwrap();
            let share = Share::Operator { operator };
            let found = model.scales().into_iter();
            found
                .filter(|s| s.driver == Driver::Lean && s.share == share)
                .map(|s| s.times)
                .next()
                .unwrap()
        };
        let (aksel, tove) = (lean("Aksel"), lean("Tove"));
        assert!(aksel > 1.2 * tove, "{aksel} {tove}");
    }

    #[test]
    fn promises_are_kept_where_the_world_is_as_assumed() {
        // Deviates of four degrees by a normal over the root of a mean of four squares.
        let mut state = 77_u64;
        let mut uniform = || {
            state = state
                .wrapping_mul(6_364_136_223_846_793_005)
                .wrapping_add(1_442_695_040_888_963_407);
            (state >> 11) as f64 / (1u64 << 53) as f64
        };
        let mut normal = || (0..12).map(|_| uniform()).sum::<f64>() - 6.0;
        let all: Vec<Seen> = (0..400)
            .map(|i| {
                let factor = [0.4, 1.0, 2.0][i % 3];
                let scale = factor * causes().iter().map(|c| c.mm * c.mm).sum::<f64>().sqrt();
                let z = normal();
                let squares = (0..4).map(|_| normal().powi(2)).sum::<f64>() / 4.0;
                let mut s = seen(i, "Tove", scale * z / squares.sqrt());
                s.causes.iter_mut().for_each(|c| c.mm *= factor);
                s
            })
            .collect();
        let promises = WarpModel::fit(all).promises(|_| 0.9);
        println!("{promises:?}");
        assert!(promises.len() >= 3);
        for p in promises {
            let chance = (p.promised * (1.0 - p.promised) / p.blades as f64).sqrt();
            assert!((p.came - p.promised).abs() < 3.0 * chance + 0.02, "{p:?}");
        }
    }
}
