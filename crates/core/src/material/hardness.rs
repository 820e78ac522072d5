//! Hardness of martensite, and conversion between the Rockwell C and Vickers scales.

use crate::quantity::interpolate::{Monotone, linear};
use std::sync::LazyLock;

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

/// Full martensite, HRC by percent carbon dissolved: Hodge and Orehoski 1946, extended above 0.6 %
/// by later measurements; below 0.1 % along the same slope.
static MARTENSITE: LazyLock<Monotone> = LazyLock::new(|| {
    Monotone::new(vec![
        (0.0, 30.0),
        (0.10, 38.5),
        (0.20, 44.0),
        (0.30, 50.5),
        (0.40, 56.0),
        (0.50, 60.5),
        (0.60, 63.3),
        (0.70, 65.0),
        (0.80, 66.1),
        (1.00, 67.0),
    ])
});

/// Hardness of martensite with this much carbon dissolved (percent), before retained austenite is
/// counted, HRC.
#[must_use]
pub fn martensite_hrc(carbon_percent: f64) -> f64 {
    MARTENSITE.at(carbon_percent.clamp(0.0, 1.0))
}

/// What retained austenite costs, HRC: 0.004 times the square of its percentage (fitted to the
/// built-in table; negligible below 10 %).
#[must_use]
pub fn retained_austenite_loss_hrc(retained_percent: f64) -> f64 {
    0.004 * retained_percent * retained_percent
}

/// Retained austenite, percent, after cooling to `coldest_c` with martensite start `ms_c`.
/// Koistinen and Marburger 1959.
#[must_use]
pub fn retained_austenite_percent(ms_c: f64, coldest_c: f64) -> f64 {
    100.0 * (-0.011 * (ms_c - coldest_c).max(0.0)).exp()
}

/// Ferrite that never became austenite, HV.
pub const FERRITE_HV: f64 = 160.0;

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn tabulated_martensite_is_met() {
        for (carbon, hrc) in [(0.1, 38.5), (0.5, 60.5), (0.8, 66.1)] {
            assert!((martensite_hrc(carbon) - hrc).abs() < 1e-9);
        }
        assert_eq!(martensite_hrc(1.4), 67.0);
    }

    #[test]
    fn nothing_transforms_above_martensite_start() {
        assert_eq!(retained_austenite_percent(10.0, 20.0), 100.0);
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

        #[test]
        fn colder_never_leaves_more_austenite(ms in 0.0..400.0_f64, a in -196.0..100.0_f64, b in -196.0..100.0_f64) {
            prop_assert!(retained_austenite_percent(ms, a.min(b)) <= retained_austenite_percent(ms, a.max(b)) + 1e-12);
        }
    }
}
