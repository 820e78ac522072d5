//! Critical temperatures from composition, °C, and the usual heat for hardening.
//!
//! Ac3 by Andrews 1965, "Empirical formulae for the calculation of some transformation temperatures",
//! Journal of the Iron and Steel Institute 203, 721–727. Ac1 in his form with chromium saturating, refitted
//! (rms 6 °C over the built-in table, 9.5 °C over steels it had not seen). Martensite start and the rate at
//! which it proceeds by van Bohemen 2012, "Bainite and martensite start temperature calculated with
//! exponential carbon dependence", Materials Science and Technology 28, 487–495, with chromium, molybdenum
//! and undissolved carbides refitted to published retained austenite.

use crate::material::analysis::Analysis;
use crate::material::equilibrium::{carbide_free_c, equilibrium};
use crate::quantity::units::{Celsius, Quantity};

/// The temperature at which the magnet lets go, °C: the Curie point of iron, 770 °C, or lower where alloy
/// takes Ac1 below that of plain steel and austenite forms first.
#[must_use]
pub fn non_magnetic_c(ac1_c: f64) -> f64 {
    770.0 - (727.0 - ac1_c).clamp(0.0, 100.0)
}

/// Temperature where austenite begins to form on heating, °C.
///
/// ```
/// use vatten_core::material::{analysis::Analysis, critical::ac1_c};
/// let spring = Analysis { carbon: 0.6, manganese: 0.85, silicon: 0.25, chromium: 0.8, ..Analysis::default() };
/// assert!((ac1_c(&spring) - 735.0).abs() < 10.0);
/// ```
#[must_use]
pub fn ac1_c(a: &Analysis) -> f64 {
    let secondary = a.molybdenum_equivalent() * a.chromium / (a.chromium + 1.5);
    723.0 - 9.2 * a.manganese - 14.1 * a.nickel
        + 26.5 * a.silicon
        + 14.5 * a.chromium / (1.0 + a.chromium / 9.0)
        + 16.7 * secondary / (1.0 + secondary / 5.0)
        + 12.3 * a.vanadium / (1.0 + a.vanadium / 2.0)
        + 25.0 * a.nitrogen
}

/// What the terms of phosphorus and aluminium in Andrews 1965 come to in a killed commercial steel, which an
/// analysis does not list: 700·0.015 % P + 400·0.02 % Al, °C.
const RESIDUALS_C: f64 = 18.5;

/// Temperature where the last ferrite turns to austenite in a lean steel, °C. Andrews 1965, with usual residuals.
#[must_use]
pub fn ac3_c(a: &Analysis) -> f64 {
    910.0 - 203.0 * a.carbon.max(0.0).sqrt() - 30.0 * a.manganese - 15.2 * a.nickel
        + 44.7 * a.silicon
        + 104.0 * a.vanadium
        + 31.5 * a.molybdenum
        + 13.1 * a.tungsten
        - 11.0 * a.chromium
        + RESIDUALS_C
}

/// Temperature where the last iron-chromium carbide dissolves in a carbon-rich steel, °C, at most 1250.
///
/// Up to 6 % chromium the straight line of the iron–carbon diagram from 0.77 % at 727 °C to 2.11 % at 1147 °C,
/// raised 20 °C for each percent of chromium: the balance of [`crate::material::equilibrium`] is meant for soaks,
/// which fall short of it. Beyond, that balance.
#[must_use]
pub fn acm_c(a: &Analysis) -> f64 {
    if a.chromium > 6.0 {
        carbide_free_c(a)
    } else {
        727.0 + 313.4 * (a.carbon - 0.77) + 20.0 * a.chromium
    }
}

/// Temperature where martensite starts to form on cooling, °C, from what is *dissolved*.
#[must_use]
pub fn martensite_start_c(dissolved: &Analysis) -> f64 {
    let a = dissolved;
    565.0
        - 600.0 * (1.0 - (-0.96 * interstitial(a)).exp())
        - 31.0 * a.manganese
        - 13.0 * a.silicon
        - 12.2 * a.chromium
        - 18.0 * a.nickel
        - 19.5 * a.molybdenum_equivalent()
        + 8.0 * a.cobalt
}

/// How fast martensite proceeds below its start, 1/K: austenite left is e^(−α·ΔT).
#[must_use]
pub fn martensite_rate(dissolved: &Analysis) -> f64 {
    let a = dissolved;
    1e-3 * (27.2
        - 0.14 * a.manganese
        - 0.21 * a.silicon
        - 0.11 * a.chromium
        - 0.08 * a.nickel
        - 0.05 * a.molybdenum
        - 19.8 * (1.0 - (-1.56 * interstitial(a)).exp()))
    .max(5.0)
}

/// Carbon with what nitrogen counts as, percent.
fn interstitial(a: &Analysis) -> f64 {
    a.carbon + 0.86 * a.nitrogen
}

/// Coolest and hottest that a usual heat is looked for, °C.
const HEATS_C: (f64, f64) = (850.0, 1250.0);

/// Usual heat of a steel with 10.5 % chromium or more, °C: where enough carbon is in solution for a hard,
/// stainless or wear-resisting matrix, less for a steel that is overfull of carbon.
fn chromium_heat_c(a: &Analysis) -> f64 {
    let hottest = equilibrium(a, Celsius::clamped(HEATS_C.1)).austenite.carbon;
    let with_nitrogen = |c: f64| c + 0.2 * a.nitrogen;
    let enough = |t: f64| {
        let held = equilibrium(a, Celsius::clamped(t)).austenite;
        let wanted = (0.52 - 0.02 * (held.chromium - 12.0)).min(with_nitrogen(0.97 * hottest));
        with_nitrogen(held.carbon) >= wanted
    };
    let (mut low, mut high) = HEATS_C;
    for _ in 0..16 {
        let middle = 0.5 * (low + high);
        if enough(middle) {
            high = middle;
        } else {
            low = middle;
        }
    }
    let t = high - 60.0 * (a.carbon - 0.18 * a.vanadium - 1.1).max(0.0);
    if a.carbon < 0.6 { t.max(1020.0) } else { t }
}

