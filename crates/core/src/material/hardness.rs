//! Hardness of martensite, and conversion between the Rockwell C and Vickers scales.

use crate::material::analysis::Analysis;
use crate::quantity::interpolate::linear;

/// Rockwell C against Vickers for hardened steel, ASTM E140 table 1; below 20 HRC the E140 extension.
const E140: [(f64, f64); 42] = [
    (0.0, 160.0),
    (4.0, 173.0),
    (8.0, 188.0),
    (12.0, 204.0),
    (16.0, 222.0),
    (20.0, 238.0),
    (21.0, 243.0),
    (22.0, 248.0),
    (23.0, 254.0),
    (24.0, 260.0),
    (25.0, 266.0),
    (26.0, 272.0),
    (28.0, 286.0),
    (30.0, 302.0),
    (32.0, 318.0),
    (34.0, 336.0),
    (36.0, 354.0),
    (38.0, 372.0),
    (40.0, 392.0),
    (42.0, 412.0),
    (44.0, 434.0),
    (46.0, 458.0),
    (48.0, 484.0),
    (50.0, 513.0),
    (51.0, 528.0),
    (52.0, 544.0),
    (53.0, 560.0),
    (54.0, 577.0),
    (55.0, 595.0),
    (56.0, 613.0),
    (57.0, 633.0),
    (58.0, 653.0),
    (59.0, 674.0),
    (60.0, 697.0),
    (61.0, 720.0),
    (62.0, 746.0),
    (63.0, 772.0),
    (64.0, 800.0),
    (65.0, 832.0),
    (66.0, 865.0),
    (67.0, 900.0),
    (68.0, 940.0),
];

/// Vickers hardness of a Rockwell C hardness. ASTM E140.
#[must_use]
pub fn hv_of_hrc(hrc: f64) -> f64 {
    linear(&E140, hrc)
}

/// Rockwell C hardness of a Vickers hardness, not below zero. ASTM E140.
#[must_use]
pub fn hrc_of_hv(hv: f64) -> f64 {
    let i = E140.partition_point(|p| p.1 <= hv).clamp(1, E140.len() - 1);
    let ((h0, v0), (h1, v1)) = (E140[i - 1], E140[i]);
    (h0 + (h1 - h0) * (hv - v0) / (v1 - v0)).max(0.0)
}

/// Full martensite, HV by percent carbon and half of the nitrogen: Hodge and Orehoski 1946, above 0.6 % by
/// later micro-hardness of martensite alone (Litwinchuk et al. 1976, Krauss 1999), which goes on rising where
/// Rockwell of the whole falls with retained austenite.
const MARTENSITE: [(f64, f64); 12] = [
    (0.0, 302.0),
    (0.1, 376.0),
    (0.2, 434.0),
    (0.3, 521.0),
    (0.4, 614.0),
    (0.5, 707.0),
    (0.6, 766.0),
    (0.7, 832.0),
    (0.8, 880.0),
    (0.9, 930.0),
    (1.0, 985.0),
    (1.2, 1020.0),
];

/// Hardness of plain martensite with this much carbon, HV.
fn plain_martensite_hv(carbon_percent: f64) -> f64 {
    linear(&MARTENSITE, carbon_percent.clamp(0.0, 1.2))
}

/// Hardness of martensite of this composition, HV: chromium beyond 5 % and molybdenum add a little.
#[must_use]
pub fn martensite_hv(dissolved: &Analysis) -> f64 {
    plain_martensite_hv(dissolved.carbon + 0.5 * dissolved.nitrogen)
        + 2.5 * (dissolved.chromium - 5.0).max(0.0)
        + 11.7 * dissolved.molybdenum_equivalent()
}

/// Hardness of plain martensite with this much carbon, no austenite in it, HRC.
#[must_use]
pub fn martensite_hrc(carbon_percent: f64) -> f64 {
    hrc_of_hv(plain_martensite_hv(carbon_percent))
}

/// Retained austenite among martensite, HV: it is strained and hardens under the indenter.
pub const AUSTENITE_HV: f64 = 474.0;
/// Share by which carbide hardens what holds it, for each of its own share.
const CARBIDE_HARDENS: f64 = 0.7;

/// Hardness of martensite, a share `retained` of austenite and a share `carbides` of carbide, HV.
#[must_use]
pub fn mixture_hv(martensite_hv: f64, retained: f64, carbides: f64) -> f64 {
    with_carbides_hv(
        (1.0 - retained) * martensite_hv + retained * AUSTENITE_HV,
        carbides,
    )
}

/// Hardness of a matrix with a share `carbides` of carbide in it, HV.
#[must_use]
pub fn with_carbides_hv(matrix_hv: f64, carbides: f64) -> f64 {
    matrix_hv * (1.0 + CARBIDE_HARDENS * carbides)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn tabulated_martensite_is_met() {
        // Hodge and Orehoski 1946, 99.9 % martensite: 0.2 % C 44 to 46 HRC, 0.4 % 56 to 58, 0.6 % 63 to 65.
        for (carbon, low, high) in [(0.2, 43.0, 46.0), (0.4, 55.0, 58.0), (0.6, 62.0, 65.0)] {
            let got = martensite_hrc(carbon);
            assert!((low..=high).contains(&got), "{carbon}: {got}");
        }
        assert_eq!(martensite_hrc(1.4), martensite_hrc(1.2));
    }

    #[test]
    fn austenite_softens_and_carbide_hardens() {
        let plain = mixture_hv(850.0, 0.0, 0.0);
        assert_eq!(plain, 850.0);
        assert!(mixture_hv(850.0, 0.2, 0.0) < plain && mixture_hv(850.0, 0.0, 0.1) > plain);
        assert_eq!(mixture_hv(850.0, 1.0, 0.0), AUSTENITE_HV);
    }

    proptest! {
        #[test]
        fn conversion_goes_there_and_back(hrc in 0.0..68.0_f64) {
            prop_assert!((hrc_of_hv(hv_of_hrc(hrc)) - hrc).abs() < 1e-6);
        }

        #[test]
        fn more_carbon_never_makes_softer_martensite(a in 0.0..1.2_f64, b in 0.0..1.2_f64) {
            prop_assert!(martensite_hrc(a.min(b)) <= martensite_hrc(a.max(b)) + 1e-9);
        }
    }
}
