//! What the records say of the predictions of one outcome: how far off, how honest, since when, and
//! whose doing.

use super::regression::LeftOut;
use crate::material::clay_mix::ClayMix;
use crate::material::medium::Medium;
use crate::process::operator::Operator;
use crate::quantity::interval::NINETY;
use serde::{Deserialize, Serialize};
use std::collections::HashSet;
use uuid::Uuid;

/// Most stretches of a learning curve.
const MAX_STRETCHES: usize = 10;
/// Fewest blades in one of them.
const STRETCH_BLADES: usize = 3;
/// Fewer results than this say nothing of the intervals.
const ENOUGH: usize = 8;

/// How a result is held against physics.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Measure {
    /// By difference, in the unit of the outcome.
    Difference,
    /// By ratio: errors and biases are natural logarithms.
    Ratio,
}

impl Measure {
    /// What physics amounts to once it is moved by `residual`.
    #[must_use]
    pub fn moved(self, physics: f64, residual: f64) -> f64 {
        match self {
            Self::Difference => physics + residual,
            Self::Ratio => physics * residual.exp(),
        }
    }

    /// What moves `physics` to `seen`.
    #[must_use]
    pub fn residual(self, seen: f64, physics: f64) -> f64 {
        match self {
            Self::Difference => seen - physics,
            Self::Ratio => (seen / physics).ln(),
        }
    }
}

/// A result as it was observed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Observed {
    /// The blade, when known.
    pub blade: Option<Uuid>,
    /// What physics alone said, in the unit of the outcome.
    pub physics: f64,
    /// What was seen.
    pub measured: f64,
    /// What was regressed for it: differs from measured less physics where only bounds were known.
    pub residual: f64,
    /// Variance of that.
    pub noise: f64,
    /// Variance of a reading in its place.
    pub reading_noise: f64,
    /// Only known to lie between these, in the unit of the outcome.
    pub between: Option<(f64, f64)>,
    /// What was regressed is near enough to what was to be seen that its error counts; where not, it
    /// counts for the intervals only.
    pub counts: bool,
}

/// One result against its predictions, in the unit of the outcome.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Point {
    /// The blade.
    pub blade: Option<Uuid>,
    /// What physics alone said.
    pub physics: f64,
    /// What physics and all the other blades say.
    pub predicted: f64,
    /// One in twenty lies below this.
    pub low: f64,
    /// One in twenty lies above this.
    pub high: f64,
    /// What was seen; the middle where only bounds were known.
    pub measured: f64,
    /// It came out inside the interval.
    pub held: bool,
}

/// Some blades in a row: how far off the predictions were on the day, knowing only what came before.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Stretch {
    /// Blades before it.
    pub after: usize,
    /// Blades in it.
    pub blades: usize,
    /// Error of physics alone, root mean square.
    pub physics_rms: f64,
    /// Error of the prediction from the blades before, root mean square.
    pub rms: f64,
}

/// What results have in common.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize)]
#[serde(tag = "of", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Share {
    /// Everything this shop does.
    Shop,
    /// A steel.
    Steel {
        /// Its key.
        key: String,
    },
    /// A kiln or forge.
    Kiln {
        /// Its id.
        id: Uuid,
    },
    /// A tempering oven.
    Oven {
        /// Its id.
        id: Uuid,
    },
    /// A hardness tester.
    Tester {
        /// Its id.
        id: Uuid,
    },
    /// What is quenched in.
    Tank {
        /// What is in it.
        medium: Medium,
    },
    /// What it is clayed with.
    Clay {
        /// What it is mixed of.
        mix: ClayMix,
    },
    /// Who quenched.
    Operator {
        /// Who.
        operator: Operator,
    },
}

/// How far an outcome comes out otherwise because of what some results share. All biases together are
/// what moves a prediction: what another part explains is not in it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Bias {
    /// What they share.
    pub share: Share,
    /// How far, in the unit of the outcome or as a logarithm; °C hotter than set for fires and ovens.
    pub by: f64,
    /// Nine times out of ten it is no further than this from `by`.
    pub give_or_take: f64,
    /// Results that share it.
    pub results: usize,
    /// It is not zero by chance: nine in ten.
    pub sure: bool,
}

impl Bias {
    /// With one standard deviation, from this many results.
    #[must_use]
    pub fn new(share: Share, by: f64, deviation: f64, results: usize) -> Self {
        let give_or_take = NINETY * deviation;
        Self {
            share,
            by,
            give_or_take,
            results,
            sure: by.abs() > give_or_take,
        }
    }
}

