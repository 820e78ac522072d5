//! Hardness: Gaussian-process regression over what physics got wrong.
//!
//! Rasmussen and Williams 2006, "Gaussian Processes for Machine Learning", 5.4.1 for the marginal
//! likelihood that chooses the sizes of the parts.

use super::kernel::{KernelTerm, Scales, SpreadPart};
use super::lesson::{Bias, Lesson, Measure, Observed, Share};
use super::record::{Features, Record};
use super::regression::{LeftOut, Regression, by_blade, prequential};
use crate::material::medium::Medium;
use crate::process::operator::Operator;
use crate::quantity::interval::{density, upper_tail};
use crate::record::reading::When;
use std::collections::HashSet;
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

/// The fitted model. With no records it is physics and its honest width.
#[derive(Debug, Clone, Default)]
pub struct Model {
    scales: Scales,
    records: Vec<Record>,
    regression: Regression,
    sites: Vec<Site>,
    /// Leaving out every blade takes as long as learning: done once, when asked for.
    checked: OnceLock<Checked>,
}

/// Every record predicted without its blade.
#[derive(Debug, Clone)]
struct Checked {
    groups: Vec<Vec<usize>>,
    left_out: Vec<LeftOut>,
    prequential: Vec<LeftOut>,
}

/// What a record says of the residual: as if it had been read with this much noise, HRC and HRC².
#[derive(Debug, Clone, Copy)]
struct Site {
    residual: f64,
    noise: f64,
}

