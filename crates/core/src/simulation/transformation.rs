//! What austenite turns into as it cools: pearlite, bainite, martensite.
//!
//! Two diffusional reactions that share the austenite, each with an Avrami law made additive along the cooling
//! curve (Scheil 1935; Cahn 1956): pearlite by the hardenability of what is dissolved (the form of ASTM A255),
//! bainite by Kirkaldy and Venugopalan 1984 as Li et al. 1998 have it, refitted to isothermal diagrams and to
//! the depths that bars and plates harden to. Martensite by Koistinen and Marburger 1959.

use crate::material::analysis::Analysis;
use crate::material::critical::martensite_rate;
use crate::material::hardness;
use crate::material::properties::{
    MARTENSITE_HEAT, PEARLITE_HEAT, heat_content, specific_heat, temperature,
};

/// Gas constant as the rate formulas have it, cal/mol·K, and the activation energy of both reactions, cal/mol.
const GAS: f64 = 1.987;
const ACTIVATION: f64 = 27_500.0;
/// Hottest temperature of the rate tables, °C; the step is one degree.
const TOP: usize = 960;

/// Share of austenite below which nothing more is counted.
const NEGLIGIBLE: f64 = 1e-5;
/// −ln(1 − X) of the first percent: reactions are timed by it.
const FIRST_PERCENT: f64 = 0.010_050_335_853_501_44;
/// −ln(1 − X) beyond which a reaction is as good as complete.
const COMPLETE: f64 = 14.0;
/// A reaction that is slower goes on at a lower temperature, where it is faster or slower again: the hardened
/// share moves with so many times the logarithm of its pace.
const PACE_AGAINST_TIME: f64 = 1.45;
/// Rounds of Newton's method for temperature and martensite together: it converges within three.
const NEWTON_ROUNDS: usize = 6;
/// Exponent of the pearlite reaction.
const PEARLITE_EXPONENT: f64 = 3.3;

/// `FIRST_PERCENT·u^n` by u, the time in units of that to the first percent: tabulated, since a power in every
/// cell and step would be half of a simulation.
#[derive(Debug, Clone, PartialEq)]
struct Avrami {
    table: Vec<f64>,
    per_cell: f64,
}

const AVRAMI_CELLS: usize = 1024;

impl Avrami {
    fn new(exponent: f64) -> Self {
        let longest = (COMPLETE / FIRST_PERCENT).powf(1.0 / exponent);
        let width = longest / AVRAMI_CELLS as f64;
        Self {
            table: (0..AVRAMI_CELLS + 2)
                .map(|i| FIRST_PERCENT * (i as f64 * width).powf(exponent))
                .collect(),
            per_cell: 1.0 / width,
        }
    }

    #[inline]
    fn at(&self, u: f64) -> f64 {
        let x = (u * self.per_cell).min(AVRAMI_CELLS as f64);
        let i = x as usize;
        self.table[i] + (self.table[i + 1] - self.table[i]) * (x - i as f64)
    }
}

/// The phases of one spot, as shares of the whole, and how far each reaction has come.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Phases {
    /// Pearlite and bainite: time in units of that to the first percent.
    progress: [f64; 2],
    /// Austenite left.
    pub austenite: f64,
    /// Pearlite, and what was never austenite.
    pub pearlite: f64,
    /// Bainite.
    pub bainite: f64,
    /// Martensite.
    pub martensite: f64,
    /// Sum over the soft products of share times Vickers hardness.
    soft_hv: f64,
    /// What was never austenite: its share, and share times Vickers hardness.
    never: (f64, f64),
    /// Coldest so far, °C.
    coldest: f64,
}

impl Phases {
    /// What comes from the fire: `austenite` (0 to 1), the rest as hard as `rest_hv`, HV.
    #[must_use]
    pub fn hot(austenite: f64, rest_hv: f64) -> Self {
        let austenite = austenite.clamp(0.0, 1.0);
        Self {
            progress: [0.0; 2],
            austenite,
            pearlite: 1.0 - austenite,
            bainite: 0.0,
            martensite: 0.0,
            soft_hv: (1.0 - austenite) * rest_hv,
            never: (1.0 - austenite, (1.0 - austenite) * rest_hv),
            coldest: f64::INFINITY,
        }
    }

