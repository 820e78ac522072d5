//! What dissolves in austenite: how far a soak takes carbon and alloy into solution on the way to
//! equilibrium, what stays ferrite or carbide, and what that does to martensite start and retained austenite.

use crate::material::analysis::Analysis;
use crate::material::critical;
use crate::material::equilibrium::{Equilibrium, equilibrium};
use crate::material::hardness;
use crate::quantity::units::{Celsius, Kelvins, Quantity, Seconds};
use serde::{Deserialize, Serialize};

/// The structure the steel has when it goes into the fire for hardening.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Structure {
    /// Fine pearlite, as after normalizing or hot rolling: dissolves within a minute.
    Normalized,
    /// Carbides in balls, as annealed or as bought in tool steel: dissolves over many minutes.
    Spheroidized,
}

/// Time constant of dissolving at the nominal heat, s: fine pearlite, and carbides in balls.
const TIME_CONSTANT_S: (f64, f64) = (45.0, 270.0);
/// Share of the carbon that is in solution as soon as austenite has formed: from fine pearlite, and from
/// carbides in balls.
const AT_ONCE: (f64, f64) = (0.85, 0.5);
/// Dissolving is twice as fast for each of these, K: around the heat of plain steels, and in addition where the
/// nominal heat is high. One activation energy doubles less often per degree where it is hot, and the carbides
/// that are in question at a lower heat are then not the stubborn ones.
const TWICE_AS_FAST_K: (f64, f64) = (25.0, 75.0);
/// Nominal heats of plain and of high-speed steels, °C.
const NOMINAL_HEATS_C: (f64, f64) = (850.0, 1200.0);
/// Twice the usual soak takes this much more carbon into solution where iron-chromium carbide is left,
/// percent.
const OVER_SOAK_PERCENT: f64 = 0.02;

impl Structure {
    /// Share of the carbon in solution at once.
    const fn at_once(self) -> f64 {
        match self {
            Self::Normalized => AT_ONCE.0,
            Self::Spheroidized => AT_ONCE.1,
        }
    }

    /// Hardness of what was never austenite, HV: pearlite with its ferrite, or balls in ferrite.
    #[must_use]
    pub fn soft_hv(self, a: &Analysis) -> f64 {
        match self {
            Self::Normalized => 160.0 + 190.0 * a.carbon.min(1.0),
            Self::Spheroidized => 150.0 + 50.0 * a.carbon + 3.0 * a.chromium,
        }
    }
}

/// How much faster than at the nominal heat carbides dissolve `above_nominal` degrees above it.
#[must_use]
pub fn pace(nominal: Celsius, above_nominal: Kelvins) -> f64 {
    let (plain, rich) = NOMINAL_HEATS_C;
    let hot = ((nominal.value() - plain) / (rich - plain)).clamp(0.0, 1.0);
    let doubles_k = TWICE_AS_FAST_K.0 + hot * TWICE_AS_FAST_K.1;
    2f64.powf((above_nominal.value() / doubles_k).clamp(-8.0, 8.0))
}

/// What the austenite holds at the moment of the quench.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Dissolved {
    /// Share of the steel that is austenite, 0 to 1; the rest never was.
    pub austenite: f64,
    /// Composition of the austenite, weight percent.
    pub composition: Analysis,
    /// Share of carbide among the austenite, 0 to 1.
    pub carbides: f64,
    /// How far dissolving had come towards what this temperature can hold, 0 to 1.
    pub progress: f64,
    /// Temperature where martensite starts, °C.
    pub martensite_start_c: f64,
    /// Hardness of what was never austenite, HV.
    pub soft_hv: f64,
}

impl Dissolved {
    /// From a composition of the austenite, all of the steel austenite with this share of carbide.
    #[must_use]
    pub fn of(composition: Analysis, carbides: f64) -> Self {
        Self {
            austenite: 1.0,
            composition,
            carbides,
            progress: 1.0,
            martensite_start_c: critical::martensite_start_c(&composition),
            soft_hv: Structure::Spheroidized.soft_hv(&composition),
        }
    }

    /// The same with another carbon content of the austenite, percent.
    #[must_use]
    pub fn with_carbon(&self, carbon: f64) -> Self {
        let composition = Analysis {
            carbon: carbon.max(0.05),
            ..self.composition
        };
        Self {
            composition,
            martensite_start_c: critical::martensite_start_c(&composition),
            ..*self
        }
    }

    /// Austenite that is retained of what hardens, after cooling to `coldest_c`, 0 to 1. Around undissolved
    /// carbide the austenite is richer than its mean, and keeps more.
    #[must_use]
    pub fn retained(&self, coldest_c: f64) -> f64 {
        let uneven = 1.0 + 0.57 * (1.0 - (-self.carbides / 0.02).exp());
        let below = (self.martensite_start_c - coldest_c).max(0.0);
        let rate = critical::martensite_rate(&self.composition);
        (uneven * (-rate * below).exp()).min(1.0)
    }