/// Whether intervals that promise nine in ten kept it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Promise {
    /// Too few results to say.
    TooFew,
    /// Kept, as far as chance allows.
    Kept,
    /// They held less than they promise: too narrow.
    Narrow,
    /// They held more than they promise: too wide.
    Wide,
}

impl Promise {
    /// `inside` of `all` lay inside intervals that promise nine in ten: narrow or wide when chance alone
    /// would do that less than once in twenty.
    #[must_use]
    pub fn new(inside: usize, all: usize) -> Self {
        if all < ENOUGH {
            return Self::TooFew;
        }
        let (mut below, mut above) = (0.0, 0.0);
        let mut chance_ln = all as f64 * 0.1_f64.ln();
        for k in 0..=all {
            let chance = chance_ln.exp();
            if k <= inside {
                below += chance;
            }
            if k >= inside {
                above += chance;
            }
            chance_ln += ((all - k) as f64 / (k + 1) as f64 * 9.0).ln();
        }
        if below < 0.05 {
            Self::Narrow
        } else if above < 0.05 {
            Self::Wide
        } else {
            Self::Kept
        }
    }
}

/// What the records say of one outcome.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Lesson {
    /// How results are held against physics.
    pub measure: Measure,
    /// Results counted.
    pub results: usize,
    /// Blades they are of.
    pub blades: usize,
    /// Error of physics alone, root mean square.
    pub before_rms: f64,
    /// Error with each blade predicted from all the others, root mean square.
    pub after_rms: f64,
    /// Mean of what physics got wrong.
    pub bias: f64,
    /// Share inside the 90 % interval when their blade was left out, 0 to 1.
    pub coverage: f64,
    /// Whether the intervals kept what they promise.
    pub promise: Promise,
    /// Each result, oldest first.
    pub points: Vec<Point>,
    /// Stretches of blades, oldest first; empty before there are six blades.
    pub curve: Vec<Stretch>,
}

fn root_mean_square(errors: impl Iterator<Item = f64>) -> f64 {
    let (n, sum) = errors.fold((0.0, 0.0), |(n, sum), e| (n + 1.0, sum + e * e));
    if n > 0.0 { f64::sqrt(sum / n) } else { 0.0 }
}

