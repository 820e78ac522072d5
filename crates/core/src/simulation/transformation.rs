//! What austenite turns into as it cools: ferrite, pearlite, bainite, martensite.
//!
//! Rates by Li, Niebuhr, Meekisho and Atteridge 1998, "A computational model for the prediction of
//! steel hardenability", Metallurgical and Materials Transactions B 29, 661–672, added up along the
//! cooling curve; martensite by Koistinen and Marburger 1959. The composition is what is *dissolved*.

use crate::material::analysis::Analysis;
use crate::material::hardness;
use crate::material::properties::{MARTENSITE_HEAT, PEARLITE_HEAT};
use std::sync::LazyLock;

/// Gas constant as the rate formulas have it, cal/mol·K.
const GAS: f64 = 1.987;
/// Hottest temperature of the rate tables, °C; the step is one degree.
const TOP: usize = 960;

/// Share of austenite below which nothing more is counted.
const NEGLIGIBLE: f64 = 1e-5;

/// `−ln(1 − X)` against the time in units of S, where `dX/dt = X^(0.4(1−X))·(1−X)^(0.4X)/S`.
struct Progress {
    table: Vec<f64>,
    step: f64,
}

/// Longest time tabulated, in units of S; the reaction is complete well before.
const COMPLETE: f64 = 2.4;
const PROGRESS_CELLS: usize = 2048;

static PROGRESS: LazyLock<Progress> = LazyLock::new(|| {
    let step = COMPLETE / PROGRESS_CELLS as f64;
    let mut table = Vec::with_capacity(PROGRESS_CELLS + 2);
    // With s = X^0.6 the rate starts smoothly: ds/du = 0.6·X^(−0.4)·f(X).
    let rate = |s: f64| {
        let x = s.clamp(0.0, 1.0).powf(1.0 / 0.6);
        let f = x.powf(-0.4 * x) * (1.0 - x).max(0.0).powf(0.4 * x);
        0.6 * if x > 0.0 { f } else { 1.0 }
    };
    let mut s = 0.0_f64;
    for _ in 0..PROGRESS_CELLS + 2 {
        let x = s.min(1.0).powf(1.0 / 0.6);
        table.push(-(1.0 - x).max(1e-6).ln());
        for _ in 0..8 {
            let h = step / 8.0;
            let middle = rate(s + 0.5 * h * rate(s));
            s = (s + h * middle).min(1.0);
        }
    }
    Progress { table, step }
});

impl Progress {
    #[inline]
    fn at(&self, u: f64) -> f64 {
        let x = (u / self.step).min(PROGRESS_CELLS as f64);
        let i = x as usize;
        self.table[i] + (self.table[i + 1] - self.table[i]) * (x - i as f64)
    }
}

/// Time until a share `x` (0 to 1) has formed, in units of S.
#[must_use]
pub fn units_until(x: f64) -> f64 {
    let wanted = -(1.0 - x.clamp(0.0, 0.999_99)).ln();
    let i = PROGRESS.table.partition_point(|g| *g < wanted).max(1);
    let (a, b) = (
        PROGRESS.table[i - 1],
        PROGRESS.table[i.min(PROGRESS_CELLS + 1)],
    );
    let part = if b > a { (wanted - a) / (b - a) } else { 0.0 };
    (i as f64 - 1.0 + part) * PROGRESS.step
}

/// The phases of one spot, as shares of the whole, and how far each reaction has come.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Phases {
    progress: [f64; 3],
    /// Austenite left.
    pub austenite: f64,
    /// Ferrite and pearlite.
    pub pearlite: f64,
    /// Bainite.
    pub bainite: f64,
    /// Martensite.
    pub martensite: f64,
    /// Sum over the soft products of share times Vickers hardness.
    soft_hv: f64,
    /// Coldest so far, °C.
    coldest: f64,
}

impl Phases {
    /// What comes from the fire: `austenite` (0 to 1), the rest ferrite.
    #[must_use]
    pub fn hot(austenite: f64) -> Self {
        let austenite = austenite.clamp(0.0, 1.0);
        Self {
            progress: [0.0; 3],
            austenite,
            pearlite: 1.0 - austenite,
            bainite: 0.0,
            martensite: 0.0,
            soft_hv: (1.0 - austenite) * hardness::FERRITE_HV,
            coldest: f64::INFINITY,
        }
    }

