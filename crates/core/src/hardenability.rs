//! Whether a section hardens through in a medium: the simple rule of critical size.
//!
//! Ideal diameter from composition by the multiplying factors of ASTM A255 (Grossmann 1942), then the
//! thickness of plate whose middle cools to half temperature in the same time as that ideal round
//! (Grossmann, Asimow and Urban 1939), from the exact one-term solution of the heat equation. Half of
//! the structure at that middle is martensite. The factors hold for lean steels; far outside them
//! (air-hardening and stainless) the answer is simply "much thicker than any blade".

use crate::analysis::Analysis;
use crate::medium::Medium;
use crate::units::{Celsius, Seconds};

const INCH_MM: f64 = 25.4;
/// Fourier number at which the centre of a round with infinite surface cooling is at half temperature.
const IDEAL_FOURIER: f64 = 0.2013;
/// Each ASTM grain number finer than 7 lowers hardenability by about this factor (A255).
const PER_GRAIN_NUMBER: f64 = 0.93;
/// Conductivity, W/mK, density, kg/m³, and mean heat capacity of hot steel, J/kgK.
const STEEL: (f64, f64, f64) = (27.0, 7750.0, 620.0);
/// The nose of the pearlite curve has been passed at about this temperature, °C.
const NOSE_C: f64 = 500.0;

/// Ideal critical diameter (half martensite at the centre in an ideal quench), mm, from the
/// composition of the austenite and the ASTM grain number. ASTM A255.
#[must_use]
pub fn ideal_diameter_mm(austenite: &Analysis, grain_astm: f64) -> f64 {
    let c = austenite.carbon.clamp(0.0, 0.9);
    let base = match c {
        c if c <= 0.39 => 0.54 * c,
        c if c <= 0.55 => 0.171 + 0.001 * c + 0.265 * c * c,
        c if c <= 0.65 => 0.115 + 0.268 * c - 0.038 * c * c,
        c if c <= 0.75 => 0.143 + 0.2 * c,
        c => 0.062 + 0.409 * c - 0.135 * c * c,
    };
    let mn = austenite.manganese;
    let manganese = if mn <= 1.2 {
        3.3333 * mn + 1.0
    } else {
        5.1 * mn - 1.12
    };
    INCH_MM
        * base
        * manganese
        * (1.0 + 0.7 * austenite.silicon)
        * (1.0 + 0.363 * austenite.nickel)
        * (1.0 + 2.16 * austenite.chromium)
        * (1.0 + 3.0 * austenite.molybdenum)
        * PER_GRAIN_NUMBER.powf(grain_astm - 7.0)
}

/// Fourier number (on the half thickness) at which the middle of a plate is at half temperature, for
/// a Biot number (on the half thickness) above zero.
fn plate_half_fourier(biot: f64) -> f64 {
    // ζ·tan ζ = Bi by Newton's method, on ζ·sin ζ − Bi·cos ζ, which is smooth up to π/2.
    let mut zeta = (biot / (1.0 + biot / 2.467)).sqrt();
    for _ in 0..6 {
        let (sin, cos) = zeta.sin_cos();
        let slope = sin + zeta * cos + biot * sin;
        zeta = (zeta - (zeta * sin - biot * cos) / slope).clamp(1e-6, std::f64::consts::FRAC_PI_2);
    }
    let c1 = 4.0 * zeta.sin() / (2.0 * zeta + (2.0 * zeta).sin());
    (2.0 * c1).ln() / (zeta * zeta)
}

/// Thickness of plate whose middle is half martensite, mm, for an ideal diameter (mm) and a severity
/// (Grossmann H, 1/inch). Bounded to 0.01 to 1000 mm.
#[must_use]
pub fn critical_thickness_mm(ideal_diameter_mm: f64, severity: f64) -> f64 {
    let wanted = (ideal_diameter_mm / INCH_MM).powi(2) * IDEAL_FOURIER;
    // Bisection on the logarithm: the answer spans five decades.
    let (mut low, mut high) = ((0.01 / INCH_MM).ln(), (1000.0 / INCH_MM).ln());
    for _ in 0..36 {
        let middle = 0.5 * (low + high);
        let thickness = middle.exp();
        if thickness * thickness * plate_half_fourier(severity * thickness) < wanted {
            low = middle;
        } else {
            high = middle;
        }
    }
    (0.5 * (low + high)).exp() * INCH_MM
}

/// One stage of a quench: a medium, its bath temperature, and how long before the next.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Dip {
    /// The medium.
    pub medium: Medium,
    /// Bath temperature.
    pub bath: Celsius,
    /// Time before the next stage; None for the last, which runs until the blade is cold.
    pub time: Option<Seconds>,
}