/// Usual heat of a steel with up to 8.5 % chromium, °C.
fn alloy_heat_c(a: &Analysis) -> f64 {
    let q = a.chromium / (a.chromium + 2.0);
    let p = a.molybdenum_equivalent() * q;
    796.0 + 31.0 * a.silicon - 5.0 * a.nickel - 2.5 * a.manganese
        + 78.0 * (0.8 - a.carbon).max(0.0)
        + 20.0 * a.chromium
        + 51.0 * p
        + 1.24 * a.molybdenum_equivalent() * p
        + a.vanadium * q
}

/// The heat that a steel of this analysis is usually hardened from, °C; within 25 °C for sixteen of
/// eighteen steels it was not fitted to.
#[must_use]
pub fn usual_heat_c(a: &Analysis) -> f64 {
    const PASSAGE: (f64, f64) = (8.5, 10.5);
    let rich = ((a.chromium - PASSAGE.0) / (PASSAGE.1 - PASSAGE.0)).clamp(0.0, 1.0);
    let mut t = 0.0;
    if rich < 1.0 {
        t += (1.0 - rich) * alloy_heat_c(a);
    }
    if rich > 0.0 {
        t += rich * chromium_heat_c(a);
    }
    t.clamp(ac1_c(a) + 20.0, HEATS_C.1)
}

/// Where melting begins, °C: the eutectic of ledeburitic steels, else the solidus after Takeuchi and
/// Brimacombe 1985, Metallurgical Transactions B 16, 605–625 (for lean steels; carbon beyond 0.5 % by the
/// line of the iron–carbon diagram, 1147 °C at 2.1 %).
#[must_use]
pub fn solidus_c(a: &Analysis) -> f64 {
    let hottest = equilibrium(a, Celsius::clamped(HEATS_C.1));
    if hottest.carbides.share() > 0.01 && (a.chromium > 3.0 || a.molybdenum_equivalent() > 3.0) {
        return 1245.0;
    }
    let alloy = 12.3 * a.silicon + 6.8 * a.manganese + 3.3 * a.nickel + 1.4 * a.chromium;
    let carbon = 415.5 * a.carbon.min(0.17) + 175.0 * (a.carbon - 0.17).max(0.0);
    (1536.0 - alloy - carbon).max(1147.0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn lean(carbon: f64, manganese: f64) -> Analysis {
        Analysis {
            carbon,
            manganese,
            ..Analysis::default()
        }
    }

    #[test]
    fn the_magnet_lets_go_earlier_where_austenite_forms_earlier() {
        assert_eq!(non_magnetic_c(730.0), 770.0);
        assert_eq!(non_magnetic_c(700.0), 743.0);
    }

    #[test]
    fn alloy_moves_the_temperatures_the_way_it_should() {
        let plain = lean(0.8, 0.5);
        let nickel = Analysis {
            nickel: 2.0,
            ..plain
        };
        assert!(ac1_c(&nickel) < ac1_c(&plain));
        assert!(martensite_start_c(&lean(1.0, 0.5)) < martensite_start_c(&plain));
        assert!(acm_c(&lean(1.1, 0.3)) > acm_c(&lean(0.9, 0.3)));
        assert!(ac3_c(&lean(0.3, 0.3)) > ac3_c(&lean(0.6, 0.3)));
    }

    // Usual heats of steels by standard analysis, middles of EN ISO 4957:2018 and ASM Handbook 4 (1991).
    #[rstest]
    #[case("high-speed 6-5-2", Analysis { silicon: 0.3, chromium: 4.15, molybdenum: 5.0, tungsten: 6.2, vanadium: 1.85, ..lean(0.87, 0.3) }, 1215.0, 25.0)]
    #[case("hot work 5Cr-1.3Mo-1V", Analysis { silicon: 1.0, chromium: 5.2, molybdenum: 1.35, vanadium: 1.0, ..lean(0.4, 0.4) }, 1020.0, 25.0)]
    #[case("12Cr-1.5C", Analysis { chromium: 11.8, molybdenum: 0.8, vanadium: 0.8, ..lean(1.55, 0.4) }, 1020.0, 25.0)]
    #[case("5Cr-1Mo-1C", Analysis { chromium: 5.1, molybdenum: 1.1, vanadium: 0.2, ..lean(1.0, 0.7) }, 955.0, 30.0)]
    #[case("plain 0.8 C", lean(0.8, 0.75), 800.0, 20.0)]
    fn the_usual_heat_is_near_the_published_one(
        #[case] name: &str,
        #[case] a: Analysis,
        #[case] published: f64,
        #[case] within: f64,
    ) {
        let got = usual_heat_c(&a);
        assert!((got - published).abs() <= within, "{name}: {got}");
    }

    #[test]
    fn melting_begins_where_the_diagram_says() {
        assert!((solidus_c(&lean(0.1, 0.0)) - 1494.0).abs() < 10.0);
        assert!((solidus_c(&lean(1.0, 0.0)) - 1320.0).abs() < 40.0);
    }
}