    /// Shares put together, for tests.
    #[cfg(test)]
    pub(crate) fn of_shares(austenite: f64, pearlite: f64, martensite: f64) -> Self {
        Self {
            austenite,
            pearlite,
            martensite,
            ..Self::hot(1.0, 200.0)
        }
    }

    /// Share that hardened: martensite, with the austenite still among it.
    #[inline]
    #[must_use]
    pub fn hardened(&self) -> f64 {
        1.0 - self.pearlite - self.bainite
    }

    /// Two spots mixed, `share` of the first.
    #[must_use]
    pub fn mixed(a: &Self, b: &Self, share: f64) -> Self {
        let mix = |x: f64, y: f64| share * x + (1.0 - share) * y;
        Self {
            progress: [0, 1].map(|k| mix(a.progress[k], b.progress[k])),
            austenite: mix(a.austenite, b.austenite),
            pearlite: mix(a.pearlite, b.pearlite),
            bainite: mix(a.bainite, b.bainite),
            martensite: mix(a.martensite, b.martensite),
            soft_hv: mix(a.soft_hv, b.soft_hv),
            never: (mix(a.never.0, b.never.0), mix(a.never.1, b.never.1)),
            coldest: a.coldest.min(b.coldest),
        }
    }

    /// −ln of the share of the austenite that hardened: how far softening reactions have gone; at most 20.
    #[must_use]
    pub fn soft_log(&self) -> f64 {
        let was = 1.0 - self.never.0;
        -((self.hardened() / was.max(1e-9)).clamp(2e-9, 1.0)).ln()
    }

    /// The same had the softening reactions, of this exponent, been slower by a factor: `ln_pace` is its
    /// logarithm.
    #[must_use]
    pub fn slower(&self, exponent: f64, ln_pace: f64) -> Self {
        let (never, hard) = (self.never.0, self.hardened());
        let soft = 1.0 - hard - never;
        if ln_pace == 0.0 || soft <= 1e-9 || hard <= 1e-9 {
            return *self;
        }
        let log = self.soft_log() * (-PACE_AGAINST_TIME * exponent * ln_pace).exp();
        let now = (1.0 - never) * (-log).exp();
        let (more_soft, more_hard) = ((1.0 - never - now) / soft, now / hard);
        Self {
            austenite: more_hard * self.austenite,
            martensite: more_hard * self.martensite,
            pearlite: never + more_soft * (self.pearlite - never),
            bainite: more_soft * self.bainite,
            soft_hv: self.never.1 + more_soft * (self.soft_hv - self.never.1),
            ..*self
        }
    }

    /// The same had another share (0 to 1) never been austenite, of hardness `hv`.
    #[must_use]
    pub fn with_never(&self, share: f64, hv: f64) -> Self {
        let was = 1.0 - self.never.0;
        if (share - self.never.0).abs() < 1e-12 || was < 1e-9 {
            return *self;
        }
        let more = (1.0 - share) / was;
        Self {
            austenite: more * self.austenite,
            martensite: more * self.martensite,
            pearlite: share + more * (self.pearlite - self.never.0),
            bainite: more * self.bainite,
            soft_hv: share * hv + more * (self.soft_hv - self.never.1),
            never: (share, share * hv),
            ..*self
        }
    }

    /// Hardness, HRC, when the hardened part has `hard_hrc`. Tempers soften the rest too: none of it stays harder
    /// than what hardened.
    #[must_use]
    pub fn hrc(&self, hard_hrc: f64) -> f64 {
        let (hard, hard_hv) = (self.hardened(), hardness::hv_of_hrc(hard_hrc));
        let soft_hv = self.soft_hv.min((1.0 - hard) * hard_hv);
        hardness::hrc_of_hv(hard * hard_hv + soft_hv)
    }
}

