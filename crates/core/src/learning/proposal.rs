//! What to try next: the single check or trial that would tell most about the hardness of what this shop
//! makes.
//!
//! In a Gaussian process the width after a measurement does not depend on what is measured, so every
//! candidate can be weighed before it is done (MacKay 1992, "Information-based objective functions for
//! active data selection").

use super::kernel::{KernelTerm, Scales};
use super::lesson::Share;
use super::model::Model;
use super::record::Features;
use crate::quantity::interval::NINETY;
use crate::record::reading::When;
use serde::Serialize;
use std::collections::{HashMap, HashSet};
use uuid::Uuid;

/// The newest results that stand for what this shop makes.
const LIKE_THE_LAST: usize = 30;
/// Readings a trial is the mean of.
const READINGS: usize = 3;
/// What a thermometer beside the work leaves unknown of a fire, one standard deviation, °C.
const THERMOMETER_C: f64 = 2.0;
/// What a test block leaves unknown of a tester, one standard deviation, HRC.
const BLOCK_HRC: f64 = 0.3;
/// A trial must take away this share of what is unknown to be worth a sentence.
const WORTH: f64 = 0.01;
/// How far from the usual temper a coupon is tempered, °C.
const APART_C: f64 = 30.0;
/// Most that are proposed.
const MOST: usize = 3;

/// Something to be done.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Measurement {
    /// A thermometer beside the work in a fire or oven.
    Thermometer {
        /// The station.
        id: Uuid,
    },
    /// Test blocks under the tester.
    Blocks {
        /// The tester.
        id: Uuid,
    },
    /// Read the next blade of a steel before it is tempered.
    ReadAsQuenched {
        /// Key of the steel.
        steel: String,
    },
    /// A coupon quenched with the next blade of a steel and tempered otherwise.
    Coupon {
        /// Key of the steel.
        steel: String,
        /// Temper, °C.
        temper_c: f64,
    },
}

impl Measurement {
    /// The same kind of thing on the same steel or station.
    fn alike(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Coupon { steel: a, .. }, Self::Coupon { steel: b, .. }) => a == b,
            _ => self == other,
        }
    }
}

/// A trial with what it is good for.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Proposal {
    /// What to do.
    pub measurement: Measurement,
    /// How far predictions for blades like the last thirty that share what it teaches about, tempered as
    /// usual or a little otherwise, may be off nine times in ten, HRC: what more records could tell,
    /// without the scatter from blade to blade and from reading to reading that none can.
    pub now_hrc: f64,
    /// The same afterwards.
    pub then_hrc: f64,
    /// What it tells most about.
    pub teaches: Share,
}

/// A measurement that could be made.
struct Candidate<'a> {
    measurement: Measurement,
    /// Work against that of a check, 1 or more.
    effort: f64,
    /// Covariance with a result.
    with: Box<dyn Fn(&Features) -> f64 + 'a>,
    /// Its own variance with its noise.
    own: f64,
    /// What it could tell of.
    about: Vec<(Share, KernelTerm)>,
}

fn parts(x: &Features) -> Vec<(Share, KernelTerm)> {
    let key = x.steel.clone();
    let mut all = vec![(Share::Steel { key }, KernelTerm::Steel)];
    all.extend(x.oven.map(|id| (Share::Oven { id }, KernelTerm::Oven)));
    all.extend(x.kiln.map(|id| (Share::Kiln { id }, KernelTerm::Kiln)));
    all.extend(
        x.tester
            .map(|id| (Share::Tester { id }, KernelTerm::Tester)),
    );
    all
}

