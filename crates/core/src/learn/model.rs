//! Gaussian-process regression over what physics got wrong.
//!
//! Rasmussen and Williams 2006, "Gaussian Processes for Machine Learning": algorithm 2.1 for the
//! regression, 5.4.1 for the marginal likelihood, 5.4.2 for leaving results out in closed form (here
//! whole blades, since the readings of one blade tell of each other).

use super::cholesky::{Cholesky, inverse_at};
use super::kernel::{Part, Scales};
use super::record::{Features, Record};
use crate::interval::{NINETY, density, upper_tail};
use nalgebra::{DMatrix, DVector};
use std::collections::HashMap;
use std::sync::OnceLock;
use uuid::Uuid;

/// Readings that a new result is assumed to be the mean of.
const NEW_READINGS: usize = 3;
/// Results used to choose the sizes of the parts; the newest count.
const TUNING_RECORDS: usize = 160;

/// Physics corrected by records.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Corrected {
    /// To be added to physics, HRC.
    pub shift_hrc: f64,
    /// One standard deviation of what will be read, HRC.
    pub deviation_hrc: f64,
    /// The same before any record was seen, HRC.
    pub deviation_before_hrc: f64,
}

/// What the records say about the predictions so far; all hardnesses in HRC.
#[derive(Debug, Clone, PartialEq)]
pub struct Lessons {
    /// Results counted.
    pub records: usize,
    /// Root mean square of measured minus physics: the error before learning.
    pub before_rms_hrc: f64,
    /// Root mean square error of each blade predicted from all the others.
    pub after_rms_hrc: f64,
    /// Mean of measured minus physics.
    pub bias_hrc: f64,
    /// Share of results inside the 90 % interval when their blade was left out, 0 to 1.
    pub coverage: f64,
    /// For each record in order: prediction when its blade is left out, and its standard deviation.
    pub left_out: Vec<(f64, f64)>,
}

/// The fitted model. With no records it is physics and its honest width.
#[derive(Debug, Clone)]
pub struct Model {
    scales: Scales,
    records: Vec<Record>,
    /// Factor of the covariance of the residuals, and K⁻¹·residuals.
    factor: Cholesky,
    weights: Vec<f64>,
    sites: Vec<Site>,
    /// Leaving out every blade takes as long as learning: done once, when asked for.
    lessons: OnceLock<Option<Lessons>>,
}

impl Default for Model {
    fn default() -> Self {
        Self {
            scales: Scales::default(),
            records: Vec::new(),
            factor: Cholesky::default(),
            weights: Vec::new(),
            sites: Vec::new(),
            lessons: OnceLock::new(),
        }
    }
}

/// What a record says of the residual: as if it had been read with this much noise, HRC and HRC².
#[derive(Debug, Clone, Copy)]
struct Site {
    residual: f64,
    noise: f64,
}

impl Site {
    /// A reading as it is; a bracket to begin with as anywhere between its ends.
    fn of(record: &Record, scales: &Scales) -> Self {
        let spread = record
            .bracket_hrc
            .map_or(0.0, |(low, high)| (high - low).powi(2) / 12.0);
        Self {
            residual: record.residual(),
            noise: scales.noise(record.readings) + spread,
        }
    }

    /// A bracket once the other records say `mean` and `variance` (of what will be read): its first two
    /// moments (expectation propagation; Minka 2001). Evidence that agrees changes next to nothing.
    fn between(low: f64, high: f64, mean: f64, variance: f64, noise: f64) -> Self {
        let deviation = variance.sqrt();
        let (a, b) = ((low - mean) / deviation, (high - mean) / deviation);
        let mass = upper_tail(a) - upper_tail(b);
        if mass < 1e-6 {
            // Far outside: the nearer end, fairly sure.
            let residual = if a > 0.0 { low } else { high };
            return Self {
                residual,
                noise: noise + 0.05,
            };
        }
        let slope = (density(a) - density(b)) / mass;
        let bent = (a * density(a) - b * density(b)) / mass;
        let left = variance * (1.0 + bent - slope * slope).clamp(1e-3, 1.0);
        let precision = 1.0 / left - 1.0 / variance;
        if precision < 1e-6 {
            return Self {
                residual: mean,
                noise: noise + 1e6,
            };
        }
        let middle = mean + deviation * slope;
        Self {
            residual: (middle / left - mean / variance) / precision,
            noise: noise + 1.0 / precision,
        }
    }
}