    /// Share that hardened: martensite, with the austenite still among it.
    #[inline]
    #[must_use]
    pub fn hardened(&self) -> f64 {
        1.0 - self.pearlite - self.bainite
    }

    /// The mean of two spots.
    #[must_use]
    pub fn mean(a: &Self, b: &Self) -> Self {
        let half = |x: f64, y: f64| 0.5 * (x + y);
        Self {
            progress: [0, 1, 2].map(|k| half(a.progress[k], b.progress[k])),
            austenite: half(a.austenite, b.austenite),
            pearlite: half(a.pearlite, b.pearlite),
            bainite: half(a.bainite, b.bainite),
            martensite: half(a.martensite, b.martensite),
            soft_hv: half(a.soft_hv, b.soft_hv),
            coldest: a.coldest.min(b.coldest),
        }
    }

    /// Hardness, HRC, when the hardened part has `hard_hrc`.
    #[must_use]
    pub fn hrc(&self, hard_hrc: f64) -> f64 {
        let hard = self.hardened();
        hardness::hrc_of_hv(hard * hardness::hv_of_hrc(hard_hrc) + self.soft_hv)
    }
}

/// How one austenite transforms.
#[derive(Debug, Clone, PartialEq)]
pub struct Kinetics {
    /// 1/S of ferrite, pearlite and bainite by °C, 1/s.
    rates: Vec<[f64; 3]>,
    /// Share that may become ferrite ahead of pearlite.
    ferrite_cap: f64,
    /// Hottest temperature at which anything happens, °C.
    starts_c: f64,
    /// Martensite start, °C.
    martensite_start_c: f64,
    bainite_start_c: f64,
    pearlite_start_c: f64,
}

/// 1 − e^−x: by its series where steps are short, which is nearly always.
#[inline]
fn share_turned(x: f64) -> f64 {
    if x < 0.15 {
        x * (1.0 - x * (0.5 - x * (1.0 / 6.0 - x * (1.0 / 24.0 - x / 120.0))))
    } else {
        1.0 - (-x).exp()
    }
}

impl Kinetics {
    /// `dissolved` is the composition of the austenite, weight percent; `ae1_c` and `ae3_c` its
    /// critical temperatures; `grain` its ASTM number; `martensite_start_c` as from
    /// [`crate::material::critical::martensite_start_c`].
    #[must_use]
    pub fn new(
        dissolved: &Analysis,
        ae1_c: f64,
        ae3_c: f64,
        grain: f64,
        martensite_start_c: f64,
    ) -> Self {
        let a = dissolved;
        let bainite_start_c = (637.0
            - 58.0 * a.carbon
            - 35.0 * a.manganese
            - 15.0 * a.nickel
            - 34.0 * a.chromium
            - 41.0 * a.molybdenum)
            .max(martensite_start_c + 1.0);
        let ferrite = (1.0
            + 6.31 * a.carbon
            + 1.78 * a.manganese
            + 0.31 * a.silicon
            + 1.12 * a.nickel
            + 2.70 * a.chromium
            + 4.06 * a.molybdenum)
            .exp()
            / 2f64.powf(0.41 * grain);
        let pearlite = (-4.25
            + 4.12 * a.carbon
            + 4.36 * a.manganese
            + 0.44 * a.silicon
            + 1.71 * a.nickel
            + 3.33 * a.chromium
            + 5.19 * a.molybdenum.max(0.0).sqrt())
        .exp()
            / 2f64.powf(0.32 * grain);
        let bainite = (-10.23
            + 10.18 * a.carbon
            + 0.85 * a.manganese
            + 0.55 * a.nickel
            + 0.90 * a.chromium
            + 0.36 * a.molybdenum)
            .exp()
            / 2f64.powf(0.29 * grain);
        let ferrite_cap = ((0.77 - a.carbon) / 0.77).max(0.0);
        let lean = a.carbon < 0.7 && ferrite_cap > 0.0;
        let rates = (0..=TOP)
            .map(|t| {
                let t = t as f64;
                let heat = |q: f64| (-q / (GAS * (t + 273.15))).exp();
                let below = |start: f64, power: i32| (start - t).max(0.0).powi(power);
                [
                    if lean {
                        below(ae3_c, 3) * heat(23_500.0) / ferrite
                    } else {
                        0.0
                    },
                    below(ae1_c, 3) * heat(27_500.0) / pearlite,
                    below(bainite_start_c, 2) * heat(27_500.0) / bainite,
                ]
            })
            .collect();
        Self {
            rates,
            ferrite_cap,
            starts_c: if lean { ae3_c.max(ae1_c) } else { ae1_c }.min(TOP as f64 - 1.0),
            martensite_start_c,
            bainite_start_c,
            pearlite_start_c: ae1_c,
        }
    }

