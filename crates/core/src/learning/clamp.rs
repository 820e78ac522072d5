//! What a shop's clamps in the temper take out, against the rule.
//!
//! The rule says what share of what a clamp bends a blade by stays; a shop's own clamps, ovens and steels multiply it.
//! The logarithm of that factor is normal before and after (conjugate; Gelman et al. 2013, "Bayesian Data Analysis",
//! section 2.5).

/// Logarithm of what a shop's clamps take out against the rule, one standard deviation: the rule is a guess.
const SHOP: f64 = 0.4;
/// Scatter from clamp to clamp, likewise.
const SCATTER: f64 = 0.3;
/// Shares are told apart from nothing and from everything by this.
const LEAST: f64 = 0.03;

/// A blade that was clamped in its temper.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Seen {
    /// Share of what it was bent by that stayed, by rule, 0 to 1.
    pub by_rule: f64,
    /// How far it was bowed, how far past straight it was shimmed, and what was left, mm.
    pub bow_mm: f64,
    /// Likewise.
    pub shim_mm: f64,
    /// Likewise.
    pub left_mm: f64,
}

impl Seen {
    /// Logarithm of what it took out against the rule.
    fn ln_times(&self) -> Option<f64> {
        let bent_mm = self.bow_mm + self.shim_mm;
        let took_out = ((self.bow_mm - self.left_mm) / bent_mm).clamp(LEAST, 1.0 - LEAST);
        let ln = (took_out / self.by_rule).ln();
        ln.is_finite().then_some(ln)
    }
}

/// What was learned of clamps.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct ClampModel {
    ln_times: f64,
    tried: usize,
}

impl ClampModel {
    /// From all that were tried.
    #[must_use]
    pub fn fit(seen: &[Seen]) -> Self {
        let found: Vec<f64> = seen.iter().filter_map(Seen::ln_times).collect();
        let sum: f64 = found.iter().sum();
        Self {
            ln_times: sum / (found.len() as f64 + (SCATTER / SHOP).powi(2)),
            tried: found.len(),
        }
    }

    /// How many times as much as by rule they take out.
    #[must_use]
    pub fn times(&self) -> f64 {
        self.ln_times.exp()
    }

    /// How many it was learned from.
    #[must_use]
    pub const fn tried(&self) -> usize {
        self.tried
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::straightening::TemperClamp;

    fn clamped(bow_mm: f64, shim_mm: f64, left_mm: f64) -> Seen {
        let by_rule = 0.3;
        Seen {
            by_rule,
            bow_mm,
            shim_mm,
            left_mm,
        }
    }

    #[test]
    fn nothing_tried_leaves_the_rule() {
        let model = ClampModel::fit(&[]);
        assert_eq!((model.times(), model.tried()), (1.0, 0));
    }

    #[test]
    fn clamps_that_took_out_more_lead_to_a_thinner_shim() {
        // 1 mm bowed and 1 mm past straight: all of it out is half of 2 mm, where the rule says three tenths.
        let model = ClampModel::fit(&[clamped(1.0, 1.0, 0.0); 6]);
        assert!((1.4..1.67).contains(&model.times()), "{}", model.times());
        let rule = TemperClamp::in_temper(9_700.0);
        assert!(rule.times(model.times()).shim_per_mm < rule.shim_per_mm);
        // The first one moves it half of the way, not all of it.
        let one = ClampModel::fit(&[clamped(1.0, 1.0, 0.0)]);
        assert!(one.times() > 1.0 && one.times() < model.times());
    }

    #[test]
    fn odd_records_stay_finite() {
        for seen in [
            clamped(0.0, 0.0, 0.0),
            clamped(1.0, 0.0, 9.0),
            clamped(1.0, 0.0, -9.0),
            clamped(f64::NAN, 1.0, 0.0),
            Seen {
                by_rule: 0.0,
                ..clamped(1.0, 1.0, 0.0)
            },
        ] {
            let times = ClampModel::fit(&[seen]).times();
            assert!(times.is_finite() && times > 0.0, "{seen:?}");
        }
    }
}