/// Times the brackets are gone through.
const BRACKET_ROUNDS: usize = 4;

/// Lower half of the covariance of results, row by row.
fn covariance(records: &[Record], scales: &Scales, sites: &[Site]) -> Vec<f64> {
    let n = records.len();
    let mut k = vec![0.0; n * n];
    for i in 0..n {
        for j in 0..i {
            k[i * n + j] = scales.covariance(&records[i].features, &records[j].features);
        }
        k[i * n + i] = scales.variance(&records[i].features) + sites[i].noise;
    }
    k
}

fn factored(records: &[Record], scales: &Scales, sites: &[Site]) -> Option<Cholesky> {
    Cholesky::factor(covariance(records, scales, sites), records.len())
}

fn sites_of(records: &[Record], scales: &Scales) -> Vec<Site> {
    records.iter().map(|r| Site::of(r, scales)).collect()
}

fn residuals(sites: &[Site]) -> Vec<f64> {
    sites.iter().map(|s| s.residual).collect()
}

fn product(a: &[f64], b: &[f64]) -> f64 {
    a.iter().zip(b).map(|(a, b)| a * b).sum()
}

/// Log marginal likelihood plus the log prior of the multipliers (log-normal about 1).
fn evidence(records: &[Record], logs: &[f64; 6]) -> f64 {
    let scales = scaled(logs);
    let sites = sites_of(records, &scales);
    let Some(factor) = factored(records, &scales, &sites) else {
        return f64::NEG_INFINITY;
    };
    let half = factor.forward(&residuals(&sites));
    let prior: f64 = logs.iter().map(|l| (l / 0.5).powi(2)).sum();
    -0.5 * product(&half, &half) - factor.half_log_det() - 0.5 * prior
}

fn scaled(logs: &[f64; 6]) -> Scales {
    let d = Scales::default();
    let [bias, steel, heat, smooth, blade, reading] = logs.map(f64::exp);
    Scales {
        shop_hrc: d.shop_hrc * bias,
        tester_hrc: d.tester_hrc * bias,
        steel: d.steel * steel,
        bar: d.bar * steel,
        kiln_c: d.kiln_c * heat,
        oven_c: d.oven_c * heat,
        temper_hrc: d.temper_hrc * smooth,
        thickness_hrc: d.thickness_hrc * smooth,
        blade_hrc: d.blade_hrc * blade,
        reading_hrc: d.reading_hrc * reading,
        set_hrc: d.set_hrc * reading,
    }
}

/// Climbs the evidence one multiplier at a time, with shrinking steps. Deterministic.
fn tune(records: &[Record]) -> Scales {
    let newest = &records[records.len().saturating_sub(TUNING_RECORDS)..];
    let mut logs = [0.0; 6];
    let mut best = evidence(newest, &logs);
    for step in [0.4, 0.2, 0.1] {
        for i in 0..logs.len() {
            for sign in [1.0, -1.0] {
                loop {
                    let mut trial = logs;
                    trial[i] += sign * step;
                    let value = evidence(newest, &trial);
                    if value <= best + 1e-9 || trial[i].abs() > 2.0 {
                        break;
                    }
                    (logs, best) = (trial, value);
                }
            }
        }
    }
    scaled(&logs)
}