    /// Martensite start, °C.
    #[must_use]
    pub const fn martensite_start_c(&self) -> f64 {
        self.martensite_start_c
    }

    /// Shortest time to 1 % pearlite held at one temperature, s, and that temperature, °C.
    #[must_use]
    pub fn pearlite_nose(&self) -> (f64, f64) {
        let (t, rate) = self
            .rates
            .iter()
            .enumerate()
            .max_by(|a, b| a.1[1].total_cmp(&b.1[1]))
            .map_or((0, 0.0), |(t, r)| (t, r[1]));
        (units_until(0.01) / rate.max(1e-300), t as f64)
    }

    /// Fine pearlite is the harder, the lower it forms: 250 HV just below Ae1, 400 HV from 180 °C lower.
    fn pearlite_hv(&self, t: f64) -> f64 {
        250.0 + 150.0 * ((self.pearlite_start_c - t) / 180.0).clamp(0.0, 1.0)
    }

    /// Bainite: 380 HV where it begins, 620 HV at the martensite start.
    fn bainite_hv(&self, t: f64) -> f64 {
        let span = (self.bainite_start_c - self.martensite_start_c).max(1.0);
        380.0 + 240.0 * ((self.bainite_start_c - t) / span).clamp(0.0, 1.0)
    }

    /// Takes a spot from `from` to `to` (°C) in `seconds`. Returns the heat set free, J/kg.
    #[inline]
    pub fn advance(&self, spot: &mut Phases, from: f64, to: f64, seconds: f64) -> f64 {
        if spot.austenite <= NEGLIGIBLE {
            return 0.0;
        }
        let mut heat = 0.0;
        let middle = 0.5 * (from + to);
        if middle < self.starts_c && middle > 0.0 {
            heat += self.diffuse(spot, middle, seconds);
        }
        if to < self.martensite_start_c && to < spot.coldest {
            let before = spot.coldest.min(self.martensite_start_c);
            let turned = spot.austenite * share_turned(0.011 * (before - to));
            spot.austenite -= turned;
            spot.martensite += turned;
            spot.coldest = to;
            heat += MARTENSITE_HEAT * turned;
        }
        heat
    }