/// Checks of what a result like `x` hangs on: its oven, its kiln, its tester.
fn checks_of<'a>(scales: &'a Scales, x: &Features) -> Vec<Candidate<'a>> {
    let square = |scale: f64, noise: f64| scale * scale + noise * noise;
    let heat = |id, scale: f64, slope: fn(&Features, Uuid) -> f64, about| Candidate {
        measurement: Measurement::Thermometer { id },
        effort: 1.0,
        with: Box::new(move |f| scale * scale * slope(f, id)),
        own: square(scale, THERMOMETER_C),
        about: vec![about],
    };
    let per_oven = |f: &Features, id| {
        if f.oven == Some(id) {
            f.per_oven_c
        } else {
            0.0
        }
    };
    let per_kiln = |f: &Features, id| {
        if f.kiln == Some(id) {
            f.per_kiln_c
        } else {
            0.0
        }
    };
    let mut all = Vec::new();
    all.extend(x.oven.map(|id| {
        let about = (Share::Oven { id }, KernelTerm::Oven);
        heat(id, scales.oven_c, per_oven, about)
    }));
    all.extend(x.kiln.map(|id| {
        let about = (Share::Kiln { id }, KernelTerm::Kiln);
        heat(id, scales.kiln_c, per_kiln, about)
    }));
    all.extend(x.tester.map(|id| {
        let variance = scales.tester_hrc * scales.tester_hrc;
        Candidate {
            measurement: Measurement::Blocks { id },
            effort: 1.0,
            with: Box::new(move |f| if f.tester == Some(id) { variance } else { 0.0 }),
            own: square(scales.tester_hrc, BLOCK_HRC),
            about: vec![(Share::Tester { id }, KernelTerm::Tester)],
        }
    }));
    all
}

/// Readings of a steel made as `x`: untempered, and coupons tempered at other temperatures.
fn readings_of<'a>(scales: &'a Scales, x: &Features) -> Vec<Candidate<'a>> {
    let steel = || x.steel.clone();
    let read = |measurement, effort, features: Features| {
        let own = scales.variance(&features) + scales.noise(READINGS);
        let about = parts(&features);
        let with = Box::new(move |f: &Features| scales.covariance(&features, f));
        Candidate {
            measurement,
            effort,
            with,
            own,
            about,
        }
    };
    let hard = Features {
        when: When::AsQuenched,
        oven: None,
        temper_c: None,
        per_oven_c: 0.0,
        ..x.clone()
    };
    let mut all = vec![read(
        Measurement::ReadAsQuenched { steel: steel() },
        1.5,
        hard,
    )];
    for apart in [-APART_C, APART_C] {
        if let Some(t) = x.temper_c.map(|t| ((t + apart) / 5.0).round() * 5.0) {
            let coupon = Features {
                temper_c: Some(t),
                ..x.clone()
            };
            let measurement = Measurement::Coupon {
                steel: steel(),
                temper_c: t,
            };
            all.push(read(measurement, 2.5, coupon));
        }
    }
    all
}

fn candidates<'a>(model: &'a Model, like: &[Features]) -> Vec<Candidate<'a>> {
    let scales = model.scales();
    let mut all: Vec<Candidate<'a>> = Vec::new();
    let mut steels: HashSet<String> = HashSet::new();
    for x in like.iter().rev() {
        let mut of_it = checks_of(scales, x);
        // Each steel as it was made last.
        if steels.insert(x.steel.clone()) {
            of_it.extend(readings_of(scales, x));
        }
        for c in of_it {
            if all.iter().all(|known| known.measurement != c.measurement) {
                all.push(c);
            }
        }
    }
    all
}

/// Half the width of a 90 % interval of `variance`, mean over targets.
fn half_width<T>(targets: &[T], variance: impl Fn(&T) -> f64) -> f64 {
    let sum: f64 = targets.iter().map(|t| variance(t).sqrt()).sum();
    NINETY * sum / targets.len().max(1) as f64
}

fn dot(a: &[f64], b: &[f64]) -> f64 {
    a.iter().zip(b).map(|(a, b)| a * b).sum()
}

/// A result to predict: its features, what the records explain of it, and its variance now, HRC².
type Target = (Features, Vec<f64>, f64);

/// What is still unknown after all records.
struct Unknowns<'a> {
    model: &'a Model,
    targets: Vec<Target>,
    /// Of each part that results share: where it was met, and what the records explain of it.
    shared: HashMap<Share, (Features, Vec<f64>)>,
}