impl Model {
    /// Learns from `records`, oldest first. Records that are not finite are left aside.
    #[must_use]
    pub fn fit(records: Vec<Record>) -> Self {
        let records: Vec<Record> = records
            .into_iter()
            .filter(|r| r.residual().is_finite())
            .collect();
        if records.is_empty() {
            return Self::default();
        }
        let scales = tune(&records);
        // The noise on the diagonal keeps the matrix positive definite; should rounding ever break
        // it, physics alone is the answer.
        let mut sites = sites_of(&records, &scales);
        let bracketed: Vec<usize> = (0..records.len())
            .filter(|i| records[*i].bracket_hrc.is_some())
            .collect();
        let rounds = if bracketed.is_empty() {
            0
        } else {
            BRACKET_ROUNDS
        };
        for round in 0..=rounds {
            let Some(factor) = factored(&records, &scales, &sites) else {
                return Self::default();
            };
            let weights = factor.solve(&residuals(&sites));
            if round == rounds {
                return Self {
                    scales,
                    weights,
                    factor,
                    records,
                    sites,
                    lessons: OnceLock::new(),
                };
            }
            for &i in &bracketed {
                let mut one = vec![0.0; records.len()];
                one[i] = 1.0;
                let half = factor.forward(&one);
                let left_out = 1.0 / product(&half, &half).max(1e-12);
                let noise = scales.noise(records[i].readings);
                let mean = sites[i].residual - weights[i] * left_out;
                let variance = (left_out - sites[i].noise).max(1e-4) + noise;
                if let Some((low, high)) = records[i].bracket_hrc {
                    let physics = records[i].physics_hrc;
                    sites[i] = Site::between(low - physics, high - physics, mean, variance, noise);
                }
            }
        }
        Self::default()
    }

    /// The records learned from.
    #[must_use]
    pub fn records(&self) -> &[Record] {
        &self.records
    }

    /// How many records, and how many of them of this steel.
    #[must_use]
    pub fn counts(&self, steel: &str) -> (usize, usize) {
        let same = self
            .records
            .iter()
            .filter(|r| r.features.steel == steel)
            .count();
        (self.records.len(), same)
    }

    fn against(&self, x: &Features) -> Vec<f64> {
        let known = self.records.iter();
        known
            .map(|r| self.scales.covariance(x, &r.features))
            .collect()
    }

    /// How far the records move physics at `x`, HRC.
    #[must_use]
    pub fn shift_hrc(&self, x: &Features) -> f64 {
        product(&self.against(x), &self.weights)
    }

    /// Correction and width at `x`.
    #[must_use]
    pub fn correct(&self, x: &Features) -> Corrected {
        let noise = self.scales.noise(NEW_READINGS);
        let before = Scales::default();
        let k = self.against(x);
        let half = self.factor.forward(&k);
        let variance = (self.scales.variance(x) - product(&half, &half)).max(0.0) + noise;
        Corrected {
            shift_hrc: product(&k, &self.weights),
            deviation_hrc: variance.sqrt(),
            deviation_before_hrc: (before.variance(x) + before.noise(NEW_READINGS)).sqrt(),
        }
    }

    /// How much one part moves the prediction at `x`, HRC.
    #[must_use]
    pub fn contribution(&self, part: Part, x: &Features) -> f64 {
        self.records
            .iter()
            .zip(self.weights.iter())
            .map(|(r, w)| w * self.scales.part(part, x, &r.features))
            .sum()
    }

    /// How much hotter than set each oven runs by the records, °C.
    #[must_use]
    pub fn oven_offset_c(&self, oven: Option<Uuid>) -> f64 {
        self.offset(self.scales.oven_c, |f| {
            if f.oven == oven { f.per_oven_c } else { 0.0 }
        })
    }

    /// How much hotter than set a kiln or forge runs by the records, °C.
    #[must_use]
    pub fn kiln_offset_c(&self, kiln: Option<Uuid>) -> f64 {
        self.offset(self.scales.kiln_c, |f| {
            if f.kiln == kiln { f.per_kiln_c } else { 0.0 }
        })
    }

    fn offset(&self, scale: f64, slope: impl Fn(&Features) -> f64) -> f64 {
        let sum: f64 = self
            .records
            .iter()
            .zip(self.weights.iter())
            .map(|(r, w)| w * slope(&r.features))
            .sum();
        scale * scale * sum
    }

    /// Each blade predicted from all the others; None without records.
    #[must_use]
    pub fn lessons(&self) -> Option<Lessons> {
        self.lessons.get_or_init(|| self.leave_out()).clone()
    }

