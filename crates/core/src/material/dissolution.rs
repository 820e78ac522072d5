//! What dissolves in austenite: how much carbon and chromium a soak takes into solution, and what
//! that does to the martensite start.

use crate::material::analysis::Analysis;
use crate::material::critical;
use crate::quantity::units::{Celsius, Kelvins, Seconds};
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

impl Structure {
    /// Time constant of dissolving at a temperature `above_nominal` °C hotter than the steel's nominal
    /// austenitize, seconds. Normalized 45 s, spheroidized 4.5 min, halving every 25 °C.
    #[must_use]
    pub fn time_constant_s(self, above_nominal: Kelvins) -> f64 {
        let nominal = match self {
            Self::Normalized => 45.0,
            Self::Spheroidized => 270.0,
        };
        nominal * 0.5f64.powf((above_nominal.value() / 25.0).clamp(-8.0, 8.0))
    }
}

/// What the austenite holds at the moment of the quench.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Dissolved {
    /// Share of the steel that is austenite, 0 to 1; the rest is ferrite that stays soft.
    pub austenite: f64,
    /// Composition of the austenite, weight percent (carbon and chromium dissolved, the rest in full).
    pub composition: Analysis,
    /// How far dissolving had come towards what this temperature can hold, 0 to 1.
    pub progress: f64,
    /// Temperature where martensite starts, °C.
    pub martensite_start_c: f64,
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
    /// What it holds there.
    pub dissolution: Dissolution,
}

/// What a soak of `soak` at `temperature` dissolves, starting from `structure`.
///
/// Lean steels (all carbon dissolves above Ac3) are partly ferrite between Ac1 and Ac3. Rich steels
/// hold `carbon + per_100c·(T − T_nominal)/100`, at most all they have.
#[must_use]
pub fn dissolve(
    limits: &Limits,
    temperature: Celsius,
    soak: Seconds,
    structure: Structure,
) -> Dissolved {
    let t = temperature.value();
    let above_nominal = t - limits.nominal.value();
    let progress = 1.0
        - (-soak.value().max(0.0) / structure.time_constant_s(Kelvins::of(above_nominal))).exp();
    let lean = limits.dissolution.is_all();
    let total = limits.analysis.carbon;
    let upper = if lean {
        limits.upper_c
    } else {
        limits.ac1_c + 20.0
    };
    let austenite = ((t - limits.ac1_c) / (upper - limits.ac1_c).max(5.0)).clamp(0.0, 1.0);
    let equilibrium = (limits.dissolution.carbon
        + limits.dissolution.carbon_per_100c * above_nominal / 100.0)
        .clamp(0.05, total);
    // A partly austenitic lean steel gathers its carbon in the austenite, up to the eutectoid.
    let equilibrium = if lean && austenite > 0.0 && austenite < 1.0 {
        (equilibrium / austenite).min(equilibrium.max(0.77))
    } else {
        equilibrium
    };
    let carbon = equilibrium * progress;
    let chromium = (limits.dissolution.chromium * equilibrium
        / limits.dissolution.carbon.max(0.05)
        * progress)
        .min(limits.analysis.chromium);
    let composition = Analysis {
        carbon,
        chromium,
        ..limits.analysis
    };
    Dissolved {
        austenite,
        composition,
        progress,
        martensite_start_c: critical::martensite_start_c(&composition),
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
    #[case("1095", 840.0, 6.0, 0.90)]
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
        assert!(short.composition.carbon < 0.6 && long.composition.carbon > 0.78);
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
