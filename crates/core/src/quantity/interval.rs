//! A predicted value with the interval it lies in nine times out of ten.

use serde::{Deserialize, Serialize};

/// Half-width of a 90 % interval in standard deviations of a normal distribution.
pub const NINETY: f64 = 1.644_853_627;

/// Upper tail of the standard normal distribution (Abramowitz and Stegun 1964, 26.2.17).
#[must_use]
pub fn upper_tail(z: f64) -> f64 {
    let t = 1.0 / (1.0 + 0.231_641_9 * z.abs());
    let series = t
        * (0.319_381_530
            + t * (-0.356_563_782
                + t * (1.781_477_937 + t * (-1.821_255_978 + t * 1.330_274_429))));
    let upper = density(z) * series;
    if z >= 0.0 { upper } else { 1.0 - upper }
}

/// Upper `p` quantile of the standard normal distribution (Abramowitz and Stegun 1964, 26.2.23); `p` from 0
/// to 0.5, exclusive.
#[must_use]
pub fn upper_quantile(p: f64) -> f64 {
    let t = (-2.0 * p.ln()).sqrt();
    let top = 2.515_517 + t * (0.802_853 + t * 0.010_328);
    t - top / (1.0 + t * (1.432_788 + t * (0.189_269 + t * 0.001_308)))
}

/// Density of the standard normal distribution.
#[must_use]
pub fn density(z: f64) -> f64 {
    (-0.5 * z * z).exp() / (2.0 * std::f64::consts::PI).sqrt()
}

/// A prediction: the middle and the 90 % interval, in the unit of the thing predicted.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Interval {
    /// The most likely value.
    pub middle: f64,
    /// One in twenty lies below this.
    pub low: f64,
    /// One in twenty lies above this.
    pub high: f64,
}

impl Interval {
    /// The 90 % interval of a normal distribution, kept inside `bounds`.
    ///
    /// ```
    /// use vatten_core::quantity::interval::Interval;
    /// let hrc = Interval::normal(60.0, 1.0, (0.0, 70.0));
    /// assert!((hrc.width() - 2.0 * 1.645).abs() < 0.01);
    /// assert!(hrc.holds(61.0) && !hrc.holds(62.0));
    /// ```
    #[must_use]
    pub fn normal(mean: f64, deviation: f64, bounds: (f64, f64)) -> Self {
        let inside = |x: f64| x.clamp(bounds.0, bounds.1);
        Self {
            middle: inside(mean),
            low: inside(mean - NINETY * deviation),
            high: inside(mean + NINETY * deviation),
        }
    }

    /// The 90 % interval of normal distributions of one deviation about values that are as likely as each other, kept
    /// inside `bounds`; its middle is the median.
    ///
    /// ```
    /// use vatten_core::quantity::interval::Interval;
    /// // Nine blades in ten are hard and one is soft.
    /// let blades = [64.0, 64.0, 64.0, 64.0, 64.0, 64.0, 64.0, 64.0, 64.0, 30.0];
    /// let hrc = Interval::of_equals(&blades, 0.5, (0.0, 70.0));
    /// assert!((hrc.middle - 64.0).abs() < 0.2 && hrc.low < 31.0);
    /// ```
    #[must_use]
    pub fn of_equals(values: &[f64], deviation: f64, bounds: (f64, f64)) -> Self {
        let deviation = deviation.max(1e-3);
        let below = |x: f64| {
            let each = values.iter().map(|v| 1.0 - upper_tail((x - v) / deviation));
            each.sum::<f64>() / values.len().max(1) as f64
        };
        let at = |share: f64| {
            let (mut low, mut high) = bounds;
            for _ in 0..40 {
                let middle = 0.5 * (low + high);
                if below(middle) < share {
                    low = middle;
                } else {
                    high = middle;
                }
            }
            0.5 * (low + high)
        };
        Self {
            middle: at(0.5),
            low: at(0.05),
            high: at(0.95),
        }
    }

    /// Width from low to high.
    #[must_use]
    pub fn width(&self) -> f64 {
        self.high - self.low
    }

    /// True when a value lies inside.
    #[must_use]
    pub fn holds(&self, value: f64) -> bool {
        value >= self.low && value <= self.high
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_tail_meets_the_table() {
        assert!((upper_tail(1.644_853_6) - 0.05).abs() < 1e-6);
        assert!((upper_tail(0.0) - 0.5).abs() < 1e-6);
        assert!((upper_tail(-1.0) - 0.841_344_7).abs() < 1e-6);
    }

    #[test]
    fn a_normal_interval_is_symmetric_until_a_bound_cuts_it() {
        let free = Interval::normal(60.0, 1.0, (0.0, 70.0));
        assert!((free.middle - free.low - (free.high - free.middle)).abs() < 1e-9);
        assert!((free.width() - 2.0 * NINETY).abs() < 1e-9);
        let cut = Interval::normal(69.5, 1.0, (0.0, 70.0));
        assert_eq!(cut.high, 70.0);
        assert!(cut.holds(69.0) && !cut.holds(50.0));
    }
}