    fn leave_out(&self) -> Option<Lessons> {
        let n = self.records.len();
        if n == 0 {
            return None;
        }
        let mut groups: HashMap<Option<Uuid>, Vec<usize>> = HashMap::new();
        for (i, record) in self.records.iter().enumerate() {
            groups.entry(record.features.blade).or_default().push(i);
        }
        let mut left_out = vec![(0.0, 0.0); n];
        let columns = self.factor.inverse_columns();
        for members in groups.values() {
            let m = members.len();
            let block = DMatrix::from_fn(m, m, |a, b| inverse_at(&columns, members[a], members[b]));
            let Some(covariance) = block.try_inverse() else {
                continue;
            };
            let weights = DVector::from_iterator(m, members.iter().map(|i| self.weights[*i]));
            let errors = &covariance * weights;
            for (a, i) in members.iter().enumerate() {
                // The width is that of a reading, also where there was only a bracket.
                let (record, site) = (&self.records[*i], self.sites[*i]);
                let noise = self.scales.noise(record.readings);
                left_out[*i] = (
                    record.physics_hrc + site.residual - errors[a],
                    (covariance[(a, a)] - site.noise + noise).max(0.0).sqrt(),
                );
            }
        }
        // Errors are of what was read; a bracket counts for the intervals only.
        let read: Vec<(&Record, (f64, f64))> = self
            .records
            .iter()
            .zip(left_out.iter().copied())
            .filter(|(r, _)| r.bracket_hrc.is_none())
            .collect();
        let count = read.len().max(1) as f64;
        let mean = |values: Vec<f64>| values.iter().sum::<f64>() / count;
        let inside = self.records.iter().zip(&left_out).filter(|(r, p)| {
            let (low, high) = r.bracket_hrc.unwrap_or((r.measured_hrc, r.measured_hrc));
            low - p.0 <= NINETY * p.1 && p.0 - high <= NINETY * p.1
        });
        let coverage = inside.count() as f64 / n as f64;
        Some(Lessons {
            records: n,
            before_rms_hrc: mean(read.iter().map(|(r, _)| r.residual().powi(2)).collect()).sqrt(),
            after_rms_hrc: mean(
                read.iter()
                    .map(|(r, p)| (r.measured_hrc - p.0).powi(2))
                    .collect(),
            )
            .sqrt(),
            bias_hrc: mean(read.iter().map(|(r, _)| r.residual()).collect()),
            coverage,
            left_out,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::super::kernel::tests::features;
    use super::*;

    /// A fixed stream of standard normal numbers (sum of twelve uniforms of a linear generator).
    struct Normals(u64);
    impl Normals {
        fn next(&mut self) -> f64 {
            (0..12)
                .map(|_| {
                    self.0 = self
                        .0
                        .wrapping_mul(6_364_136_223_846_793_005)
                        .wrapping_add(1_442_695_040_888_963_407);
                    (self.0 >> 11) as f64 / (1u64 << 53) as f64
                })
                .sum::<f64>()
                - 6.0
        }
    }

    /// Blades of a shop whose oven runs `oven` °C hot and whose tester reads 0.6 HRC high.
    fn shop(blades: u128, oven: f64, seed: u64) -> Vec<Record> {
        let mut normal = Normals(seed);
        (0..blades)
            .map(|i| {
                let steel = ["1084", "w2", "o1", "5160"][i as usize % 4];
                let f = features(steel, Some(i), Some(180.0 + 15.0 * (i % 7) as f64));
                let f = Features {
                    per_oven_c: -0.04 - 0.008 * (i % 5) as f64,
                    ..f
                };
                let truth = 0.6 + f.per_oven_c * oven;
                Record {
                    measured_hrc: 60.0 + truth + 0.4 * normal.next(),
                    features: f,
                    physics_hrc: 60.0,
                    readings: 3,
                    bracket_hrc: None,
                }
            })
            .collect()
    }

    #[test]
    fn without_records_it_is_physics_with_its_width() {
        let model = Model::fit(Vec::new());
        let c = model.correct(&features("1084", None, Some(205.0)));
        assert_eq!(c.shift_hrc, 0.0);
        assert!(c.deviation_hrc == c.deviation_before_hrc && c.deviation_hrc > 1.0);
        assert!(model.lessons().is_none());
    }

    #[test]
    fn a_handful_moves_and_narrows() {
        let x = features("1084", None, Some(205.0));
        let model = Model::fit(shop(6, 0.0, 1));
        let c = model.correct(&x);
        assert!(c.shift_hrc > 0.2, "{c:?}");
        assert!(c.deviation_hrc < 0.85 * c.deviation_before_hrc, "{c:?}");
    }

    #[test]
    fn many_find_the_oven_and_halve_the_error() {
        let model = Model::fit(shop(80, 30.0, 2));
        let offset = model.oven_offset_c(Some(Uuid::from_u128(7)));
        assert!(offset > 8.0 && offset < 40.0, "{offset}");
        let lessons = model.lessons().unwrap();
        assert!(
            lessons.after_rms_hrc < 0.6 * lessons.before_rms_hrc,
            "{lessons:?}"
        );
        assert!(
            (0.8..=1.0).contains(&lessons.coverage),
            "{}",
            lessons.coverage
        );
    }

    #[test]
    fn closed_form_equals_leaving_out_for_real() {
        let records = shop(12, 9.0, 3);
        let model = Model::fit(records.clone());
        let lessons = model.lessons().unwrap();
        let mut rest = records.clone();
        let out = rest.remove(4);
        // The same scales, one blade fewer.
        let sites = sites_of(&rest, &model.scales);
        let factor = factored(&rest, &model.scales, &sites).unwrap();
        let fewer = Model {
            scales: model.scales,
            weights: factor.solve(&residuals(&sites)),
            factor,
            records: rest,
            sites,
            lessons: OnceLock::new(),
        };
        let direct = out.physics_hrc + fewer.shift_hrc(&out.features);
        assert!((lessons.left_out[4].0 - direct).abs() < 1e-8);
    }

    #[test]
    fn the_parts_add_up_to_the_shift() {
        let model = Model::fit(shop(20, 9.0, 4));
        let x = features("w2", None, Some(220.0));
        let sum: f64 = Part::ALL
            .into_iter()
            .map(|p| model.contribution(p, &x))
            .sum();
        assert!((sum - model.shift_hrc(&x)).abs() < 1e-9);
    }

    fn filed(n: u128, low: f64, high: f64) -> Vec<Record> {
        (0..n)
            .map(|i| Record {
                features: features("1084", Some(i), Some(205.0)),
                physics_hrc: 60.0,
                measured_hrc: 0.5 * (low + high),
                readings: 1,
                bracket_hrc: Some((low, high)),
            })
            .collect()
    }

    #[test]
    fn a_file_bracket_that_agrees_moves_little_and_one_that_does_not_moves_much() {
        let x = features("1084", None, Some(205.0));
        let agrees = Model::fit(filed(4, 57.0, 63.0)).correct(&x);
        assert!(agrees.shift_hrc.abs() < 0.15, "{agrees:?}");
        assert!(agrees.deviation_hrc < agrees.deviation_before_hrc);
        let harder = Model::fit(filed(4, 62.0, 65.0)).correct(&x);
        assert!((1.5..3.3).contains(&harder.shift_hrc), "{harder:?}");
        let softer = Model::fit(filed(4, 50.0, 55.0)).correct(&x);
        assert!(softer.shift_hrc < -2.5, "{softer:?}");
        // What was read tells more than what was filed.
        let read: Vec<Record> = filed(4, 62.0, 65.0)
            .into_iter()
            .map(|r| Record {
                bracket_hrc: None,
                readings: 3,
                ..r
            })
            .collect();
        assert!(Model::fit(read).correct(&x).deviation_hrc < harder.deviation_hrc);
    }

    #[test]
    fn brackets_count_for_the_intervals() {
        let mut records = shop(20, 9.0, 6);
        records.extend(filed(10, 58.0, 62.0));
        let lessons = Model::fit(records).lessons().unwrap();
        assert_eq!(lessons.records, 30);
        assert!(lessons.coverage > 0.8 && lessons.after_rms_hrc.is_finite());
    }

    #[test]
    fn same_records_same_answer_to_the_bit() {
        let x = features("o1", None, Some(200.0));
        let a = Model::fit(shop(30, 9.0, 5)).correct(&x);
        assert_eq!(a, Model::fit(shop(30, 9.0, 5)).correct(&x));
    }
}
