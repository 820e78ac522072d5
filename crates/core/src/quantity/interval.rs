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