/// How one austenite transforms.
#[derive(Debug, Clone, PartialEq)]
pub struct Kinetics {
    /// Of pearlite and bainite by °C: one over the time to 1 %, 1/s.
    rates: Vec<[f64; 2]>,
    avrami: [Avrami; 2],
    bainite_exponent: f64,
    /// Hottest temperature at which anything happens, °C.
    starts_c: f64,
    /// Martensite start, °C, and its rate below, 1/K.
    martensite_start_c: f64,
    martensite_rate: f64,
    bainite_start_c: f64,
    pearlite_start_c: f64,
    /// Root of how near the carbon is to that of pearlite, 0 to 1: the ferrite beside pearlite is hardened by it.
    eutectoid: f64,
    /// Carbon against 0.7 %, 0 to 1.
    bainite_carbon: f64,
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

/// x/(1 + x/half): rises like x at first and levels off at `half`.
fn saturating(x: f64, half: f64) -> f64 {
    x / (1.0 + x / half)
}

/// Hardenability of what is dissolved as a product of factors, one for 0.82 C, 0.80 Mn, 0.25 Si. The form of
/// the ideal diameter of ASTM A255.
fn hardenability(a: &Analysis) -> f64 {
    let factors = (1.0 + 2.9 * a.manganese)
        * (1.0 + 0.72 * a.silicon)
        * (1.0 + 2.14 * a.chromium)
        * (1.0 + 0.52 * a.nickel)
        * (1.0 + 3.45 * a.molybdenum)
        * (1.0 + 0.93 * a.tungsten)
        * (1.0 + 0.2 * (1.0 - (-a.vanadium / 0.2).exp()));
    let reference = 0.82_f64.powf(0.285) * (1.0 + 2.9 * 0.80) * (1.0 + 0.72 * 0.25);
    a.carbon.powf(0.285) * factors / reference
}

/// Time to 1 % pearlite at its nose, s, with ASTM grain number `grain`.
fn pearlite_first_percent_s(a: &Analysis, grain: f64) -> f64 {
    0.80 * hardenability(a).powi(2) * 2f64.powf(-0.25 * (grain - 9.0))
}

/// Time to 1 % bainite at 350 °C for the driving force that a plain 0.8 % carbon steel has there, s.
fn bainite_first_percent_s(a: &Analysis, grain: f64) -> f64 {
    let exponent = 3.7 * (a.carbon - 0.79)
        + 0.84 * (a.manganese - 0.76)
        + 0.44 * a.nickel
        + 0.56 * (a.silicon - 0.2);
    17.2 * exponent.exp()
        * (1.0 + 1.3 * a.chromium).powi(2)
        * (1.0 + 0.42 * a.molybdenum_equivalent())
        * 2f64.powf(-0.15 * (grain - 6.0))
}

/// Where bainite begins, °C: Kirkaldy and Venugopalan 1984, chromium and molybdenum saturating.
fn bainite_start_c(a: &Analysis, martensite_start_c: f64) -> f64 {
    (637.0
        - 58.0 * a.carbon
        - 35.0 * a.manganese
        - 15.0 * a.nickel
        - 34.0 * saturating(a.chromium, 10.0)
        - 41.0 * saturating(a.molybdenum, 4.0))
    .max(martensite_start_c + 1.0)
}

impl Kinetics {
    /// `dissolved` is the composition of the austenite, weight percent; `ae1_c` where pearlite becomes
    /// possible; `grain` its ASTM number; `martensite_start_c` as from
    /// [`crate::material::critical::martensite_start_c`].
    #[must_use]
    pub fn new(dissolved: &Analysis, ae1_c: f64, grain: f64, martensite_start_c: f64) -> Self {
        let a = dissolved;
        let bainite_start_c = bainite_start_c(a, martensite_start_c);
        let heat = |t: f64| (-ACTIVATION / (GAS * (t + 273.15))).exp();
        let pearlite_shape = |t: f64| (ae1_c - t).max(0.0).powi(3) * heat(t);
        let bainite_shape = |t: f64| (bainite_start_c - t).max(0.0).powi(2) * heat(t);
        // 1080, for which bainite is known best: 637 − 58·0.79 − 35·0.76 °C.
        let reference = (564.58_f64 - 350.0).powi(2) * heat(350.0);
        let nose = (0..=TOP)
            .map(|t| pearlite_shape(t as f64))
            .fold(f64::MIN_POSITIVE, f64::max);
        let (pearlite, bainite) = (
            1.0 / (nose * pearlite_first_percent_s(a, grain)),
            1.0 / (reference * bainite_first_percent_s(a, grain)),
        );
        let rates = (0..=TOP + 1)
            .map(|t| {
                let t = t as f64;
                [pearlite_shape(t) * pearlite, bainite_shape(t) * bainite]
            })
            .collect();
        let alloy = a.chromium + a.nickel + 2.0 * a.molybdenum;
        let bainite_exponent = 2.33 - 0.86 * (1.0 - (-0.8 * alloy).exp());
        Self {
            rates,
            avrami: [
                Avrami::new(PEARLITE_EXPONENT),
                Avrami::new(bainite_exponent),
            ],
            bainite_exponent,
            starts_c: ae1_c.max(bainite_start_c).min(TOP as f64 - 1.0),
            martensite_start_c,
            martensite_rate: martensite_rate(a),
            bainite_start_c,
            pearlite_start_c: ae1_c,
            eutectoid: (a.carbon / 0.77).min(1.0).sqrt(),
            bainite_carbon: (a.carbon / 0.7).min(1.0),
        }
    }

