//! A quenchant as a shop measured it: the cooling curve of a probe (ISO 9950: Inconel 600, 12.5 mm across, thermocouple at
//! its centre, from 850 °C), and the heat transfer that gives it.
//!
//! The logarithm of heat transfer at eighteen surface temperatures is found by least squares over the rates of the centre
//! (Levenberg 1944, Marquardt 1963), held as smooth as that of its kind where the curve tells nothing (Tikhonov 1963).

use crate::material::medium::Medium;
use crate::process::heat_transfer::{Agitation, Film, NODES, Nodes, Own};
use crate::quantity::units::Celsius;
use crate::quantity::validation::{Checker, Faults, Unit};
use crate::simulation::probe::{Curve, Moment, trace};
use nalgebra::{DMatrix, DVector};
use serde::{Deserialize, Serialize};

/// A curve begins at least here and goes on at least to there, °C.
const FROM_C: f64 = 780.0;
const TO_C: f64 = 260.0;
/// Hotter than this no probe goes into a bath, °C.
const HOTTEST_C: f64 = 950.0;
/// Between two samples it may fall by this, °C: what lies between is not made up.
const GAP_C: f64 = 40.0;
/// Most that noise lets it rise by, °C.
const NOISE_C: f64 = 6.0;
/// Levels of the centre that rates are taken at, °C, over half of this to either side.
const LEVEL_C: f64 = 10.0;
/// Iterations.
const ROUNDS: usize = 14;
/// A logarithm is moved by this to see what it does.
const TRIED_LN: f64 = 0.04;
/// A logarithm moves by this at once, at most.
const MOST_LN: f64 = 0.7;
/// A rate is known to this share of the fastest and of itself.
const RATE_OFF: (f64, f64) = (0.01, 0.03);
/// How far the bend of ln h goes from that of its kind, and ln h itself, one standard deviation each.
const BENDS: f64 = 0.6;
const FROM_KIND: f64 = 2.0;
/// Heat transfer that anything has, W/m²K.
const POSSIBLE: (f64, f64) = (15.0, 60_000.0);
/// Points kept to be drawn.
const DRAWN: usize = 60;
/// A curve whose rates are missed by more than this on the mean, as a share of the fastest, is not of such a probe.
const MISSED: f64 = 0.08;

/// Time from the first sample, s, and temperature of the centre, °C, falling.
#[derive(Debug, Clone, PartialEq)]
pub struct CoolingCurve(Vec<[f64; 2]>);

impl CoolingCurve {
    /// Checks points, s and °C.
    ///
    /// # Errors
    /// Faults at `text`: it begins too cool or too hot, ends too hot, rises, or leaves out a part.
    pub fn parse(points: Vec<[f64; 2]>) -> Result<Self, Faults> {
        let mut c = Checker::default();
        // What comes before it goes in is at heat: it is left out but for the last of it.
        let hottest = points.iter().map(|p| p[1]).fold(f64::MIN, f64::max);
        let begins = points.iter().rposition(|p| p[1] > hottest - 2.0);
        let falling = &points[begins.unwrap_or(0)..];
        if !(FROM_C..=HOTTEST_C).contains(&hottest) {
            let message = "A probe goes into the bath from about 850 °C.";
            c.refuse_outside("text", message, (FROM_C, HOTTEST_C), Unit::Celsius);
        }
        let end = falling.iter().map(|p| p[1]).fold(f64::MAX, f64::min);
        if end > TO_C {
            let message = "It ends before the boiling is over.";
            c.refuse_outside("text", message, (-50.0, TO_C), Unit::Celsius);
        }
        let mut coolest = f64::MAX;
        for pair in falling.windows(2) {
            let [a, b] = [pair[0], pair[1]];
            coolest = coolest.min(a[1]);
            if a[1] - b[1] > GAP_C && a[1] > TO_C {
                let message = format!(
                    "Between {:.1} and {:.1} s it falls from {:.0} to {:.0} °C with nothing between.",
                    a[0], b[0], a[1], b[1]
                );
                c.refuse_allowing("text", message, format!("{GAP_C} °C between two samples"));
                break;
            }
            if b[1] > coolest + NOISE_C {
                let message = format!("At {:.1} s it grows hotter again.", b[0]);
                c.refuse_allowing("text", message, "one probe, once into the bath");
                break;
            }
        }
        c.finish(Some(()))?;
        // Noise aside it only falls.
        let start = falling.first().map_or(0.0, |p| p[0]);
        let mut kept: Vec<[f64; 2]> = Vec::with_capacity(falling.len());
        for [t, celsius] in falling {
            if kept.last().is_none_or(|last| *celsius < last[1]) {
                kept.push([t - start, *celsius]);
            }
        }
        Ok(Self(kept))
    }

