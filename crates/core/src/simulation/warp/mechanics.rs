//! How austenite, its products and their mixture expand, yield, creep and give way while they transform.
//!
//! Yield stresses and hardening are those usual for low-alloy steel (Denis 1985; Besserdich 1994 and the ranges they
//! quote); transformation plasticity after Leblond 1989, with φ = ξ(1 − ln ξ); relaxation by a power law of exponent
//! five. Constants marked * were chosen within the published ranges so that bends come out with the signs that are
//! seen (`docs/model.md`).

use crate::simulation::transformation::Phases;
use std::sync::LazyLock;

/// Thermal expansion of austenite, of pearlite and bainite, and of martensite, 1/K.
const EXPANSION: [f64; 3] = [22e-6, 14.5e-6, 12e-6];
/// Strain left by a stress while all transforms to martensite, and to pearlite or bainite, 1/Pa *.
pub const TRANSFORMATION_PLASTICITY: [f64; 2] = [5e-11, 5e-11];
/// Stress, Pa, at which austenite of 815 °C and pearlite of 650 °C creep by 1e-3 a second *.
const CREEP_PA: [f64; 2] = [75e6, 220e6];
/// Their activation energy over the gas constant, K.
const CREEP_K: f64 = 280e3 / 8.314;
/// Below this nothing creeps, °C.
const CREEP_FROM_C: f64 = 350.0;
/// Hottest of the tables, °C.
const TOP: usize = 1400;

/// How steel gives way. The usual one is [`Mechanics::default`]; others are for tests against theory.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Mechanics {
    /// Strain left by a stress while all transforms to martensite, and to pearlite or bainite, 1/Pa.
    pub transformation_plasticity: [f64; 2],
    /// It yields.
    pub yields: bool,
    /// It creeps.
    pub creeps: bool,
}

impl Default for Mechanics {
    fn default() -> Self {
        Self {
            transformation_plasticity: TRANSFORMATION_PLASTICITY,
            yields: true,
            creeps: true,
        }
    }
}

/// What one cell is during a step.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Fibre {
    /// Strain it would have by itself, without what has stayed.
    pub free: f64,
    /// One over its stiffness, with transformation plasticity of this step, 1/Pa.
    pub compliance: f64,
    /// Yield stress, Pa.
    pub limit: f64,
    /// Hardening beyond it, Pa.
    pub hardening: f64,
    /// Share of the back stress that outlasts the transformation.
    pub back_kept: f64,
}

/// Between a value when cold (20 °C) and one when hot.
fn ramp((cold, hot): (f64, f64), at_c: f64, t: f64) -> f64 {
    cold + (hot - cold) * ((t - 20.0) / (at_c - 20.0)).clamp(0.0, 1.0)
}

/// Young's modulus, Pa.
#[must_use]
pub fn stiffness(t: f64) -> f64 {
    (210.0 - 0.125 * (t - 20.0)).clamp(60.0, 215.0) * 1e9
}

/// Yield stress of austenite, Pa.
#[must_use]
pub fn austenite_yield(t: f64) -> f64 {
    ramp((220e6, 100e6), 850.0, t)
}

/// Strain of martensite and of pearlite against austenite at 20 °C by carbon (percent): a third of the volume
/// changes of Thelning 1984, "Steel and its Heat Treatment".
#[must_use]
pub fn swelling(carbon: f64) -> [f64; 2] {
    let c = carbon.clamp(0.0, 1.5);
    [(4.64 - 0.53 * c) / 300.0, (4.64 - 2.21 * c) / 300.0]
}

/// φ = ξ(1 − ln ξ) of Leblond 1989, ξ the share that has turned.
#[must_use]
pub fn leblond(share: f64) -> f64 {
    let x = share.max(1e-9);
    x * (1.0 - x.ln())
}

/// Creep rates relative to those that [`CREEP_PA`] stands for, by °C, 1/s.
static CREEP: LazyLock<Vec<[f64; 2]>> = LazyLock::new(|| {
    let at = |t: f64, reference: f64| {
        1e-3 * (-CREEP_K * (1.0 / (t + 273.15) - 1.0 / (reference + 273.15))).exp()
    };
    (0..=TOP)
        .map(|t| [at(t as f64, 815.0), at(t as f64, 650.0)])
        .collect()
});

impl Mechanics {
    /// A cell at `t` °C that was `before` and is `now`, with carbon swelling of [`swelling`].
    #[inline]
    #[must_use]
    pub fn fibre(&self, t: f64, before: (f64, f64), now: &Phases, swelling: [f64; 2]) -> Fibre {
        let soft = now.pearlite + now.bainite;
        let (austenite, martensite) = (now.austenite, now.martensite);
        let warm = t - 20.0;
        let free = austenite * EXPANSION[0] * warm
            + soft * (swelling[1] + EXPANSION[1] * warm)
            + martensite * (swelling[0] + EXPANSION[2] * warm);
        let turned = [martensite - before.0, soft - before.1];
        let mut compliance = 1.0 / stiffness(t);
        for (k, share) in [martensite, soft].into_iter().enumerate() {
            if turned[k] > 1e-12 {
                compliance += self.transformation_plasticity[k]
                    * (leblond(share) - leblond(share - turned[k])).max(0.0);
            }
        }
        let all = (turned[0] + turned[1]).max(0.0);
        let back_kept = if all > 0.0 {
            1.0 - all / (austenite + all)
        } else {
            1.0
        };
        let limit = if self.yields {
            austenite * austenite_yield(t)
                + soft * ramp((650e6, 70e6), 750.0, t)
                + martensite * ramp((1700e6, 900e6), 400.0, t)
        } else {
            1e15
        };
        let hardening = austenite * ramp((6e9, 1e9), 850.0, t)
            + soft * ramp((8e9, 0.8e9), 750.0, t)
            + martensite * 20e9;
        Fibre {
            free,
            compliance,
            limit,
            hardening,
            back_kept,
        }
    }