    /// The same taking so many times as long to turn to pearlite and bainite.
    #[must_use]
    pub fn slowed(mut self, times: f64) -> Self {
        for rate in self.rates.iter_mut().flatten() {
            *rate /= times;
        }
        self
    }

    /// Martensite start, °C.
    #[must_use]
    pub const fn martensite_start_c(&self) -> f64 {
        self.martensite_start_c
    }

    /// Hottest temperature at which anything turns, °C.
    #[must_use]
    pub const fn starts_c(&self) -> f64 {
        self.starts_c
    }

    /// Exponent of the reactions that made a spot soft, weighted by what each made.
    #[must_use]
    pub fn exponent(&self, spot: &Phases) -> f64 {
        let soft = spot.pearlite + spot.bainite;
        if soft < 1e-9 {
            return PEARLITE_EXPONENT;
        }
        (PEARLITE_EXPONENT * spot.pearlite + self.bainite_exponent * spot.bainite) / soft
    }

    /// How fast martensite proceeds below its start, 1/K.
    #[must_use]
    pub const fn martensite_rate(&self) -> f64 {
        self.martensite_rate
    }

    /// Time to 1 % pearlite and to 1 % bainite held at a temperature (°C), s; very long where nothing turns.
    #[must_use]
    pub fn first_percent_s(&self, t: f64) -> [f64; 2] {
        let i = t.clamp(0.0, TOP as f64).round() as usize;
        self.rates[i].map(|rate| 1.0 / rate.max(1e-300))
    }

    /// Shortest time to 1 % pearlite held at one temperature, s, and that temperature, °C.
    #[must_use]
    pub fn pearlite_nose(&self) -> (f64, f64) {
        let (t, rate) = self
            .rates
            .iter()
            .enumerate()
            .max_by(|a, b| a.1[0].total_cmp(&b.1[0]))
            .map_or((0, 0.0), |(t, r)| (t, r[0]));
        (1.0 / rate.max(1e-300), t as f64)
    }

    /// Pearlite is the harder, the lower it forms and the nearer its carbon is to the eutectoid: 268 HV just
    /// below Ae1, 473 HV from 180 °C lower; ferrite 160 HV. Fitted to the middles of bars that do not harden and
    /// to isothermal diagrams, the open half of the published values.
    fn pearlite_hv(&self, t: f64) -> f64 {
        let fine = ((self.pearlite_start_c - t) / 180.0).clamp(0.0, 1.0);
        160.0 + (108.0 + 205.0 * fine) * self.eutectoid
    }