    /// Hardness of what hardened with a share `retained` (0 to 1) of austenite in it, untempered, HV.
    #[must_use]
    pub fn hardened_hv(&self, retained: f64) -> f64 {
        hardness::mixture_hv(
            hardness::martensite_hv(&self.composition),
            retained,
            self.carbides,
        )
    }
}

/// What the austenite holds after the nominal soak, weight percent.
#[derive(Debug, Clone, Copy, PartialEq, serde::Serialize)]
pub struct Dissolution {
    /// Carbon dissolved at the nominal temperature.
    pub carbon: f64,
    /// More carbon for each 100 °C above it; zero when all is dissolved.
    pub carbon_per_100c: f64,
    /// Chromium dissolved at the nominal temperature.
    pub chromium: f64,
}

impl Dissolution {
    /// All carbon dissolves: nothing more does above the nominal temperature.
    #[must_use]
    pub fn is_all(&self) -> bool {
        self.carbon_per_100c == 0.0
    }
}

/// What the austenite of a steel can hold, and from where.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Limits {
    /// Analysis, weight percent.
    pub analysis: Analysis,
    /// Austenite begins, °C.
    pub ac1_c: f64,
    /// Ac3 of a lean steel, Acm of a rich one, °C.
    pub upper_c: f64,
    /// Nominal heat for hardening.
    pub nominal: Celsius,
    /// Usual soak there.
    pub soak: Seconds,
    /// Structure that soak is meant for.
    pub usual: Structure,
    /// What it holds there.
    pub dissolution: Dissolution,
    /// Away from the nominal heat its carbon follows the equilibrium instead of the published slope.
    pub by_equilibrium: bool,
}

impl Limits {
    /// Carbon and alloy that the austenite holds in the end at a temperature, and its carbides: the values
    /// known at the nominal heat, moved as the equilibrium moves.
    #[must_use]
    pub fn in_the_end(&self, t: Celsius) -> Equilibrium {
        let (now, nominal) = (
            equilibrium(&self.analysis, t),
            equilibrium(&self.analysis, self.nominal).austenite,
        );
        let d = &self.dissolution;
        let above = t.value() - self.nominal.value();
        let mut found = now;
        let moved = if self.by_equilibrium {
            now.austenite.carbon - nominal.carbon
        } else {
            d.carbon_per_100c * above / 100.0
        };
        found.austenite.carbon =
            (d.carbon + moved).clamp(0.05_f64.min(d.carbon), self.analysis.carbon);
        found.austenite.chromium = (d.chromium + now.austenite.chromium - nominal.chromium)
            .clamp(0.0, self.analysis.chromium);
        found
    }

    /// Time constant of dissolving at the nominal heat, s. A usual soak that is meant for carbides in balls
    /// is long enough for them, also where it is short because the heat is high.
    fn time_constant_s(&self, structure: Structure) -> f64 {
        match (structure, self.usual) {
            (Structure::Normalized, _) => TIME_CONSTANT_S.0,
            (Structure::Spheroidized, Structure::Normalized) => TIME_CONSTANT_S.1,
            (Structure::Spheroidized, Structure::Spheroidized) => {
                TIME_CONSTANT_S.1.min(self.soak.value() / 4.0).max(10.0)
            }
        }
    }

    /// Soak after which nothing more than a twentieth of the carbon is missing, at a heat so far above the
    /// nominal, s.
    #[must_use]
    pub fn soak_needed_s(&self, structure: Structure, above_nominal: Kelvins) -> f64 {
        3.0 * self.time_constant_s(structure) / pace(self.nominal, above_nominal)
    }
}