impl<'a> Unknowns<'a> {
    /// Of results like these, tempered as they were and a little cooler and hotter.
    fn of(model: &'a Model, like: &[Features]) -> Self {
        let scales = model.scales();
        let targets = like
            .iter()
            .flat_map(|x| {
                [-APART_C, 0.0, APART_C].map(|apart| Features {
                    temper_c: x.temper_c.map(|t| t + apart),
                    ..x.clone()
                })
            })
            .map(|x| {
                let half = explained(model, &|f| scales.covariance(&x, f));
                let variance = scales.covariance(&x, &x) - dot(&half, &half);
                (x, half, variance.max(1e-6))
            })
            .collect();
        let mut shared: HashMap<Share, (Features, Vec<f64>)> = HashMap::new();
        for x in like {
            for (share, part) in parts(x) {
                shared.entry(share).or_insert_with(|| {
                    let known = explained(model, &|f| scales.part(part, x, f));
                    (x.clone(), known)
                });
            }
        }
        Self {
            model,
            targets,
            shared,
        }
    }

    /// How much a trial narrows the targets for its work, and what it teaches; none when it is not worth it.
    fn weigh(&self, c: Candidate<'_>) -> Option<(f64, Proposal)> {
        let half = explained(self.model, &*c.with);
        let own = (c.own - dot(&half, &half)).max(1e-9);
        let now = |t: &Target| t.2;
        let then = |(x, known, variance): &Target| {
            let shared = (c.with)(x) - dot(&half, known);
            (variance - shared * shared / own).max(1e-6)
        };
        let explained = |about: &(Share, KernelTerm)| self.explained_share(about, &c, &half, own);
        let (_, teaches) = c
            .about
            .iter()
            .filter_map(explained)
            .max_by(|a, b| a.0.total_cmp(&b.0))?;
        let targets = &self.targets;
        let (before, after) = (half_width(targets, now), half_width(targets, then));
        let gain = (before - after) / before;
        let own: Vec<_> = targets
            .iter()
            .filter(|t| parts(&t.0).iter().any(|p| p.0 == teaches))
            .cloned()
            .collect();
        let (now_hrc, then_hrc) = (half_width(&own, now), half_width(&own, then));
        // What it is said to teach must move too, or the sentence says nothing.
        (gain >= WORTH && then_hrc <= (1.0 - WORTH) * now_hrc).then(|| {
            let proposal = Proposal {
                measurement: c.measurement,
                now_hrc,
                then_hrc,
                teaches,
            };
            (gain / c.effort, proposal)
        })
    }

    /// How much of what is unknown of a part a trial explains, of 1; `half` and `own` are of the trial.
    fn explained_share(
        &self,
        (share, part): &(Share, KernelTerm),
        c: &Candidate<'_>,
        half: &[f64],
        own: f64,
    ) -> Option<(f64, Share)> {
        let scales = self.model.scales();
        let (features, known) = self.shared.get(share)?;
        let left = (scales.part(*part, features, features) - dot(known, known)).max(1e-9);
        let with = match &c.measurement {
            Measurement::Thermometer { .. } | Measurement::Blocks { .. } => (c.with)(features),
            _ => scales.part(*part, features, features),
        };
        let shared = with - dot(half, known);
        Some((shared * shared / (own * left), share.clone()))
    }
}

/// What the records explain of something with this covariance to their results.
fn explained(model: &Model, with: &dyn Fn(&Features) -> f64) -> Vec<f64> {
    let known = model.records().iter().map(|r| with(&r.features));
    model.explained(&known.collect::<Vec<_>>())
}