    /// Bainite: 390 HV where it begins, 630 HV at the martensite start, less with little carbon.
    fn bainite_hv(&self, t: f64) -> f64 {
        let span = (self.bainite_start_c - self.martensite_start_c).max(1.0);
        let low = ((self.bainite_start_c - t) / span).clamp(0.0, 1.0);
        (390.0 + 240.0 * low) * (0.6 + 0.4 * self.bainite_carbon)
    }

    /// Takes a spot from `from` to `to` (°C) in `seconds`. Returns the heat set free, J/kg.
    #[inline]
    pub fn advance(&self, spot: &mut Phases, from: f64, to: f64, seconds: f64) -> f64 {
        if spot.austenite <= NEGLIGIBLE {
            return 0.0;
        }
        let mut heat = 0.0;
        let middle = 0.5 * (from + to);
        // Below the martensite start what is left goes on as martensite.
        if middle < self.starts_c && middle > self.martensite_start_c.max(0.0) {
            heat += self.diffuse(spot, middle, seconds);
        }
        if to < self.martensite_start_c && to < spot.coldest {
            let before = spot.coldest.min(self.martensite_start_c);
            let turned = spot.austenite * share_turned(self.martensite_rate * (before - to));
            spot.austenite -= turned;
            spot.martensite += turned;
            spot.coldest = to;
            heat += MARTENSITE_HEAT * turned;
        }
        heat
    }

    /// Takes a spot from `was` °C to where its heat content (J/kg, [`heat_content`]) says, in `seconds`, and adds to the
    /// content the heat set free. Martensite and temperature are solved together: its heat holds back its own progress,
    /// which an explicit step overshoots. Returns the temperature, °C.
    #[inline]
    pub fn settle(&self, spot: &mut Phases, was: f64, content: &mut f64, seconds: f64) -> f64 {
        let mut now = temperature(*content);
        if spot.austenite <= NEGLIGIBLE {
            return now;
        }
        let middle = 0.5 * (was + now);
        if middle < self.starts_c && middle > self.martensite_start_c.max(0.0) {
            let heat = self.diffuse(spot, middle, seconds);
            if heat > 0.0 {
                *content += heat;
                now = temperature(*content);
            }
        }
        let from = spot.coldest.min(self.martensite_start_c);
        if now < from {
            let (all, rate) = (MARTENSITE_HEAT * spot.austenite, self.martensite_rate);
            let target = *content;
            let mut t = now;
            for _ in 0..NEWTON_ROUNDS {
                let left = (-rate * (from - t)).exp();
                let excess = heat_content(t) - all * (1.0 - left) - target;
                let change = excess / (specific_heat(t) + all * rate * left);
                t -= change;
                if change.abs() < 1e-7 {
                    break;
                }
            }
            let turned = spot.austenite * share_turned(rate * (from - t));
            spot.austenite -= turned;
            spot.martensite += turned;
            spot.coldest = t;
            *content = heat_content(t);
            now = t;
        }
        now
    }

    fn diffuse(&self, spot: &mut Phases, t: f64, seconds: f64) -> f64 {
        let i = t as usize;
        let part = t - i as f64;
        let (low, high) = (&self.rates[i], &self.rates[i + 1]);
        let mut hazard = [0.0; 2];
        for k in 0..2 {
            let rate = low[k] + (high[k] - low[k]) * part;
            if rate > 0.0 {
                let u = spot.progress[k] + rate * seconds;
                hazard[k] = self.avrami[k].at(u) - self.avrami[k].at(spot.progress[k]);
                spot.progress[k] = u;
            }
        }
        let total = hazard[0] + hazard[1];
        if total <= 0.0 {
            return 0.0;
        }
        let turned = spot.austenite * share_turned(total);
        let (pearlite, bainite) = (turned * hazard[0] / total, turned * hazard[1] / total);
        spot.austenite -= turned;
        spot.pearlite += pearlite;
        spot.bainite += bainite;
        spot.soft_hv += pearlite * self.pearlite_hv(t) + bainite * self.bainite_hv(t);
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
        Kinetics::new(&d.composition, steel.ac1_c, 9.0, d.martensite_start_c)
    }