impl Lesson {
    /// Of the results in `groups` (those of one blade each, oldest first), each left out with its blade
    /// in `left_out` and predicted from the blades before in `ahead`. None without results.
    #[must_use]
    pub fn new(
        measure: Measure,
        observed: &[Observed],
        left_out: &[LeftOut],
        prequential: &[LeftOut],
        groups: &[Vec<usize>],
    ) -> Option<Self> {
        let mut points = Vec::new();
        for i in groups.iter().flatten() {
            let (t, left) = (observed.get(*i)?, left_out.get(*i)?);
            let said = t.residual - left.error;
            // The width is that of a reading, also where there were only bounds.
            let variance = left.variance - t.noise + t.reading_noise;
            let half = NINETY * variance.max(0.0).sqrt();
            let (low, high) = (
                measure.moved(t.physics, said - half),
                measure.moved(t.physics, said + half),
            );
            let (least, most) = t.between.unwrap_or((t.measured, t.measured));
            points.push(Point {
                blade: t.blade,
                physics: t.physics,
                predicted: measure.moved(t.physics, said),
                low,
                high,
                measured: t.measured,
                held: least <= high && most >= low,
            });
        }
        if points.is_empty() {
            return None;
        }
        let read = |groups: &[Vec<usize>]| -> Vec<usize> {
            let all = groups.iter().flatten().copied();
            all.filter(|i| observed[*i].counts).collect()
        };
        let inside = points.iter().filter(|p| p.held).count();
        let all = read(groups);
        let residuals = |groups: &[usize]| {
            groups
                .iter()
                .map(|i| observed[*i].residual)
                .collect::<Vec<_>>()
        };
        let stretches = (groups.len() / STRETCH_BLADES).min(MAX_STRETCHES);
        let bounds = |s: usize| s * groups.len() / stretches.max(1);
        let curve = (0..if stretches < 2 || prequential.is_empty() {
            0
        } else {
            stretches
        })
            .filter_map(|s| {
                let (from, to) = (bounds(s), bounds(s + 1));
                let own = read(&groups[from..to]);
                (!own.is_empty()).then(|| Stretch {
                    after: from,
                    blades: to - from,
                    physics_rms: root_mean_square(residuals(&own).into_iter()),
                    rms: root_mean_square(own.iter().map(|i| prequential[*i].error)),
                })
            })
            .collect();
        let blades: HashSet<_> = points.iter().map(|p| p.blade).collect();
        Some(Self {
            measure,
            results: points.len(),
            blades: blades.len(),
            before_rms: root_mean_square(residuals(&all).into_iter()),
            after_rms: root_mean_square(all.iter().map(|i| left_out[*i].error)),
            bias: residuals(&all).iter().sum::<f64>() / all.len().max(1) as f64,
            coverage: inside as f64 / points.len() as f64,
            promise: Promise::new(inside, points.len()),
            points,
            curve,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(3, 4, Promise::TooFew)]
    #[case(18, 20, Promise::Kept)]
    #[case(20, 20, Promise::Kept)]
    #[case(15, 20, Promise::Narrow)]
    #[case(60, 60, Promise::Wide)]
    #[case(1800, 2000, Promise::Kept)]
    #[case(1750, 2000, Promise::Narrow)]
    fn promises_are_judged_against_chance(
        #[case] inside: usize,
        #[case] all: usize,
        #[case] promise: Promise,
    ) {
        assert_eq!(Promise::new(inside, all), promise);
    }

    #[rstest]
    #[case(Measure::Difference)]
    #[case(Measure::Ratio)]
    fn a_residual_moves_physics_to_what_was_seen(#[case] measure: Measure) {
        let residual = measure.residual(3.0, 2.0);
        assert!((measure.moved(2.0, residual) - 3.0).abs() < 1e-12);
        assert_eq!(measure.moved(2.0, 0.0), 2.0);
    }

    fn observed(i: u128, measured: f64, between: Option<(f64, f64)>) -> Observed {
        Observed {
            blade: Some(Uuid::from_u128(i)),
            physics: 60.0,
            measured,
            residual: measured - 60.0,
            noise: if between.is_some() { 1.25 } else { 0.25 },
            reading_noise: 0.25,
            between,
            counts: between.is_none(),
        }
    }

    #[test]
    fn it_counts_misses_and_lets_bounds_off_the_errors() {
        let all = [
            observed(1, 61.0, None),
            observed(2, 63.0, None),
            observed(3, 62.0, Some((60.0, 64.0))),
        ];
        let left = |error, variance| LeftOut { error, variance };
        let out = [left(0.5, 1.0), left(2.5, 1.0), left(1.0, 2.0)];
        let groups = [vec![0], vec![1], vec![2]];
        let lesson = Lesson::new(Measure::Difference, &all, &out, &out, &groups).unwrap();
        assert_eq!((lesson.results, lesson.blades), (3, 3));
        assert!((lesson.before_rms - 5.0_f64.sqrt()).abs() < 1e-12);
        assert!((lesson.after_rms - 3.25_f64.sqrt()).abs() < 1e-12);
        assert_eq!(lesson.bias, 2.0);
        let held: Vec<bool> = lesson.points.iter().map(|p| p.held).collect();
        assert_eq!(held, [true, false, true]);
        // The bracket's interval is that of a reading.
        assert!((lesson.points[2].high - lesson.points[2].predicted - NINETY).abs() < 1e-9);
        assert!(lesson.curve.is_empty() && lesson.promise == Promise::TooFew);
        assert_eq!(Lesson::new(Measure::Ratio, &[], &[], &[], &[]), None);
    }

    #[test]
    fn a_curve_is_cut_into_stretches_of_blades() {
        let all: Vec<Observed> = (0..7).map(|i| observed(i, 61.0, None)).collect();
        let prequential: Vec<LeftOut> = (0..7)
            .map(|i| LeftOut {
                error: if i < 3 { 1.0 } else { 0.5 },
                variance: 1.0,
            })
            .collect();
        let groups: Vec<Vec<usize>> = (0..7).map(|i| vec![i]).collect();
        let curve = Lesson::new(
            Measure::Difference,
            &all,
            &prequential,
            &prequential,
            &groups,
        )
        .unwrap()
        .curve;
        let short: Vec<_> = curve.iter().map(|s| (s.after, s.blades, s.rms)).collect();
        assert_eq!(short, [(0, 3, 1.0), (3, 4, 0.5)]);
        assert_eq!(curve[0].physics_rms, 1.0);
    }

    #[test]
    fn a_bias_is_sure_when_its_interval_leaves_zero_out() {
        assert!(Bias::new(Share::Shop, 1.0, 0.5, 3).sure);
        assert!(!Bias::new(Share::Shop, -1.0, 0.7, 3).sure);
    }
}
