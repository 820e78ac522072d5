//! Austenite grain through the whole history of a plan.
//!
//! Growth d⁴ − d₀⁴ = k₀·t·exp(−Q/RT) (after Beck 1948 and later measurements on low-alloy steel),
//! shifted so that ten minutes at the steel's coarsening temperature reach about 30 µm. Every pass up
//! through the critical range starts new grains, about half the size of the old, not below 7 µm. Carbides that do
//! not dissolve pin the grain (Zener, in Smith 1948; the cube root of their share fitted to tool steels).

use crate::material::steel::Steel;
use crate::process::step::{Step, heats};
use crate::quantity::units::{Celsius, Kelvins, Quantity};

/// Growth constant, µm⁴/s.
const GROWTH: f64 = 5e20;
/// Activation energy, J/mol.
const ENERGY: f64 = 400e3;
/// Gas constant, J/mol·K.
const GAS: f64 = 8.314;
/// Where ten minutes reach 30 µm with the constants above, °C.
const REFERENCE_C: f64 = 916.0;
/// Finest grain that a pass through the critical range leaves, µm.
pub const FINEST_UM: f64 = 7.0;
/// Mean grain of a bar as bought, µm.
pub const AS_BOUGHT_UM: f64 = 24.0;
/// Mean grain after forging, when the plan begins with normalizing, µm.
pub const AS_FORGED_UM: f64 = 60.0;

/// ASTM grain size number of a mean intercept, mm (must be above zero). ASTM E112:
/// G = −6.643856·log10(ℓ) − 3.288.
#[must_use]
pub fn astm_number(intercept_mm: f64) -> f64 {
    -6.643_856 * intercept_mm.max(1e-6).log10() - 3.288
}

/// Mean grain, µm, after `seconds` at `temperature_c`, from `grain_um`, in a steel whose grain coarsens
/// at `coarsening_c`.
#[must_use]
pub fn grown_um(grain_um: f64, temperature_c: f64, seconds: f64, coarsening_c: f64) -> f64 {
    let kelvin = (temperature_c + REFERENCE_C - coarsening_c + 273.15).max(300.0);
    let added = GROWTH * seconds.max(0.0) * (-ENERGY / (GAS * kelvin)).exp();
    (grain_um.powi(4) + added).powf(0.25).min(1000.0)
}

/// Coarsest grain that a share of undissolved carbide (0 to 1) lets grow, µm; endless without any.
#[must_use]
pub fn pinned_um(carbides: f64) -> f64 {
    if carbides < 1e-3 {
        f64::INFINITY
    } else {
        12.0 * (0.02 / carbides).cbrt()
    }
}

/// Mean grain of the austenite at the last quench of a plan, µm, with the fire `kiln_c` hotter than set.
#[must_use]
pub fn at_quench_um(steps: &[Step], steel: &Steel, kiln: Kelvins) -> f64 {
    // What comes before the first heat, or only relieves stress, does not tell.
    let first = steps.iter().find(|s| {
        matches!(
            s,
            Step::Normalize { .. }
                | Step::Refine { .. }
                | Step::Anneal { .. }
                | Step::Austenitize { .. }
        )
    });
    let forged = matches!(first, Some(Step::Normalize { .. }));
    let mut grain = if forged { AS_FORGED_UM } else { AS_BOUGHT_UM };
    for (set, seconds) in heats(steps) {
        let t = set + kiln.value();
        if t < steel.ac1_c {
            continue;
        }
        // Every heat goes up through critical anew: the blade cooled since the last.
        let fresh = (0.5 * grain).max(FINEST_UM.min(grain));
        let grown = grown_um(fresh, t, seconds, steel.coarsening_c);
        let limits = steel.limits();
        let carbides = limits.in_the_end(Celsius::clamped(t)).carbides.share();
        grain = grown.min(pinned_um(carbides).max(fresh));
    }
    grain
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::physics::tests::plan;
    use proptest::prelude::*;

    fn run(head: &str, soak: f64, t: f64) -> f64 {
        let plan = plan(&format!(
            r#"[{head}{{"kind":"austenitize","temperature_c":{t},"soak_s":{soak}}},{{"kind":"quench","stages":[{{"medium":"fast_oil"}}]}}]"#
        ));
        at_quench_um(
            plan.steps(),
            Steel::built_in("1084").unwrap(),
            Kelvins::ZERO,
        )
    }

    #[test]
    fn finer_grain_has_the_higher_number() {
        assert!(super::astm_number(0.007) > super::astm_number(0.030));
        assert!(super::astm_number(0.0).is_finite());
    }

    #[test]
    fn ten_minutes_at_the_coarsening_temperature_reach_thirty() {
        for coarsening in [880.0, 950.0, 1150.0] {
            let got = grown_um(9.0, coarsening, 600.0, coarsening);
            assert!((got - 30.0).abs() < 1.5, "{got}");
        }
    }

    #[test]
    fn three_normalizing_heats_refine_and_a_hot_soak_coarsens() {
        let heats = r#"{"kind":"normalize","temperature_c":860,"hold_s":60,"times":3},"#;
        let once = r#"{"kind":"normalize","temperature_c":860,"hold_s":60},"#;
        assert!(run(heats, 300.0, 815.0) < run(once, 300.0, 815.0));
        let coarsening = Steel::built_in("1084").unwrap().coarsening_c;
        assert!(run(heats, 900.0, coarsening + 60.0) > 35.0);
        let usual = astm_number(1e-3 * run(heats, 300.0, 815.0));
        assert!((8.5..10.0).contains(&usual), "{usual}");
    }

    #[test]
    fn carbides_pin_the_grain_of_bearing_and_die_steel() {
        // Grain of the heats in isothermal atlases and tool-steel handbooks: ASTM 9 to 10.
        for (steel, carbides) in [("52100", 0.055), ("d2", 0.12)] {
            let number = astm_number(1e-3 * pinned_um(carbides));
            assert!((9.0..11.5).contains(&number), "{steel}: {number}");
        }
        assert!(pinned_um(0.0).is_infinite());
    }

    proptest! {
        #[test]
        fn hotter_and_longer_never_finer(
            d in 5.0..200.0_f64, t in 600.0..1300.0_f64, more in 0.0..200.0_f64, s in 0.0..40_000.0_f64,
        ) {
            let a = grown_um(d, t, s, 900.0);
            prop_assert!(a >= d - 1e-9 && a.is_finite());
            prop_assert!(grown_um(d, (t + more).min(1300.0), s, 900.0) >= a - 1e-9);
            prop_assert!(grown_um(d, t, s + more, 900.0) >= a - 1e-9);
        }
    }
}