/// Severity of a sequence of stages for a section of `thickness_mm` quenched from `from`: each
/// stage's H weighted by the share of the fall to 500 °C that happens in it, with the section cooling
/// as one lump.
#[must_use]
pub fn sequence_severity(dips: &[Dip], thickness_mm: f64, from: Celsius) -> f64 {
    let (conductivity, density, heat) = STEEL;
    let start = from.value().max(NOSE_C + 50.0);
    let (mut t, mut sum) = (start, 0.0);
    for dip in dips {
        let h = dip.medium.severity(dip.bath);
        let film = h / (INCH_MM * 1e-3) * 2.0 * conductivity;
        let time_constant = density * heat * thickness_mm * 0.5e-3 / film;
        let end = match dip.time {
            Some(time) => {
                let bath = dip.bath.value();
                (bath + (t - bath) * (-time.value() / time_constant).exp()).max(NOSE_C)
            }
            None => NOSE_C,
        };
        sum += h * (t - end);
        t = end;
        if t <= NOSE_C {
            break;
        }
    }
    // A sequence that stops early goes on in still air.
    (sum + 0.02 * (t - NOSE_C)) / (start - NOSE_C)
}

/// Share of martensite among what was austenite, at the middle of a section, 0 to 1: one half at the
/// critical thickness, 0.94 at two thirds of it, falling about as steeply as an end-quench curve.
#[must_use]
pub fn martensite_share(thickness_mm: f64, critical_mm: f64) -> f64 {
    1.0 / (1.0 + (thickness_mm / critical_mm).powi(6))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::dissolution::{Structure, dissolve};
    use crate::steel::Steel;
    use crate::units::Quantity;
    use proptest::prelude::*;
    use rstest::rstest;

    fn share(steel: &str, medium: Medium, thickness: f64) -> f64 {
        let steel = Steel::built_in(steel).unwrap();
        let nominal = steel.austenitize.nominal;
        let got = dissolve(steel, nominal, steel.soak, Structure::Normalized);
        let dip = Dip {
            medium,
            bath: medium.usual_bath(),
            time: None,
        };
        let h = sequence_severity(&[dip], thickness, nominal);
        let critical = critical_thickness_mm(ideal_diameter_mm(&got.composition, 9.0), h);
        martensite_share(thickness, critical)
    }

    // The first four say what checks.csv says of the same plates; the rest is common experience.
    #[rstest]
    #[case("o1", Medium::MediumOil, 5.0, 0.95, 1.0)]
    #[case("1084", Medium::FastOil, 5.0, 0.80, 1.0)]
    #[case("w2", Medium::SlowOil, 5.0, 0.0, 0.2)]
    #[case("1095", Medium::FastOil, 5.0, 0.0, 0.5)]
    #[case("w2", Medium::Brine, 5.0, 0.6, 1.0)]
    #[case("5160", Medium::MediumOil, 6.0, 0.95, 1.0)]
    #[case("a2", Medium::StillAir, 6.0, 0.95, 1.0)]
    #[case("1084", Medium::StillAir, 3.0, 0.0, 0.05)]
    fn known_sections(
        #[case] steel: &str,
        #[case] medium: Medium,
        #[case] mm: f64,
        #[case] low: f64,
        #[case] high: f64,
    ) {
        let got = share(steel, medium, mm);
        assert!(
            (low..=high).contains(&got),
            "{steel} {medium:?} {mm} mm: {got}"
        );
    }

    #[test]
    fn water_then_oil_lies_between_the_two() {
        let dip = |medium: Medium, time: Option<f64>| Dip {
            medium,
            bath: medium.usual_bath(),
            time: time.map(Seconds::clamped),
        };
        let from = Celsius::clamped(795.0);
        let oil = sequence_severity(&[dip(Medium::FastOil, None)], 5.0, from);
        let both = sequence_severity(
            &[dip(Medium::Water, Some(1.0)), dip(Medium::FastOil, None)],
            5.0,
            from,
        );
        let water = sequence_severity(&[dip(Medium::Water, None)], 5.0, from);
        assert!(oil < both && both < water);
    }

    #[test]
    fn the_plate_solution_meets_its_limits() {
        // Slow cooling: the whole plate as one lump. Infinite cooling: the textbook value 0.379.
        assert!((plate_half_fourier(1e-3) * 1e-3 / 2f64.ln() - 1.0).abs() < 1e-3);
        assert!((plate_half_fourier(1e6) - 0.379).abs() < 1e-3);
        for biot in [0.01, 0.1, 1.0, 10.0, 100.0] {
            assert!(plate_half_fourier(biot) > plate_half_fourier(biot * 1.5));
        }
    }

    proptest! {
        #[test]
        fn a_harsher_quench_never_hardens_less(di in 2.0..200.0_f64, h in 0.02..2.0_f64) {
            prop_assert!(critical_thickness_mm(di, h * 1.1) >= critical_thickness_mm(di, h) - 1e-6);
            prop_assert!(critical_thickness_mm(di * 1.1, h) >= critical_thickness_mm(di, h) - 1e-6);
        }

        #[test]
        fn thicker_never_hardens_more(a in 0.1..20.0_f64, b in 0.1..20.0_f64, critical in 0.5..50.0_f64) {
            prop_assert!(martensite_share(a.max(b), critical) <= martensite_share(a.min(b), critical));
        }
    }
}