    /// When the centre passes a temperature, s.
    #[must_use]
    pub fn passes_s(&self, celsius: f64) -> Option<f64> {
        let below = self.0.partition_point(|p| p[1] > celsius);
        let (a, b) = (self.0.get(below.checked_sub(1)?)?, self.0.get(below)?);
        Some(a[0] + (a[1] - celsius) / (a[1] - b[1]) * (b[0] - a[0]))
    }

    /// How fast the centre cools as it passes a temperature, °C/s.
    fn rate(&self, celsius: f64) -> Option<f64> {
        let seconds = self.passes_s(celsius - LEVEL_C)? - self.passes_s(celsius + LEVEL_C)?;
        (seconds > 0.0).then(|| 2.0 * LEVEL_C / seconds)
    }

    /// Centre temperatures and rates, °C and °C/s, the hottest first.
    fn rates(&self) -> Vec<(f64, f64)> {
        let levels = (0..).map(|i| HOTTEST_C - LEVEL_C * f64::from(i));
        levels
            .take_while(|t| *t >= 100.0)
            .filter_map(|t| Some((t, self.rate(t)?)))
            .collect()
    }

    /// What such a curve is told by.
    fn figures(rates: &[(f64, f64)]) -> Curve {
        let fastest = rates.iter().max_by(|a, b| a.1.total_cmp(&b.1));
        let (temp_of_max_c, max_rate_c_s) = fastest.copied().unwrap_or_default();
        let at_300 = rates.iter().min_by(|a, b| {
            let off = |t: f64| (t - 300.0).abs();
            off(a.0).total_cmp(&off(b.0))
        });
        Curve {
            max_rate_c_s,
            temp_of_max_c,
            rate_at_300_c_s: at_300.map_or(0.0, |r| r.1),
        }
    }

    /// As it is drawn.
    fn drawn(&self) -> Vec<[f64; 2]> {
        let round = |x: f64| (100.0 * x).round() / 100.0;
        let every = self.0.len().div_ceil(DRAWN).max(1);
        let points = self.0.iter().step_by(every);
        points.map(|p| [round(p[0]), round(p[1])]).collect()
    }
}

/// A quenchant as it was measured.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MeasuredBath {
    /// What it takes from a surface.
    pub nodes: Nodes,
    /// The figures of the curve.
    pub measured: Curve,
    /// The same of the probe simulated with `nodes`.
    pub fitted: Curve,
    /// Mean of what its rates are missed by, as a share of the fastest.
    pub missed: f64,
    /// The bath while it was measured.
    pub bath_c: Celsius,
    /// The curve, s and °C, thinned.
    pub points: Vec<[f64; 2]>,
}

impl MeasuredBath {
    /// As quenches go by it.
    #[must_use]
    pub const fn own(&self) -> Own {
        Own {
            nodes: self.nodes,
            bath_c: self.bath_c,
        }
    }
}

/// How fast a simulated centre cools as it passes a level, °C/s: over the same span as a measured one.
fn simulated(moments: &[Moment], level_c: f64) -> Option<f64> {
    let passes = |t: f64| {
        let below = moments.partition_point(|m| m.centre_c > t);
        let (a, b) = (moments.get(below.checked_sub(1)?)?, moments.get(below)?);
        let share = (a.centre_c - t) / (a.centre_c - b.centre_c).max(1e-9);
        Some(a.time_s + share * (b.time_s - a.time_s))
    };
    let seconds = passes(level_c - LEVEL_C)? - passes(level_c + LEVEL_C)?;
    (seconds > 0.0).then(|| 2.0 * LEVEL_C / seconds)
}

/// Rates of the centre at levels, of a probe in what `ln` says, °C/s; where it never gets so cool none.
fn rates_of(ln: &[f64; NODES], bath: Celsius, start_c: f64, levels: &[(f64, f64)]) -> Vec<f64> {
    let moments = trace(&Nodes::from_ln(ln).film(bath.value()), start_c);
    let levels = levels.iter();
    levels
        .map(|(level, _)| simulated(&moments, *level).unwrap_or(0.0))
        .collect()
}