/// What a soak of `soak` at `temperature` dissolves, starting from `structure`; the time of heating counts
/// as far as it is put into `soak`.
///
/// Lean steels (all carbon dissolves above Ac3) are partly ferrite between Ac1 and Ac3, with the carbon in
/// the austenite. Beyond the usual soak some more carbide dissolves, by 0.02 % carbon for each doubling.
#[must_use]
pub fn dissolve(
    limits: &Limits,
    temperature: Celsius,
    soak: Seconds,
    structure: Structure,
) -> Dissolved {
    let t = temperature.value();
    let lean = limits.dissolution.is_all();
    let total = limits.analysis.carbon;
    let upper = if lean {
        limits.upper_c
    } else {
        limits.ac1_c + 20.0
    };
    let austenite = ((t - limits.ac1_c) / (upper - limits.ac1_c).max(5.0)).clamp(0.0, 1.0);
    let end = limits.in_the_end(temperature);
    // A partly austenitic lean steel gathers its carbon in the austenite, up to the eutectoid.
    let mut most = if lean && austenite > 0.0 && austenite < 1.0 {
        (end.austenite.carbon / austenite).min(end.austenite.carbon.max(0.77))
    } else {
        end.austenite.carbon
    };
    let nominal_time =
        soak.value().max(0.0) * pace(limits.nominal, Kelvins::of(t - limits.nominal.value()));
    let over = (nominal_time / limits.soak.value().max(1.0))
        .max(1.0)
        .log2();
    // The solubility of cementite is what a usual soak reaches; alloy carbides are in equilibrium by then.
    if !lean && end.carbides.chromium > 0.0 {
        most = (most + OVER_SOAK_PERCENT * over).min(total);
    }
    let done = 1.0 - (-nominal_time / limits.time_constant_s(structure)).exp();
    let progress_at = |done: f64| {
        let at_once = structure.at_once();
        at_once + (1.0 - at_once) * done
    };
    // What is known of a steel is known after its usual soak: in the end it holds a little more.
    let usual = 1.0 - (-limits.soak.value() / limits.time_constant_s(limits.usual)).exp();
    let at_usual = limits.usual.at_once() + (1.0 - limits.usual.at_once()) * usual;
    if !lean && !limits.by_equilibrium {
        most = (most / at_usual).min(total);
    }
    let progress = progress_at(done);
    let carbon = most * progress;
    // Alloy starts from what the matrix held when austenite formed.
    let start = equilibrium(&limits.analysis, Celsius::clamped(limits.ac1_c + 10.0)).austenite;
    let along = |from: f64, to: f64| to.min(from) + (to - to.min(from)) * done;
    let e = &end.austenite;
    let composition = Analysis {
        carbon,
        chromium: along(start.chromium, e.chromium),
        molybdenum: along(start.molybdenum, e.molybdenum),
        tungsten: along(start.tungsten, e.tungsten),
        vanadium: along(start.vanadium, e.vanadium),
        niobium: along(start.niobium, e.niobium),
        ..limits.analysis
    };
    Dissolved {
        austenite,
        composition,
        // What is not yet in solution is cementite still, 6.7 % of it carbon.
        carbides: (end.carbides.share() + (most - carbon) / 6.7).min(0.5),
        progress,
        martensite_start_c: critical::martensite_start_c(&composition),
        soft_hv: structure.soft_hv(&limits.analysis),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::steel::Steel;
    use crate::quantity::units::Quantity;
    use rstest::rstest;

    fn soak(steel: &str, t: f64, minutes: f64, structure: Structure) -> Dissolved {
        dissolve(
            &Steel::built_in(steel).unwrap().limits(),
            Celsius::clamped(t),
            Seconds::clamped(minutes * 60.0),
            structure,
        )
    }

    #[rstest]
    #[case("1084", 815.0, 5.0, 0.82)]
    #[case("1095", 800.0, 6.0, 0.80)]
    // Twice as fast every 25 °C: two minutes are as the usual six.
    #[case("1095", 840.0, 2.0, 0.90)]
    #[case("5160", 830.0, 5.0, 0.60)]
    fn nominal_soaks_dissolve_what_is_published(
        #[case] steel: &str,
        #[case] t: f64,
        #[case] minutes: f64,
        #[case] carbon: f64,
    ) {
        let got = soak(steel, t, minutes, Structure::Normalized);
        assert!((got.composition.carbon - carbon).abs() < 0.01, "{got:?}");
        assert!((got.austenite - 1.0).abs() < 1e-9);
    }

    #[test]
    fn a_spheroidized_bar_needs_longer() {
        let short = soak("1084", 815.0, 5.0, Structure::Spheroidized);
        let long = soak("1084", 815.0, 20.0, Structure::Spheroidized);
        assert!(short.composition.carbon < 0.73 && long.composition.carbon > 0.8);
        assert!(short.martensite_start_c > long.martensite_start_c);
    }

    #[test]
    fn below_ac1_nothing_becomes_austenite_and_between_only_part() {
        assert_eq!(
            soak("1050", 700.0, 10.0, Structure::Normalized).austenite,
            0.0
        );
        let part = soak("1050", 745.0, 10.0, Structure::Normalized);
        assert!(part.austenite > 0.2 && part.austenite < 0.8);
        assert!(part.composition.carbon > 0.5);
    }

    #[test]
    fn never_more_carbon_than_the_steel_has() {
        for steel in Steel::table() {
            let hot = dissolve(
                &steel.limits(),
                Celsius::clamped(1250.0),
                Seconds::clamped(36_000.0),
                Structure::Normalized,
            );
            assert!(hot.composition.carbon <= steel.analysis.carbon + 1e-12);
            assert!(hot.composition.chromium <= steel.analysis.chromium + 1e-12);
        }
    }
}