impl Site {
    /// A reading as it is; a bracket to begin with as anywhere between its ends.
    fn from_record(record: &Record, scales: &Scales) -> Self {
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

fn sites_of(records: &[Record], scales: &Scales) -> Vec<Site> {
    records
        .iter()
        .map(|r| Site::from_record(r, scales))
        .collect()
}

fn residuals(sites: &[Site]) -> Vec<f64> {
    sites.iter().map(|s| s.residual).collect()
}

/// Covariance of two records, and of one with itself, without the noise of its reading, HRC².
fn covariance(records: &[Record], scales: &Scales, i: usize, j: usize) -> f64 {
    if i == j {
        scales.variance(&records[i].features)
    } else {
        scales.covariance(&records[i].features, &records[j].features)
    }
}

fn regressed(records: &[Record], scales: &Scales, sites: &[Site]) -> Option<Regression> {
    Regression::fit(
        &residuals(sites),
        |i, j| covariance(records, scales, i, j),
        |i| sites[i].noise,
    )
}

fn square(half: &[f64]) -> f64 {
    half.iter().map(|h| h * h).sum()
}

/// Log marginal likelihood plus the log prior of the multipliers (log-normal about 1).
fn evidence(records: &[Record], logs: &[f64; 6]) -> f64 {
    let scales = scaled(logs);
    let sites = sites_of(records, &scales);
    let Some(regression) = regressed(records, &scales, &sites) else {
        return f64::NEG_INFINITY;
    };
    let prior: f64 = logs.iter().map(|l| (l / 0.5).powi(2)).sum();
    regression.evidence(&residuals(&sites)) - 0.5 * prior
}

fn scaled(logs: &[f64; 6]) -> Scales {
    let d = Scales::default();
    let [bias, steel, heat, smooth, blade, reading] = logs.map(f64::exp);
    Scales {
        shop_hrc: d.shop_hrc * bias,
        tester_hrc: d.tester_hrc * bias,
        tank_hrc: d.tank_hrc * bias,
        tank_ln: d.tank_ln,
        operator_hrc: d.operator_hrc * bias,
        operator_s: d.operator_s,
        pace_ln: d.pace_ln,
        bar_carbon_percent: d.bar_carbon_percent,
        soak_ln: d.soak_ln,
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
            let Some(regression) = regressed(&records, &scales, &sites) else {
                return Self::default();
            };
            if round == rounds {
                return Self {
                    scales,
                    regression,
                    records,
                    sites,
                    checked: OnceLock::new(),
                };
            }
            for &i in &bracketed {
                let mut one = vec![0.0; records.len()];
                one[i] = 1.0;
                let left_out = 1.0 / square(&regression.explained(&one)).max(1e-12);
                let noise = scales.noise(records[i].readings);
                let mean = sites[i].residual - regression.weights()[i] * left_out;
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
        self.regression.shift(&self.against(x))
    }

    /// Correction and width at `x`.
    #[must_use]
    pub fn correct(&self, x: &Features) -> Corrected {
        let noise = self.scales.noise(NEW_READINGS);
        let before = Scales::default();
        let k = self.against(x);
        let explained = square(&self.regression.explained(&k));
        let variance = (self.scales.variance(x) - explained).max(0.0) + noise;
        Corrected {
            shift_hrc: self.regression.shift(&k),
            deviation_hrc: variance.sqrt(),
            deviation_before_hrc: (before.variance(x) + before.noise(NEW_READINGS)).sqrt(),
        }
    }

    /// How much one part moves the prediction at `x`, HRC.
    #[must_use]
    pub fn contribution(&self, part: KernelTerm, x: &Features) -> f64 {
        let parts = self.records.iter();
        let k: Vec<f64> = parts
            .map(|r| self.scales.part(part, x, &r.features))
            .collect();
        self.regression.shift(&k)
    }

    /// How much hotter than set each oven runs by the records, °C.
    #[must_use]
    pub fn oven_offset_c(&self, oven: Option<Uuid>) -> f64 {
        self.offset(self.scales.oven_c, |f| {
            if f.oven == oven { f.per_oven_c } else { 0.0 }
        })
        .0
    }

    /// How much hotter than set a kiln or forge runs by the records, °C.
    #[must_use]
    pub fn kiln_offset_c(&self, kiln: Option<Uuid>) -> f64 {
        self.offset(self.scales.kiln_c, |f| {
            if f.kiln == kiln { f.per_kiln_c } else { 0.0 }
        })
        .0
    }

    /// How much faster a bath takes heat than its kind by the records, logarithm.
    #[must_use]
    pub fn film_ln(&self, tank: Option<Medium>) -> f64 {
        self.offset(self.scales.tank_ln, |f| {
            if f.tank == tank {
                f.quench.per_ln_film
            } else {
                0.0
            }
        })
        .0
    }

    /// How much slower a steel transforms than computed by the records, logarithm of time.
    #[must_use]
    pub fn pace_ln(&self, steel: &str) -> f64 {
        self.offset(self.scales.pace_ln, |f| {
            if f.steel == steel {
                f.quench.per_ln_pace
            } else {
                0.0
            }
        })
        .0
    }

    /// How much longer an operator takes to the bath than is planned by the records, s.
    #[must_use]
    pub fn transfer_s(&self, operator: Option<&Operator>) -> f64 {
        self.offset(self.scales.operator_s, |f| {
            if f.operator.as_ref() == operator {
                f.quench.per_transfer_s
            } else {
                0.0
            }
        })
        .0
    }

    /// What makes a result like `x` unsure before any record, largest first; nothing below a twentieth of a
    /// point.
    #[must_use]
    pub fn spread_parts(&self, x: &Features) -> Vec<SpreadPart> {
        self.scales.spread_parts(x, NEW_READINGS)
    }

    /// An offset of size `scale` that moves each record by `slope`: its mean and one standard deviation.
    fn offset(&self, scale: f64, slope: impl Fn(&Features) -> f64) -> (f64, f64) {
        let k: Vec<f64> = self
            .records
            .iter()
            .map(|r| scale * scale * slope(&r.features))
            .collect();
        let left = scale * scale - square(&self.regression.explained(&k));
        (self.regression.shift(&k), left.max(0.0).sqrt())
    }

    /// What the shop, its steels, fires, testers, tanks and operators were found to do, each beside all the
    /// others. Of a station that was checked, the offset is what the check left unknown, over
    /// [`crate::process::calibration::LEFT_UNKNOWN`].
    #[must_use]
    pub fn biases(&self) -> Vec<Bias> {
        let scales = &self.scales;
        let mut all = Vec::new();
        let mut seen: HashSet<Share> = HashSet::new();
        let mut add = |share: Share, scale: f64, slope: &dyn Fn(&Features) -> f64| {
            if !seen.insert(share.clone()) {
                return;
            }
            let matters = |r: &&Record| slope(&r.features) != 0.0;
            let results = self.records.iter().filter(matters).count();
            if results > 0 {
                let (by, deviation) = self.offset(scale, slope);
                all.push(Bias::new(share, by, deviation, results));
            }
        };
        let one = |same: bool, slope: f64| if same { slope } else { 0.0 };
        add(Share::Shop, scales.shop_hrc, &|_| 1.0);
        for r in &self.records {
            let f = &r.features;
            let key = f.steel.clone();
            let steel = scales.steel * f.steel_spread_hrc;
            add(Share::Steel { key }, steel, &|g| {
                // Of the same steel the spread is the same but for its bar.
                one(g.steel == f.steel, g.steel_spread_hrc / f.steel_spread_hrc)
            });
            if let Some(id) = f.kiln {
                let slope = |g: &Features| one(g.kiln == f.kiln, g.per_kiln_c);
                add(Share::Kiln { id }, scales.kiln_c, &slope);
            }
            if let Some(id) = f.oven {
                let slope = |g: &Features| one(g.oven == f.oven, g.per_oven_c);
                add(Share::Oven { id }, scales.oven_c, &slope);
            }
            if let Some(id) = f.tester {
                let slope = |g: &Features| one(g.tester == f.tester, 1.0);
                add(Share::Tester { id }, scales.tester_hrc, &slope);
            }
            if let Some(medium) = f.tank {
                let slope = |g: &Features| one(g.tank == f.tank, 1.0);
                add(Share::Tank { medium }, scales.tank_hrc, &slope);
            }
            if let Some(operator) = f.operator.clone() {
                let slope = |g: &Features| one(g.operator == f.operator, 1.0);
                add(Share::Operator { operator }, scales.operator_hrc, &slope);
            }
        }
        all
    }

    /// Each blade predicted from all the others, and from those before it: the results read at `when`.
    /// None without such records.
    #[must_use]
    pub fn lesson(&self, when: When) -> Option<Lesson> {
        let checked = self.checked.get_or_init(|| self.check());
        let observed: Vec<Observed> = self
            .records
            .iter()
            .zip(&self.sites)
            .map(|(r, site)| Observed {
                blade: r.features.blade,
                physics: r.physics_hrc,
                measured: r.measured_hrc,
                residual: site.residual,
                noise: site.noise,
                reading_noise: self.scales.noise(r.readings),
                between: r.bracket_hrc,
                counts: r.bracket_hrc.is_none(),
            })
            .collect();
        let own = |i: &usize| self.records[*i].features.when == when;
        let groups: Vec<Vec<usize>> = checked
            .groups
            .iter()
            .map(|group| group.iter().copied().filter(own).collect::<Vec<_>>())
            .filter(|group| !group.is_empty())
            .collect();
        let (out, before) = (&checked.left_out, &checked.prequential);
        Lesson::new(Measure::Difference, &observed, out, before, &groups)
    }

    fn check(&self) -> Checked {
        let groups = by_blade(self.records.iter().map(|r| r.features.blade));
        Checked {
            left_out: self.regression.left_out(&groups),
            prequential: prequential(
                &residuals(&self.sites),
                &groups,
                |i, j| covariance(&self.records, &self.scales, i, j),
                |i| self.sites[i].noise,
            ),
            groups,
        }
    }

    pub(super) fn scales(&self) -> &Scales {
        &self.scales
    }

    /// What the records explain of the covariance with each of them, see [`Regression::explained`].
    pub(super) fn explained(&self, k: &[f64]) -> Vec<f64> {
        self.regression.explained(k)
    }
}

#[cfg(test)]
mod tests {
    use super::super::kernel::tests::features;
    use super::*;
    use crate::process::operator::Operator;

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
    fn a_weak_tank_a_slow_hand_and_a_late_steel_are_found_as_what_they_are() {
        use crate::simulation::physics::QuenchSlopes;
        // Blades that harden in part, each hanging on one of the three.
        let records: Vec<Record> = (0..60_u32)
            .map(|i| {
                let slope = 4.0 + f64::from(i % 5);
                let quench = match i % 3 {
                    0 => QuenchSlopes {
                        per_ln_film: slope,
                        ..QuenchSlopes::default()
                    },
                    1 => QuenchSlopes {
                        per_transfer_s: -0.5 * slope,
                        ..QuenchSlopes::default()
                    },
                    _ => QuenchSlopes {
                        per_ln_pace: slope,
                        ..QuenchSlopes::default()
                    },
                };
                let mut x =
                    super::super::kernel::tests::features("1084", Some(u128::from(i)), Some(205.0));
                x.quench = quench;
                let off = -0.22 * quench.per_ln_film
                    + 0.8 * quench.per_transfer_s
                    + 0.3 * quench.per_ln_pace;
                Record {
                    features: x,
                    physics_hrc: 60.0,
                    measured_hrc: 60.0 + off,
                    readings: 3,
                    bracket_hrc: None,
                }
            })
            .collect();
        let model = Model::fit(records);
        let film = model.film_ln(Some(Medium::FastOil));
        assert!((-0.3..-0.1).contains(&film), "{film}");
        let (way, pace) = (model.transfer_s(None), model.pace_ln("1084"));
        assert!(
            (0.4..1.1).contains(&way) && (0.15..0.4).contains(&pace),
            "{way} {pace}"
        );
    }

    #[test]
    fn without_records_it_is_physics_with_its_width() {
        let model = Model::fit(Vec::new());
        let c = model.correct(&features("1084", None, Some(205.0)));
        assert_eq!(c.shift_hrc, 0.0);
        assert!(c.deviation_hrc == c.deviation_before_hrc && c.deviation_hrc > 1.0);
        assert_eq!(model.lesson(When::Tempered), None);
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
        let lesson = model.lesson(When::Tempered).unwrap();
        assert!(lesson.after_rms < 0.6 * lesson.before_rms, "{lesson:?}");
        assert!((0.8..=1.0).contains(&lesson.coverage), "{lesson:?}");
        assert_eq!(model.lesson(When::AsQuenched), None);
        // It got better as it went.
        let (first, last) = (lesson.curve[0], lesson.curve.last().unwrap());
        assert!(last.rms < 0.7 * first.rms, "{:?}", lesson.curve);
        assert_eq!(lesson.curve.iter().map(|s| s.blades).sum::<usize>(), 80);
    }

    #[test]
    fn closed_form_equals_leaving_out_for_real() {
        let records = shop(12, 9.0, 3);
        let model = Model::fit(records.clone());
        let lesson = model.lesson(When::Tempered).unwrap();
        let mut rest = records.clone();
        let out = rest.remove(4);
        // The same scales, one blade fewer.
        let sites = sites_of(&rest, &model.scales);
        let fewer = Model {
            scales: model.scales,
            regression: regressed(&rest, &model.scales, &sites).unwrap(),
            records: rest,
            sites,
            checked: OnceLock::new(),
        };
        let direct = out.physics_hrc + fewer.shift_hrc(&out.features);
        assert!((lesson.points[4].predicted - direct).abs() < 1e-8);
    }

    #[test]
    fn biases_tell_the_oven_from_the_hand_and_the_steel() {
        let mut normal = Normals(9);
        let operators = [
            Operator::parse("Tove").unwrap(),
            Operator::parse("Aksel").unwrap(),
        ];
        let records: Vec<Record> = shop(90, 20.0, 8)
            .into_iter()
            .enumerate()
            .map(|(i, mut r)| {
                // The second operator's blades come out softer, and so does w2.
                let operator = (normal.next() > 0.0) as usize;
                r.features.operator = Some(operators[operator].clone());
                r.measured_hrc -= 0.9 * operator as f64 + if i % 4 == 1 { 1.2 } else { 0.0 };
                r
            })
            .collect();
        let biases = Model::fit(records).biases();
        let bias = |share: Share| biases.iter().find(|b| b.share == share).unwrap();
        let operator = |i: usize| {
            bias(Share::Operator {
                operator: operators[i].clone(),
            })
        };
        assert!(operator(0).by - operator(1).by > 0.5, "{biases:?}");
        let steel = |key: &str| {
            bias(Share::Steel {
                key: key.to_owned(),
            })
        };
        assert!(steel("w2").by < steel("o1").by - 0.6, "{biases:?}");
        let oven = bias(Share::Oven {
            id: Uuid::from_u128(7),
        });
        assert!(oven.by > 5.0 && oven.results == 90, "{oven:?}");
        // No records say nothing of anybody.
        assert!(Model::default().biases().is_empty());
    }

    #[test]
    fn the_parts_add_up_to_the_shift() {
        let model = Model::fit(shop(20, 9.0, 4));
        let x = features("w2", None, Some(220.0));
        let sum: f64 = KernelTerm::ALL
            .iter()
            .map(|p| model.contribution(*p, &x))
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
        let lesson = Model::fit(records).lesson(When::Tempered).unwrap();
        assert_eq!(lesson.results, 30);
        assert!(lesson.coverage > 0.8 && lesson.after_rms.is_finite());
    }

    #[test]
    fn same_records_same_answer_to_the_bit() {
        let x = features("o1", None, Some(200.0));
        let a = Model::fit(shop(30, 9.0, 5)).correct(&x);
        assert_eq!(a, Model::fit(shop(30, 9.0, 5)).correct(&x));
    }
}