/// What is to be made small: rates that are off, and how far from its kind it bends and lies.
fn residuals(
    ln: &[f64; NODES],
    kind: &[f64; NODES],
    simulated: &[f64],
    rates: &[(f64, f64)],
) -> DVector<f64> {
    let fastest = rates.iter().map(|r| r.1).fold(1e-9, f64::max);
    let off = rates.iter().zip(simulated).map(|((_, rate), simulated)| {
        (simulated - rate) / (RATE_OFF.0 * fastest + RATE_OFF.1 * rate)
    });
    let more: [f64; NODES] = std::array::from_fn(|i| ln[i] - kind[i]);
    let bends = more.windows(3);
    let bends = bends.map(|m| (m[0] - 2.0 * m[1] + m[2]) / BENDS);
    let lies = more.iter().map(|m| m / FROM_KIND);
    DVector::from_vec(off.chain(bends).chain(lies).collect())
}

/// Finds what a bath takes from a surface from the cooling curve of a probe in it, beginning with what its kind usually
/// does.
///
/// # Errors
/// A fault at `text`: no bath gives such a curve.
pub fn fit(curve: &CoolingCurve, medium: Medium, bath: Celsius) -> Result<MeasuredBath, Faults> {
    let rates = curve.rates();
    let start_c = curve.0.first().map_or(850.0, |p| p[1]);
    let kind = Nodes::of(&Film::new(medium, bath, Agitation::Moved)).ln();
    let of = |ln: &[f64; NODES]| rates_of(ln, bath, start_c, &rates);
    let mut ln = kind;
    let mut now = of(&ln);
    let mut off = residuals(&ln, &kind, &now, &rates);
    let mut damped = 1e-2;
    for _ in 0..ROUNDS {
        let columns: Vec<DVector<f64>> = (0..NODES)
            .map(|i| {
                let mut tried = ln;
                tried[i] += TRIED_LN;
                (residuals(&tried, &kind, &of(&tried), &rates) - &off) / TRIED_LN
            })
            .collect();
        let slopes = DMatrix::from_columns(&columns);
        let normal = slopes.tr_mul(&slopes);
        let down = slopes.tr_mul(&off);
        let mut better = false;
        for _ in 0..4 {
            let mut weighed = normal.clone();
            for i in 0..NODES {
                weighed[(i, i)] *= 1.0 + damped;
            }
            let Some(found) = weighed.cholesky() else {
                break;
            };
            let step = found.solve(&down);
            let next: [f64; NODES] = std::array::from_fn(|i| {
                let moved = ln[i] - step[i].clamp(-MOST_LN, MOST_LN);
                moved.clamp(POSSIBLE.0.ln(), POSSIBLE.1.ln())
            });
            let then = of(&next);
            let left = residuals(&next, &kind, &then, &rates);
            if left.norm_squared() < off.norm_squared() {
                better = off.norm_squared() - left.norm_squared() > 1e-3 * off.norm_squared();
                (ln, now, off) = (next, then, left);
                damped *= 0.3;
                break;
            }
            damped *= 8.0;
        }
        if !better {
            break;
        }
    }
    let fastest = rates.iter().map(|r| r.1).fold(1e-9, f64::max);
    let missed = rates.iter().zip(&now).map(|(r, s)| (r.1 - s).abs());
    let missed = missed.sum::<f64>() / rates.len().max(1) as f64 / fastest;
    if missed > MISSED {
        let message = "No bath gives such a curve in a probe of 12.5 mm: is it another probe, or another unit?";
        let allowed = "the curve of an ISO 9950 probe";
        return Err(Faults::with_allowed("text", message, allowed));
    }
    let fitted: Vec<(f64, f64)> = rates.iter().zip(&now).map(|(r, s)| (r.0, *s)).collect();
    Ok(MeasuredBath {
        nodes: Nodes::from_ln(&ln).rounded(),
        measured: CoolingCurve::figures(&rates),
        fitted: CoolingCurve::figures(&fitted),
        missed,
        bath_c: bath,
        points: curve.drawn(),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::units::Quantity;
    use crate::simulation::probe;
    use rstest::rstest;

    /// A curve as a logger would write it, ten times a second, of a probe in a film.
    fn logged(film: &Film, noise: f64) -> Vec<[f64; 2]> {
        let moments = trace(film, 850.0);
        let end = moments.last().unwrap().time_s;
        let mut i = 0;
        (0..)
            .map(|n| f64::from(n) * 0.1)
            .take_while(|t| *t < end)
            .map(|t| {
                while moments[i + 1].time_s < t {
                    i += 1;
                }
                let (a, b) = (&moments[i], &moments[i + 1]);
                let share = (t - a.time_s) / (b.time_s - a.time_s);
                let off = noise * (7.3 * t).sin();
                [t, a.centre_c + share * (b.centre_c - a.centre_c) + off]
            })
            .collect()
    }

    fn film(medium: Medium, bath: f64) -> Film {
        Film::new(medium, Celsius::clamped(bath), Agitation::Moved)
    }

    // The probe of one quenchant, fitted from another: the heat transfer that made it comes back.
    #[rstest]
    #[case(Medium::FastOil, Medium::SlowOil, 50.0, 0.0)]
    #[case(Medium::MediumOil, Medium::FastOil, 50.0, 0.4)]
    #[case(Medium::WarmOil, Medium::MediumOil, 150.0, 0.0)]
    #[case(Medium::Water, Medium::Brine, 25.0, 0.0)]
    fn a_curve_gives_back_the_film_that_made_it(
        #[case] truth: Medium,
        #[case] from: Medium,
        #[case] bath: f64,
        #[case] noise: f64,
    ) {
        let made = film(truth, bath);
        let curve = CoolingCurve::parse(logged(&made, noise)).unwrap();
        let found = fit(&curve, from, Celsius::clamped(bath)).unwrap();
        let published = probe::quench(&made);
        let off = (found.fitted.max_rate_c_s / published.max_rate_c_s - 1.0).abs();
        assert!(off < 0.06, "{found:?} {published:?}");
        let off = (found.fitted.temp_of_max_c - published.temp_of_max_c).abs();
        assert!(off < 25.0, "{found:?} {published:?}");
        let off = (found.fitted.rate_at_300_c_s / published.rate_at_300_c_s - 1.0).abs();
        assert!(off < 0.12, "{found:?} {published:?}");
        // Heat that leaves a plate of steel through it, over the range that hardens.
        let taken = |film: &Film| {
            (300..800)
                .step_by(10)
                .map(|t| film.at(f64::from(t)))
                .sum::<f64>()
        };
        let all = taken(&found.nodes.film(bath)) / taken(&made);
        assert!((all - 1.0).abs() < 0.1, "{all}");
    }

    // Typical published figures of each kind (data/media.csv): a curve with them is told by them.
    #[test]
    fn a_plain_curve_is_told_by_its_figures() {
        // Eight seconds at 100 °C/s from 850 to 50 °C would be no probe; a rate of 60 at 600 °C and 8 at 300 is an oil.
        let mut points = vec![[0.0, 850.0]];
        let mut t = 850.0_f64;
        let mut s = 0.0;
        while t > 150.0 {
            let rate = if t > 750.0 {
                20.0
            } else if t > 450.0 {
                60.0 - 0.0012 * (t - 600.0).powi(2)
            } else {
                8.0 + 25.0 * ((t - 450.0) / 40.0).exp()
            };
            t -= 0.1 * rate;
            s += 0.1;
            points.push([s, t]);
        }
        let curve = CoolingCurve::parse(points).unwrap();
        let found = fit(&curve, Medium::MediumOil, Celsius::clamped(50.0)).unwrap();
        assert!(
            (found.measured.max_rate_c_s - 60.0).abs() < 3.0,
            "{found:?}"
        );
        assert!((found.measured.temp_of_max_c - 600.0).abs() <= 20.0);
        assert!(found.missed < 0.05, "{found:?}");
    }

    #[test]
    fn what_is_no_such_curve_is_refused_with_what_is_wrong() {
        let good = logged(&film(Medium::FastOil, 50.0), 0.0);
        assert!(CoolingCurve::parse(good.clone()).is_ok());
        let said = |points: Vec<[f64; 2]>| {
            let faults = CoolingCurve::parse(points).unwrap_err();
            (faults.0[0].field.clone(), faults.0[0].message.clone())
        };
        let cool: Vec<_> = good.iter().filter(|p| p[1] < 700.0).copied().collect();
        assert!(said(cool).1.contains("850"));
        let short: Vec<_> = good.iter().filter(|p| p[1] > 400.0).copied().collect();
        assert!(said(short).1.contains("boiling"));
        let gap = |p: &&[f64; 2]| !(450.0..600.0).contains(&p[1]);
        let gap: Vec<_> = good.iter().filter(gap).copied().collect();
        assert!(said(gap).1.contains("nothing between"));
        let mut twice = good.clone();
        let end = good.last().unwrap()[0];
        twice.extend(good.iter().map(|p| [p[0] + end + 1.0, p[1] - 5.0]));
        assert!(CoolingCurve::parse(twice).is_err());
        assert_eq!(said(Vec::new()).0, "text");
    }
}