    fn diffuse(&self, spot: &mut Phases, t: f64, seconds: f64) -> f64 {
        let i = t as usize;
        let part = t - i as f64;
        let progress = &*PROGRESS;
        let mut hazard = [0.0; 3];
        let mut total = 0.0;
        for (k, hazard) in hazard.iter_mut().enumerate() {
            let rate = self.rates[i][k] + (self.rates[i + 1][k] - self.rates[i][k]) * part;
            if rate <= 0.0 || (k == 0 && spot.pearlite >= self.ferrite_cap) {
                continue;
            }
            let u = spot.progress[k] + rate * seconds;
            *hazard = progress.at(u) - progress.at(spot.progress[k]);
            spot.progress[k] = u;
            total += *hazard;
        }
        if total <= 0.0 {
            return 0.0;
        }
        let turned = spot.austenite * share_turned(total);
        spot.austenite -= turned;
        let share = |k: usize| turned * hazard[k] / total;
        let (ferrite, pearlite, bainite) = (share(0), share(1), share(2));
        spot.pearlite += ferrite + pearlite;
        spot.bainite += bainite;
        spot.soft_hv += ferrite * hardness::FERRITE_HV
            + pearlite * self.pearlite_hv(t)
            + bainite * self.bainite_hv(t);
        PEARLITE_HEAT * turned
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::dissolution::{Structure, dissolve};
    use crate::material::steel::Steel;
    use proptest::prelude::*;

    fn kinetics_of(steel: &str) -> Kinetics {
        let steel = Steel::built_in(steel).unwrap();
        let d = dissolve(
            &steel.limits(),
            steel.austenitize.nominal,
            steel.soak,
            Structure::Normalized,
        );
        Kinetics::new(
            &d.composition,
            steel.ac1_c,
            steel.ac3_or_acm_c,
            9.0,
            d.martensite_start_c,
        )
    }

    fn cool(kinetics: &Kinetics, rate: f64) -> Phases {
        let mut spot = Phases::hot(1.0);
        let mut t = 800.0;
        while t > 20.0 {
            let next = t - 2.0;
            kinetics.advance(&mut spot, t, next, 2.0 / rate);
            t = next;
        }
        spot
    }

    #[test]
    fn the_series_is_the_exponential() {
        for x in [0.0, 1e-6, 0.01, 0.1, 0.149_999, 0.150_001, 2.0] {
            assert!((share_turned(x) - (1.0 - f64::exp(-x))).abs() < 2e-8, "{x}");
        }
    }

    #[test]
    fn the_first_percent_takes_a_tenth_of_s() {
        // ∫ dX/X^0.4 to 0.01 is 0.105; the exact integrand is a little slower.
        assert!((units_until(0.01) - 0.105).abs() < 0.004);
        assert!(units_until(0.99) < COMPLETE && units_until(0.5) < units_until(0.9));
    }

    #[test]
    fn held_at_the_nose_it_transforms_as_tabulated() {
        let kinetics = kinetics_of("1084");
        let (time, t) = kinetics.pearlite_nose();
        let mut spot = Phases::hot(1.0);
        kinetics.advance(&mut spot, t, t, time);
        assert!((spot.pearlite - 0.01).abs() < 0.003, "{spot:?}");
    }

    #[test]
    fn fast_cooling_makes_martensite_and_slow_cooling_pearlite() {
        let kinetics = kinetics_of("1084");
        let (fast, slow) = (cool(&kinetics, 400.0), cool(&kinetics, 5.0));
        assert!(fast.hardened() > 0.97 && fast.martensite > 0.75, "{fast:?}");
        assert!(slow.hardened() < 0.02, "{slow:?}");
        assert!(slow.hrc(65.0) < 45.0 && fast.hrc(65.0) > 64.0);
        let retained = hardness::retained_austenite_percent(kinetics.martensite_start_c(), 20.0);
        let expected = 0.01 * retained * fast.hardened();
        assert!((fast.austenite - expected).abs() < 0.01);
    }

    #[test]
    fn alloy_slows_it_and_coarse_grain_too() {
        assert!(kinetics_of("o1").pearlite_nose().0 > 5.0 * kinetics_of("1084").pearlite_nose().0);
        let steel = Steel::built_in("1084").unwrap();
        let at = |grain| {
            Kinetics::new(&steel.analysis, 723.0, 730.0, grain, 170.0)
                .pearlite_nose()
                .0
        };
        assert!(at(5.0) > at(10.0));
    }

    #[test]
    fn what_was_never_austenite_stays_soft() {
        let kinetics = kinetics_of("1050");
        let mut spot = Phases::hot(0.4);
        for t in (20..800).rev() {
            kinetics.advance(&mut spot, f64::from(t) + 1.0, f64::from(t), 0.002);
        }
        assert!(spot.pearlite >= 0.6 && spot.hrc(60.0) < 50.0);
    }

    proptest! {
        #[test]
        fn shares_stay_shares(
            temps in proptest::collection::vec(-100.0..1100.0_f64, 2..60), dt in 0.001..50.0_f64,
            steel in 0..26_usize,
        ) {
            let steel = &Steel::table()[steel];
            let d = dissolve(&steel.limits(), steel.austenitize.nominal, steel.soak, Structure::Normalized);
            let kinetics = Kinetics::new(&d.composition, steel.ac1_c, steel.ac3_or_acm_c, 9.0, d.martensite_start_c);
            let mut spot = Phases::hot(1.0);
            for pair in temps.windows(2) {
                let heat = kinetics.advance(&mut spot, pair[0], pair[1], dt);
                prop_assert!((0.0..=PEARLITE_HEAT * 1.001).contains(&heat));
            }
            let sum = spot.austenite + spot.pearlite + spot.bainite + spot.martensite;
            prop_assert!((sum - 1.0).abs() < 1e-9);
            prop_assert!(spot.austenite >= -1e-12 && spot.hrc(64.0).is_finite());
        }
    }
}