    /// What is left of a stress (Pa) after `seconds` at `t` °C: ds/dt = −E·rate·s⁵, closed form.
    #[inline]
    #[must_use]
    pub fn relaxed(&self, stress: f64, t: f64, phases: &Phases, seconds: f64) -> f64 {
        if !self.creeps || t <= CREEP_FROM_C {
            return stress;
        }
        let rates = CREEP[(t as usize).min(TOP)];
        let shares = [phases.austenite, phases.pearlite + phases.bainite];
        let sum: f64 = (0..2)
            .map(|k| shares[k] * rates[k] * (stress / CREEP_PA[k]).powi(4) / CREEP_PA[k])
            .sum();
        stress / (1.0 + 4.0 * stiffness(t) * seconds * sum).sqrt().sqrt()
    }
}

impl Fibre {
    /// Stress and its slope at a strain beyond the free one, with a back stress, Pa.
    #[inline]
    #[must_use]
    pub fn stress(&self, elastic: f64, back: f64) -> (f64, f64) {
        let trial = elastic / self.compliance;
        let beyond = (trial - back).abs() - self.limit;
        if beyond <= 0.0 {
            return (trial, 1.0 / self.compliance);
        }
        let sign = (trial - back).signum();
        let flow = self.flow(beyond);
        (
            back + sign * (self.limit + self.hardening * flow),
            self.hardening / (1.0 + self.hardening * self.compliance),
        )
    }

    /// Plastic strain of a trial stress so much beyond the limit.
    #[inline]
    fn flow(&self, beyond: f64) -> f64 {
        beyond * self.compliance / (1.0 + self.hardening * self.compliance)
    }

    /// Change of the back stress that goes with a strain, Pa.
    #[inline]
    #[must_use]
    pub fn back_change(&self, elastic: f64, back: f64) -> f64 {
        let trial = elastic / self.compliance - back;
        let beyond = trial.abs() - self.limit;
        if beyond <= 0.0 {
            return 0.0;
        }
        trial.signum() * self.hardening * self.flow(beyond)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn steel_yields_where_it_should_and_hardens_from_there() {
        let cold = Phases::hot(1.0, 200.0);
        let f = Mechanics::default().fibre(20.0, (0.0, 0.0), &cold, swelling(0.8));
        assert!((f.limit - 220e6).abs() < 1.0);
        let (s, slope) = f.stress(1e-4, 0.0);
        assert!((s - 21e6).abs() < 1.0 && (slope - 210e9).abs() < 1e3);
        let (s, slope) = f.stress(5e-3, 0.0);
        // Beyond the limit the slope is E·H/(E + H).
        let tangent = 210e9 * 6e9 / 216e9;
        assert!(
            (s - (220e6 + tangent * (5e-3 - 220e6 / 210e9))).abs() < 1e3,
            "{s}"
        );
        assert!((slope - tangent).abs() < 1e3);
        assert!((f.stress(-5e-3, 0.0).0 + s).abs() < 1e-6);
        // The back stress moves with it, so that it yields sooner the other way.
        let back = f.back_change(5e-3, 0.0);
        assert!((back - (s - 220e6)).abs() < 1.0);
    }

    #[test]
    fn transformation_plasticity_is_leblonds_over_the_whole_change() {
        // In steps, under a small stress: what stays in the end is K·s·φ(1) = K·s.
        let m = Mechanics::default();
        let (mut stayed, mut before) = (0.0, 0.0);
        let stress = 10e6;
        for i in 1..=200 {
            let share = f64::from(i) / 200.0;
            let now = Phases::of_shares(1.0 - share, 0.0, share);
            let f = m.fibre(20.0, (before, 0.0), &now, swelling(0.8));
            stayed += stress * (f.compliance - 1.0 / stiffness(20.0));
            before = share;
        }
        assert!((stayed / (TRANSFORMATION_PLASTICITY[0] * stress) - 1.0).abs() < 1e-6);
    }

    #[test]
    fn stress_relaxes_as_the_power_law_integrates_to() {
        // ds/dt = −E·(1e-3/s at 75 MPa and 815 °C)·(s/75 MPa)⁵ … in ten thousand small steps.
        let hot = Phases::hot(1.0, 200.0);
        let mut small = 60e6;
        for _ in 0..10_000 {
            small -= stiffness(815.0) * 1e-3 * (small / 75e6_f64).powi(5) * 1e-3 * 0.1;
        }
        let got = Mechanics::default().relaxed(60e6, 815.0, &hot, 1.0);
        assert!((got / small - 1.0).abs() < 2e-3, "{got} {small}");
        assert_eq!(Mechanics::default().relaxed(60e6, 300.0, &hot, 1e6), 60e6);
    }
}