/// The trials that narrow predictions for blades like the last thirty most for their work, best first, at
/// most three, each of another thing. Empty without results, and when none narrows them by much.
#[must_use]
pub fn propose(model: &Model) -> Vec<Proposal> {
    let tempered = model.records().iter().map(|r| &r.features);
    let tempered: Vec<Features> = tempered
        .filter(|f| f.when == When::Tempered)
        .map(|f| Features {
            blade: None,
            ..f.clone()
        })
        .collect();
    let like = &tempered[tempered.len().saturating_sub(LIKE_THE_LAST)..];
    if like.is_empty() {
        return Vec::new();
    }
    let unknowns = Unknowns::of(model, like);
    let candidates = candidates(model, like).into_iter();
    let mut weighed: Vec<(f64, Proposal)> = candidates.filter_map(|c| unknowns.weigh(c)).collect();
    weighed.sort_by(|a, b| b.0.total_cmp(&a.0));
    let mut all: Vec<Proposal> = Vec::new();
    for (_, proposal) in weighed {
        if all.len() < MOST
            && !all
                .iter()
                .any(|p| p.measurement.alike(&proposal.measurement))
        {
            all.push(proposal);
        }
    }
    all
}

#[cfg(test)]
mod tests {
    use super::super::kernel::tests::features;
    use super::super::record::Record;
    use super::*;

    const OVEN: Uuid = Uuid::from_u128(7);

    fn record(i: u128, steel: &str, change: impl Fn(&mut Features)) -> Record {
        let mut x = features(steel, Some(i), Some(180.0 + 10.0 * (i % 6) as f64));
        x.tester = Some(Uuid::from_u128(3));
        change(&mut x);
        // An oven 10 °C hot, and scatter.
        let scatter = 0.25 * ((i * 37 % 11) as f64 - 5.0);
        Record {
            measured_hrc: 60.0 + 10.0 * x.per_oven_c + scatter,
            features: x,
            physics_hrc: 60.0,
            readings: 3,
            bracket_hrc: None,
        }
    }

    fn proposals_of(records: Vec<Record>) -> Vec<Proposal> {
        propose(&Model::fit(records))
    }

    #[test]
    fn an_oven_that_was_never_checked_comes_first_and_one_that_was_does_not() {
        let shop = |left: f64| {
            let one = |i| {
                record(i, "1084", |x| {
                    x.per_oven_c = -0.03 * (1 + i % 4) as f64 * left;
                })
            };
            proposals_of((0..6).map(one).collect())
        };
        let first = shop(1.0).remove(0);
        assert_eq!(first.measurement, Measurement::Thermometer { id: OVEN });
        assert_eq!(first.teaches, Share::Oven { id: OVEN });
        assert!(first.then_hrc < 0.97 * first.now_hrc, "{first:?}");
        let checked = shop(crate::process::calibration::LEFT_UNKNOWN * 0.5);
        assert_ne!(
            checked[0].measurement,
            Measurement::Thermometer { id: OVEN },
            "{checked:?}"
        );
    }

    #[test]
    fn a_new_steel_asks_to_be_read() {
        // Many results on one steel, one on another, all in a well-known oven under a well-known tester.
        let known = (0..40).map(|i| record(i, "1084", |x| x.per_oven_c = -0.005));
        let new = (40..41).map(|i| {
            record(i, "w2", |x| {
                x.per_oven_c = -0.005;
                x.steel_spread_hrc = 2.0;
            })
        });
        let all = proposals_of(known.chain(new).collect());
        let of_w2 = |p: &&Proposal| match &p.measurement {
            Measurement::ReadAsQuenched { steel } | Measurement::Coupon { steel, .. } => {
                steel == "w2"
            }
            _ => false,
        };
        let found = all.iter().find(of_w2);
        assert!(
            found.is_some_and(|p| p.teaches
                == Share::Steel {
                    key: "w2".to_owned()
                }),
            "{all:?}"
        );
    }

    #[test]
    fn best_first_never_more_than_three_and_nothing_from_nothing() {
        let all = proposals_of((0..5).map(|i| record(i, "o1", |_| ())).collect());
        assert!((1..=3).contains(&all.len()));
        assert!(all.iter().all(|p| p.then_hrc < p.now_hrc));
        assert!(proposals_of(Vec::new()).is_empty());
    }
}