    fn cool(kinetics: &Kinetics, rate: f64) -> Phases {
        let mut spot = Phases::hot(1.0, 160.0);
        let mut t = 800.0;
        while t > 20.0 {
            let next = t - 2.0;
            kinetics.advance(&mut spot, t, next, 2.0 / rate);
            t = next;
        }
        spot
    }

    #[test]
    fn a_spot_can_be_thought_slower_and_less_austenitic() {
        let kinetics = kinetics_of("1084");
        let spot = cool(&kinetics, 60.0);
        let (hard, exponent) = (spot.hardened(), kinetics.exponent(&spot));
        assert!((0.05..0.95).contains(&hard), "{hard}");
        let (slower, sooner) = (spot.slower(exponent, 0.3), spot.slower(exponent, -0.3));
        assert!(slower.hardened() > hard && sooner.hardened() < hard);
        let back = slower.slower(exponent, -0.3);
        assert!(
            (back.hardened() - hard).abs() < 1e-9 && (back.hrc(65.0) - spot.hrc(65.0)).abs() < 1e-9
        );
        let part = spot.with_never(0.25, 200.0);
        assert!((part.hardened() - 0.75 * hard).abs() < 1e-9 && part.hrc(65.0) < spot.hrc(65.0));
        let sum = part.austenite + part.pearlite + part.bainite + part.martensite;
        assert!((sum - 1.0).abs() < 1e-9);
    }

    #[test]
    fn the_series_is_the_exponential() {
        for x in [0.0, 1e-6, 0.01, 0.1, 0.149_999, 0.150_001, 2.0] {
            assert!((share_turned(x) - (1.0 - f64::exp(-x))).abs() < 2e-8, "{x}");
        }
    }

    #[test]
    fn held_at_the_nose_it_transforms_as_tabulated() {
        let kinetics = kinetics_of("1084");
        let (time, t) = kinetics.pearlite_nose();
        let mut spot = Phases::hot(1.0, 160.0);
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
        let below = kinetics.martensite_start_c() - 20.0;
        let expected = (-kinetics.martensite_rate() * below).exp() * fast.hardened();
        assert!((fast.austenite - expected).abs() < 0.01);
    }

    #[test]
    fn alloy_slows_it_and_coarse_grain_too() {
        assert!(kinetics_of("o1").pearlite_nose().0 > 5.0 * kinetics_of("1084").pearlite_nose().0);
        let steel = Steel::built_in("1084").unwrap();
        let at = |grain| {
            Kinetics::new(&steel.analysis, 723.0, grain, 170.0)
                .pearlite_nose()
                .0
        };
        assert!(at(5.0) > at(10.0));
    }

    #[test]
    fn what_was_never_austenite_stays_soft() {
        let kinetics = kinetics_of("1050");
        let mut spot = Phases::hot(0.4, 200.0);
        for t in (20..800).rev() {
            kinetics.advance(&mut spot, f64::from(t) + 1.0, f64::from(t), 0.002);
        }
        assert!(spot.pearlite >= 0.6 && spot.hrc(60.0) < 50.0);
    }

    proptest! {
        #[test]
        fn shares_stay_shares(
            temps in proptest::collection::vec(-100.0..1100.0_f64, 2..60), dt in 0.001..50.0_f64,
            steel in 0..46_usize,
        ) {
            let steel = &Steel::table()[steel];
            let d = dissolve(&steel.limits(), steel.austenitize.nominal, steel.soak, Structure::Normalized);
            let kinetics = Kinetics::new(&d.composition, steel.ac1_c, 9.0, d.martensite_start_c);
            let mut spot = Phases::hot(1.0, 160.0);
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
